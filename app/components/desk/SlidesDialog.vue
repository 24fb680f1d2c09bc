<script setup lang="ts">
import { sayCount } from '#core/text/words'
import { errorMessage } from '#core/text/error-message'
import { openSlides, type SlideFile } from '~/services/slides'

/** Chooses pages of a PDF file; they are given out as pictures, in order. */
const props = defineProps<{ file: File; action: string }>()
const emit = defineEmits<{ close: []; take: [pictures: File[]] }>()
const slides = shallowRef<SlideFile | null>(null)
const small = ref<Record<number, string>>({})
const chosen = ref<number[]>([])
const problem = ref('')
const drawing = ref(false)
let closed = false

async function open(): Promise<void> {
  try {
    const opened = await openSlides(props.file)
    slides.value = opened
    if (opened.pages === 1) chosen.value = [1]
    for (let page = 1; page <= opened.pages && !closed; page++)
      small.value[page] = URL.createObjectURL(await opened.small(page))
  } catch (error) {
    if (!closed) problem.value = errorMessage(error)
  }
}
void open()
onBeforeUnmount(() => {
  closed = true
  void slides.value?.close()
  Object.values(small.value).forEach((url) => URL.revokeObjectURL(url))
})
const toggle = (page: number) => {
  chosen.value = chosen.value.includes(page)
    ? chosen.value.filter((p) => p !== page)
    : [...chosen.value, page].sort((a, b) => a - b)
}
const all = () => {
  chosen.value = Array.from({ length: slides.value?.pages ?? 0 }, (_, i) => i + 1)
}
async function take(): Promise<void> {
  const from = slides.value
  if (!from) return
  drawing.value = true
  try {
    const pictures: File[] = []
    for (const page of chosen.value) pictures.push(await from.picture(page))
    emit('take', pictures)
    emit('close')
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    drawing.value = false
  }
}
</script>

<template>
  <el-dialog :model-value="true" :title="`Slides of “${file.name}”`" width="min(760px, 94vw)" @close="emit('close')">
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-else-if="!slides" role="status">The file is being opened …</p>
    <ul v-else class="pages" aria-label="Pages">
      <li v-for="page in slides.pages" :key="page">
        <button type="button" :aria-label="`Page ${page}`" :aria-pressed="chosen.includes(page)" @click="toggle(page)">
          <img v-if="small[page]" :src="small[page]" alt="" /><span v-else class="blank" />
          {{ page }}
        </button>
      </li>
    </ul>
    <template #footer>
      <el-button :disabled="!slides" @click="all">All of them</el-button>
      <el-button type="primary" :disabled="chosen.length === 0 || drawing" :loading="drawing" @click="take"
        >{{ action }} {{ sayCount(chosen.length, 'slide', 'slides') }}</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.pages {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 10px;
  max-height: 52vh;
  overflow: auto;
  list-style: none;
  margin: 0;
  padding: 4px;
}
.pages button {
  display: grid;
  gap: 4px;
  justify-items: center;
  width: 100%;
  padding: 6px;
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  background: var(--paper);
  cursor: pointer;
}
.pages [aria-pressed='true'] {
  outline: 3px solid var(--tarn);
  background: var(--tarn-wash);
}
.pages img,
.blank {
  width: 100%;
  aspect-ratio: 16 / 9;
  object-fit: contain;
  background: #eef1ec;
}
</style>
