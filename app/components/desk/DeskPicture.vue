<script setup lang="ts">
import { Pause, Play, SkipBack, SkipForward } from 'lucide-vue-next'
import { cueAt } from '#core/captions/lookup'
import { spansOf } from '#core/captions/markup'
import { standingOf } from '#core/captions/position'
import { frameLength } from '#core/time/frames'
import { insertAt } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

/** Whether things are placed on the picture. */
defineProps<{ editable: boolean }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
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
/** Takes whose file was not copied whole. */
const cutOff = computed(() =>
  desk.takes.flatMap((take) => (take.state === 'broken' && take.source ? [{ ...take, source: take.source }] : [])),
)
const frame = computed(() => media.script.value?.frame ?? null)
const further = computed(() =>
  desk.recording && (desk.recordingIs === 'recording' || desk.recordingIs === 'settling')
    ? 'A further take is being made ready; it will stand after what is here.'
    : '',
)

const sounds = computed(() => media.near.value.filter((p) => p.isSound))
const line = computed(() =>
  desk.captions && !(desk.peek === null && insertAt(desk.map, desk.time))
    ? cueAt(desk.captions.cues, desk.recordedTime)
    : undefined,
)
const standing = computed(() => standingOf(line.value ?? {}))
const step = (frames: number) => media.step(frames * frameLength(desk.edit?.frameRate ?? 0))
</script>

<template>
  <section class="picture" aria-label="Picture">
    <div class="box" @click="media.toggle()">
      <BringAgain v-if="!desk.recording && cutOff[0]" :take="cutOff[0]" @click.stop />
      <p v-else-if="waiting" class="wait" role="status">{{ waiting }}</p>
      <p v-else-if="media.problem.value" class="wait" role="alert">{{ media.problem.value }}</p>
      <div v-else-if="frame" class="frame" :style="{ aspectRatio: `${frame.width} / ${frame.height}` }">
        <ScriptLayers :frame="frame" />
        <StageMarks :frame="frame" :editable="editable" />
        <p v-if="line" class="caption" :class="[standing.line, standing.align]">
          <span
            ><template v-for="(s, i) in spansOf(line.text)" :key="i"
              ><b v-if="s.speaker">{{ s.speaker }}: </b
              ><span :class="{ i: s.italic, b: s.bold, u: s.underlined }">{{ s.text }}</span></template
            ></span
          >
        </p>
        <p v-if="desk.peek !== null" class="gone">Taken out</p>
      </div>
      <p v-else class="wait">Sound only</p>
      <audio
        v-for="s in sounds"
        :key="`${s.key} ${s.url}`"
        :ref="(el) => media.attach(s.key, el as HTMLAudioElement | null)"
        :class="{ on: media.isOn(s) }"
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
        ><strong>{{ formatTimecode(desk.time, 2) }}</strong> of {{ formatTimecode(desk.map.length, 1) }}</span
      >
      <span class="mono quiet" title="In the recording">recorded {{ formatTimecode(desk.recordedTime, 2) }}</span>
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
  container-type: inline-size;
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
  background: #000;
}
.frame {
  position: relative;
  width: min(100cqw, 100cqh * 16 / 9);
  max-height: 100%;
  max-width: 100%;
  overflow: hidden;
  container-type: size;
  background: #000;
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
.caption.top {
  inset: 4% 6% auto;
}
.caption.left {
  text-align: left;
}
.caption.right {
  text-align: right;
}
.caption .i {
  font-style: italic;
}
.caption .b {
  font-weight: 700;
}
.caption .u {
  text-decoration: underline;
}
.caption > span {
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
@container (max-width: 480px) {
  .controls {
    flex-wrap: wrap;
  }
}
.controls :deep(.el-button + .el-button) {
  margin-left: 0;
}
.times {
  font-size: 15px;
  white-space: nowrap;
}
.controls .quiet {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.grow {
  flex: 1 1 0;
}
.speed {
  flex: none;
  width: 88px;
}
/* Where the picture is narrow, so are the steps between what stands under it. */
@container (max-width: 620px) {
  .controls {
    gap: 4px;
  }
  .controls > :deep(.is-text) {
    padding-inline: 8px;
  }
  .times {
    font-size: 14px;
  }
  .speed {
    width: 68px;
  }
}
</style>
