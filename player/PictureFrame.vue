<script setup lang="ts">
/** The pictures of a lecture in one frame, and the link cards over them. The first plays the sound. */
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { arrangementAt, rearranged, type ShownSlot } from '#core/picture/layout'
import type { WatchView } from '#core/packages/watch-view'
import type { LayoutPreset, ShareBox } from '#core/schema/edit'
import { keepTogether, type Together } from './together'

const props = defineProps<{ view: WatchView; time: number; wish: LayoutPreset | null; speed: number }>()
const emit = defineEmits<{
  press: [event: MouseEvent]
  leave: []
  ready: [first: HTMLVideoElement]
  follow: [seconds: number]
}>()

const videos = useTemplateRef<HTMLVideoElement[]>('videos')
/** Feeds that this device cannot play beside the first. */
const failed = ref<string[]>([])
const frame = computed(() =>
  props.view.width > 0 ? { width: props.view.width, height: props.view.height } : { width: 16, height: 9 },
)
const sizes = computed(() => new Map(props.view.feeds.map((f) => [f.id, f])))
const laidOut = computed(() => arrangementAt(props.view.layout, props.time)?.slots ?? [])
const whole: ShareBox = { x: 0, y: 0, width: 1, height: 1 }
const slots = computed<readonly ShownSlot[]>(() => {
  const playable = laidOut.value.filter((s) => !failed.value.includes(s.feed))
  const [first] = props.view.feeds
  if (playable.length === 0) return first ? [{ feed: first.id, box: whole }] : []
  if (playable.length < laidOut.value.length) return playable.map(({ feed }) => ({ feed, box: whole })).slice(0, 1)
  return rearranged(playable, props.wish, sizes.value, frame.value)
})
const links = computed(() => props.view.links.filter((l) => props.time >= l.from && props.time < l.to))

const meets = (a: ShareBox, b: ShareBox) =>
  a.x < b.x + b.width - 0.01 && b.x < a.x + a.width - 0.01 && a.y < b.y + b.height - 0.01 && b.y < a.y + a.height - 0.01
const liesOver = (feed: string) => {
  const at = slots.value.findIndex((s) => s.feed === feed)
  return slots.value.some((s, i) => i < at && meets(s.box, (slots.value[at] as ShownSlot).box))
}
/** The mark over the large picture, wherever that stands; what is put in has the whole frame. */
const mark = computed(() => {
  const { watermark } = props.view
  const on = slots.value[0]?.box
  if (!watermark || !on) return null
  const { x, y, width, height } = watermark.box
  const box = { x: on.x + x * on.width, y: on.y + y * on.height, width: width * on.width, height: height * on.height }
  return { url: watermark.url, style: { ...inset(box), opacity: watermark.opacity } }
})
const inset = ({ x, y, width, height }: ShareBox) => ({
  left: `${100 * x}%`,
  top: `${100 * y}%`,
  width: `${100 * width}%`,
  height: `${100 * height}%`,
})
function place(feed: string) {
  const at = slots.value.findIndex((s) => s.feed === feed)
  const slot = slots.value[at]
  return slot
    ? { ...inset(slot.box), zIndex: at, objectFit: slot.fit ?? ('contain' as const) }
    : { visibility: 'hidden' as const }
}

let together: Together[] = []
let ticking: ReturnType<typeof setInterval> | undefined
onMounted(() => {
  const [first, ...others] = videos.value ?? []
  if (!first) return
  emit('ready', first)
  together = others.map((second) => keepTogether(first, second, props.speed, () => performance.now()))
  // A timer, not frames: hidden pages draw none, and still play.
  if (others.length > 0) ticking = setInterval(() => together.forEach((t) => t.tick()), 40)
  first.playbackRate = props.speed
})
watch(
  () => props.speed,
  (speed) => {
    together.forEach((t) => t.setSpeed(speed))
    const [first] = videos.value ?? []
    if (first && together.length === 0) first.playbackRate = speed
  },
)
onBeforeUnmount(() => {
  clearInterval(ticking)
  together.forEach((t) => t.end())
})
</script>

<template>
  <div class="frame" :style="{ '--across': frame.width, '--down': frame.height }">
    <video
      v-for="(feed, i) in view.feeds"
      :key="feed.id"
      ref="videos"
      :src="feed.url"
      :muted="i > 0"
      :style="place(feed.id)"
      :class="{ over: liesOver(feed.id) }"
      preload="metadata"
      playsinline
      :aria-hidden="i > 0 ? 'true' : undefined"
      @click="emit('press', $event)"
      @error="i > 0 && failed.push(feed.id)"
    />
    <img v-if="mark" class="watermark" :src="mark.url" :style="mark.style" alt="" />
    <template v-for="link in links" :key="link.id">
      <component
        :is="'url' in link.target ? 'a' : 'button'"
        class="link"
        :style="{
          ...inset(link.box),
          color: link.ink,
          background: link.ground,
          borderRadius: `calc(${link.corner} * 100cqh)`,
        }"
        v-bind="
          'url' in link.target ? { href: link.target.url, target: '_blank', rel: 'noopener' } : { type: 'button' }
        "
        @click="'at' in link.target ? emit('follow', link.target.at) : emit('leave')"
        >{{ link.words }}</component
      >
    </template>
  </div>
</template>
