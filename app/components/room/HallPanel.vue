<script setup lang="ts">
import { ChevronDown, ChevronLeft, ChevronRight, ChevronUp, ZoomIn, ZoomOut } from 'lucide-vue-next'
import { nudged, shots, type Shot } from '#standins/hall/view'
import type { HallControl } from '#standins/hall/hall'

/**
 * The hall's panel: where the camera looks, what the microphones hear, which slide is shown, and the blank-picture
 * switch.
 */
const props = defineProps<{ hall: HallControl }>()
const emit = defineEmits<{ slide: [title: string] }>()
const follows = ref(false)
const blank = ref(false)
const noise = ref(false)
const visited = ref(false)
const lost = ref(false)
const looking = setInterval(() => {
  lost.value = props.hall.tracking() === 'lost'
}, 300)
onScopeDispose(() => clearInterval(looking))
const slide = ref(props.hall.slide())
const titleOf = (index: number) => props.hall.deck.slides[index]?.title ?? ''

function nudge(by: Parameters<typeof nudged>[1]): void {
  follows.value = false
  props.hall.look(nudged(props.hall.target(), by))
}
function shot(name: Shot): void {
  follows.value = false
  props.hall.shot(name)
}
watch(follows, (on) => props.hall.follow(on))
watch(blank, (on) => props.hall.blank(on))
watch(visited, (on) => props.hall.visit(on))
watch(noise, (on) => props.hall.setNoiseControl(on))
watch(
  () => props.hall,
  (hall) =>
    hall.onSlide((index) => {
      slide.value = index
      emit('slide', titleOf(index))
    }),
  { immediate: true },
)
onScopeDispose(() => props.hall.onSlide(null))
</script>

<template>
  <section class="panel surface" aria-label="The hall">
    <div class="group" role="group" aria-label="Camera">
      <el-button v-for="(s, name) in shots" :key="name" size="small" @click="shot(name as Shot)">{{
        s.label
      }}</el-button>
      <span class="moves">
        <el-button size="small" text aria-label="Pan left" @click="nudge({ x: -0.15 })"
          ><ChevronLeft :size="16"
        /></el-button>
        <el-button size="small" text aria-label="Tilt up" @click="nudge({ y: -0.15 })"
          ><ChevronUp :size="16"
        /></el-button>
        <el-button size="small" text aria-label="Tilt down" @click="nudge({ y: 0.15 })"
          ><ChevronDown :size="16"
        /></el-button>
        <el-button size="small" text aria-label="Pan right" @click="nudge({ x: 0.15 })"
          ><ChevronRight :size="16"
        /></el-button>
        <el-button size="small" text aria-label="Nearer" @click="nudge({ zoom: 1.4 })"><ZoomIn :size="16" /></el-button>
        <el-button size="small" text aria-label="Wider" @click="nudge({ zoom: 1 / 1.4 })"
          ><ZoomOut :size="16"
        /></el-button>
      </span>
      <el-checkbox v-model="follows" title="Works while nobody else is near">Follow the speaker</el-checkbox>
    </div>
    <div class="group" role="group" aria-label="Room">
      <span class="slides"
        ><el-button
          size="small"
          text
          aria-label="Slide before"
          :disabled="slide === 0"
          @click="hall.showSlide(slide - 1)"
          ><ChevronLeft :size="16" /></el-button
        >Slide <span class="mono">{{ slide + 1 }}/{{ hall.deck.slides.length }}</span
        ><el-button
          size="small"
          text
          aria-label="Next slide"
          :disabled="slide + 1 >= hall.deck.slides.length"
          @click="hall.showSlide(slide + 1)"
          ><ChevronRight :size="16" /></el-button
      ></span>
      <el-button
        size="small"
        title="Seen and heard at one moment: shows whether picture and sound go together"
        @click="hall.clap()"
        >Clap</el-button
      >
      <el-checkbox v-model="noise">Noise control</el-checkbox>
      <el-checkbox v-model="blank">Blank the picture</el-checkbox>
      <el-checkbox v-model="visited" title="For trying it out: somebody comes to the speaker with a question"
        >A visitor</el-checkbox
      >
    </div>
    <p v-if="lost" class="notice" role="status">
      Somebody else is near the speaker, and the camera cannot tell them apart. It stays where it is; choose a shot, or
      wait until they are apart.
    </p>
  </section>
</template>

<style scoped>
.panel {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 22px;
  padding: 6px 12px;
  align-items: center;
}
.group {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.group .el-button {
  margin: 0;
}
.moves .el-button,
.slides .el-button {
  padding: 4px;
}
.el-checkbox {
  margin: 0;
}
.notice {
  flex: 1 0 100%;
  margin: 2px 0;
}
</style>
