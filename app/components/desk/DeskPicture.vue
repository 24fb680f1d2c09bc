<script setup lang="ts">
import { Pause, Play, SkipBack, SkipForward } from 'lucide-vue-next'
import { layoutAt } from '#core/edit/edit'
import { arrange, type Box, type Size } from '#core/picture/layout'
import { shownFeeds, type PlacedFeed } from '#core/record/recording'
import { recordingFrame } from '#core/render/script'
import { strokesAt } from '#core/picture/strokes'
import { cueAt } from '#core/captions/lookup'
import { plainText } from '#core/captions/text'
import { frameLength } from '#core/time/frames'
import { toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { useDesk } from '~/stores/desk'
import { takeMediaKey } from '~/composables/use-take-media'
import { injectStrict } from '~/utils/inject'

const desk = useDesk()
const media = injectStrict(takeMediaKey)
const waiting = computed(() =>
  desk.recording
    ? ''
    : {
        none: '',
        whole: '',
        recording: 'This lecture is being recorded.',
        settling: 'The recording is being made ready …',
        broken: desk.takes.map((t) => t.note).join(' '),
      }[desk.recordingIs],
)
const further = computed(() =>
  desk.recording && desk.recordingIs !== 'whole'
    ? 'A further take is being made ready; it will stand after what is here.'
    : '',
)

const sizes = computed(() => {
  const of = (kind: string) => media.shown.value.find((u) => u.feed.kind === kind)?.feed ?? null
  return { screen: of('screen'), camera: of('camera') }
})
const layout = computed(() => {
  const frame = desk.edit && desk.recording && recordingFrame(shownFeeds(desk.recording), desk.edit)
  return desk.edit && frame ? { frame, placed: arrange(layoutAt(desk.edit, desk.time), sizes.value, frame) } : null
})
const isInset = computed(
  () => desk.edit !== null && layoutAt(desk.edit, desk.time) === 'inset' && layout.value?.placed.length === 2,
)
const boxStyle = ({ kind, takeId }: PlacedFeed) => {
  const placed = takeId === media.takeId.value ? layout.value?.placed.find((p) => p.kind === kind) : undefined
  const frame = layout.value?.frame
  if (!placed || !frame) return { display: 'none' }
  return shares(placed.box, frame)
}
const shares = (box: Box, frame: Size) => {
  const pct = (part: number, whole: number) => `${(100 * part) / whole}%`
  return {
    left: pct(box.x, frame.width),
    top: pct(box.y, frame.height),
    width: pct(box.width, frame.width),
    height: pct(box.height, frame.height),
  }
}
/** What was drawn over the screen lies on the screen, wherever that stands; nowhere while it is not seen. */
const drawnOver = computed(() => {
  const screen = layout.value?.placed.find((p) => p.kind === 'screen')
  return screen?.box ?? (sizes.value.screen || !layout.value ? null : { x: 0, y: 0, ...layout.value.frame })
})
const pictures = computed(() => media.near.value.filter((u) => u.feed.kind !== 'sound'))
const sounds = computed(() => media.near.value.filter((u) => u.feed.kind === 'sound'))
const strokes = computed(
  () =>
    desk.edit?.stretches.flatMap(({ from, to, what }) =>
      what.kind === 'strokes' && desk.time >= from && desk.time < to ? strokesAt(what.strokes, desk.time - from) : [],
    ) ?? [],
)
const line = computed(() => (desk.captions ? cueAt(desk.captions.cues, desk.time) : undefined))
const where = computed(() => toResult(desk.map, desk.time))
const step = (frames: number) => media.seek(recorded(desk.time + frames * frameLength(desk.edit?.frameRate ?? 0)))
</script>

<template>
  <section class="picture" aria-label="Picture">
    <div class="box" @click="media.toggle()">
      <p v-if="waiting" class="wait" role="status">{{ waiting }}</p>
      <div v-else-if="layout" class="frame" :style="{ aspectRatio: `${layout.frame.width} / ${layout.frame.height}` }">
        <video
          v-for="p in pictures"
          :key="p.key"
          :ref="(el) => media.attach(p, el as HTMLVideoElement | null)"
          :src="p.url"
          :style="boxStyle(p.feed)"
          :class="{ inset: p.feed.kind === 'camera' && isInset }"
          muted
          playsinline
          preload="auto"
          :aria-label="p.feed.label"
        />
        <div v-if="strokes.length && drawnOver" class="drawn" :style="shares(drawnOver, layout.frame)">
          <StrokeLayer :strokes="strokes" :aspect="drawnOver.width / drawnOver.height" />
        </div>
        <p v-if="line" class="caption">
          <span>{{ plainText(line.text) }}</span>
        </p>
        <p v-if="where.kind === 'removed'" class="gone">Taken out</p>
      </div>
      <p v-else class="wait">Sound only</p>
      <audio
        v-for="s in sounds"
        :key="s.key"
        :ref="(el) => media.attach(s, el as HTMLAudioElement | null)"
        :src="s.url"
        preload="auto"
      />
    </div>
    <p v-if="further" class="notice" role="status">{{ further }}</p>
    <div class="controls">
      <el-button
        circle
        :aria-label="desk.playing ? 'Pause' : 'Play'"
        type="primary"
        :disabled="!media.ready.value"
        @click="media.toggle()"
        ><Pause v-if="desk.playing" :size="18" /><Play v-else :size="18"
      /></el-button>
      <el-button circle aria-label="One frame back" @click="step(-1)"><SkipBack :size="15" /></el-button>
      <el-button circle aria-label="One frame on" @click="step(1)"><SkipForward :size="15" /></el-button>
      <span class="mono times"
        ><strong>{{ formatTimecode(where.at, 2) }}</strong> of {{ formatTimecode(desk.map.length, 1) }}</span
      >
      <span class="mono quiet" title="In the recording">recorded {{ formatTimecode(desk.time, 2) }}</span>
      <span class="grow" />
      <slot />
      <el-select v-model="media.speed.value" aria-label="Speed" class="speed"
        ><el-option v-for="s in [0.5, 0.75, 1, 1.25, 1.5, 2]" :key="s" :value="s" :label="`${s} ×`"
      /></el-select>
    </div>
  </section>
</template>

<style scoped>
.picture {
  display: flex;
  flex-direction: column;
  min-height: 0;
  gap: 8px;
}
.box {
  flex: 1;
  min-height: 0;
  background: #10181b;
  border-radius: var(--surface-radius);
  display: grid;
  place-items: center;
  overflow: hidden;
  container-type: size;
}
.frame {
  position: relative;
  width: min(100cqw, 100cqh * 16 / 9);
  max-height: 100%;
  max-width: 100%;
}
video {
  position: absolute;
  object-fit: contain;
  background: #10181b;
}
video.inset {
  outline: 2px solid #fff;
  z-index: 1;
}

.drawn {
  position: absolute;
  z-index: 1;
  pointer-events: none;
}
.caption {
  position: absolute;
  inset: auto 6% 4%;
  margin: 0;
  text-align: center;
  white-space: pre-line;
  font-size: clamp(13px, 2.6cqw, 20px);
  line-height: 1.35;
  z-index: 2;
  pointer-events: none;
}
.caption span {
  background: rgb(12 20 23 / 86%);
  color: #fff;
  padding: 1px 8px;
  border-radius: 4px;
  box-decoration-break: clone;
  -webkit-box-decoration-break: clone;
}
.gone {
  position: absolute;
  top: 10px;
  left: 10px;
  background: var(--ember);
  color: #fff;
  padding: 1px 10px;
  border-radius: 6px;
  z-index: 2;
}
.wait {
  color: #dfe7e6;
}
.notice {
  margin: 0;
}
.controls {
  display: flex;
  align-items: center;
  gap: 8px;
}
.controls :deep(.el-button + .el-button) {
  margin-left: 0;
}
.times {
  font-size: 15px;
}
.grow {
  flex: 1;
}
.speed {
  width: 88px;
}
</style>
