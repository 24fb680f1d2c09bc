<script setup lang="ts">
import { Settings2, Trash2 } from 'lucide-vue-next'
import { isHall, missingFrames, perHour, show, withEdge } from '#core/record/inputs'
import type { KnownDevice } from '#core/record/inputs'
import type { InputPlan, Shows } from '#core/schema/setup'
import type { FeedHealth } from '#media/recorder'
import type { RoomInput } from '~/composables/use-inputs'

/** One input: on or off, its device, its settings and what they cost. */
const props = defineProps<{
  input: RoomInput
  devices: readonly KnownDevice[]
  locked: boolean
  removable: boolean
  choosing: boolean
  health: FeedHealth | undefined
}>()
const emit = defineEmits<{ toggle: [boolean]; change: [Partial<InputPlan>]; remove: []; choose: [boolean] }>()
const opened = ref(false)
const plan = computed(() => props.input.plan)
const kind = computed(() =>
  plan.value.source === 'camera' ? 'videoinput' : plan.value.source === 'microphone' ? 'audioinput' : null,
)
const choices = computed(() => props.devices.filter((d) => d.kind === kind.value && d.label))
const shows: { value: Shows; label: string }[] = [
  { value: 'face', label: 'A face' },
  { value: 'slides', label: 'Slides' },
  { value: 'document', label: 'A document camera' },
  { value: 'video', label: 'Moving video' },
]
const sizes = [
  [640, 480],
  [1280, 720],
  [1920, 1080],
  [2560, 1440],
] as const
const size = computed(() => plan.value.picture && `${plan.value.picture.width}×${plan.value.picture.height}`)
const picture = (change: Partial<NonNullable<InputPlan['picture']>>) =>
  plan.value.picture && emit('change', { picture: { ...plan.value.picture, ...change } })
function setSize(value: string): void {
  const [width = 0, height = 0] = value.split('×').map(Number)
  picture({ width, height })
}
const edges = [
  { key: 'x', label: 'Left' },
  { key: 'y', label: 'Top' },
  { key: 'width', label: 'Width' },
  { key: 'height', label: 'Height' },
] as const
const setEdge = (key: 'x' | 'y' | 'width' | 'height', percent: number) =>
  picture({ area: withEdge(plan.value.picture?.area ?? null, key, percent / 100) })
const missing = computed(() => {
  const share = props.health ? missingFrames(props.health) : 0
  return share < 0.01 ? 'no frames lost' : `${Math.round(100 * share)} % of frames lost`
})
const gigabytes = computed(() => (perHour(plan.value.bitrate) / 1e9).toFixed(2))
</script>

<template>
  <div class="input" :class="{ lost: input.state === 'lost' }">
    <div class="line">
      <span class="name"
        >{{ plan.label
        }}<small v-if="health" class="quiet"
          >{{ (health.bytes / 1e6).toFixed(1) }} MB{{ plan.picture ? `, ${missing}` : '' }}</small
        ><small v-else-if="input.state === 'on'" class="quiet mono">{{ gigabytes }} GB/h</small></span
      >
      <el-button
        v-if="removable && !locked"
        text
        size="small"
        :aria-label="`Remove ${plan.label}`"
        @click="emit('remove')"
        ><Trash2 :size="15" aria-hidden="true"
      /></el-button>
      <el-button
        text
        size="small"
        :aria-label="`Settings of ${plan.label}`"
        :aria-expanded="opened"
        @click="opened = !opened"
        ><Settings2 :size="16" aria-hidden="true"
      /></el-button>
      <el-switch
        :model-value="input.state === 'on' || input.state === 'opening'"
        :loading="input.state === 'opening'"
        :disabled="locked"
        :aria-label="plan.label"
        @change="emit('toggle', Boolean($event))"
      />
    </div>
    <p v-if="input.says" class="notice" :class="{ bad: input.state === 'lost' || input.state === 'off' }" role="alert">
      {{ input.says }}
    </p>
    <div v-if="opened" class="settings">
      <template v-if="kind">
        <label :for="`device-${plan.id}`">Device</label>
        <el-select
          :id="`device-${plan.id}`"
          :model-value="plan.deviceId"
          :disabled="locked"
          :aria-label="`Device of ${plan.label}`"
          :placeholder="choices.length ? 'The browser’s choice' : 'Named once it is switched on'"
          @update:model-value="
            emit('change', { deviceId: $event, deviceName: choices.find((d) => d.deviceId === $event)?.label ?? '' })
          "
          ><el-option v-for="d in choices" :key="d.deviceId" :value="d.deviceId" :label="d.label"
        /></el-select>
      </template>
      <template v-if="plan.picture">
        <label :for="`shows-${plan.id}`">Shows</label>
        <el-select
          :id="`shows-${plan.id}`"
          :model-value="plan.picture.shows"
          :disabled="locked"
          :aria-label="`What ${plan.label} shows`"
          @update:model-value="emit('change', show(plan, $event))"
          ><el-option v-for="s in shows" :key="s.value" :value="s.value" :label="s.label"
        /></el-select>
        <template v-if="!isHall(plan.source)">
          <label :for="`size-${plan.id}`">Size</label>
          <el-select
            :id="`size-${plan.id}`"
            :model-value="size"
            :disabled="locked"
            :aria-label="`Size of ${plan.label}`"
            @update:model-value="setSize"
            ><el-option v-for="[w, h] in sizes" :key="w" :value="`${w}×${h}`" :label="`${w} × ${h}`"
          /></el-select>
        </template>
        <label :for="`rate-${plan.id}`">Frames/s</label
        ><el-input-number
          :id="`rate-${plan.id}`"
          size="small"
          :model-value="plan.picture.frameRate"
          :min="1"
          :max="60"
          :disabled="locked"
          :aria-label="`Frames a second of ${plan.label}`"
          @update:model-value="picture({ frameRate: Number($event ?? 15) })"
        />
      </template>
      <label :for="`bits-${plan.id}`">kbit/s</label
      ><el-input-number
        :id="`bits-${plan.id}`"
        size="small"
        :model-value="Math.round(plan.bitrate / 1000)"
        :min="plan.picture ? 100 : 32"
        :max="plan.picture ? 20000 : 320"
        :step="plan.picture ? 100 : 16"
        :disabled="locked"
        :aria-label="`Kilobits a second of ${plan.label}`"
        @update:model-value="emit('change', { bitrate: Math.round(Number($event ?? 96) * 1000) })"
      />
      <template v-if="plan.picture">
        <span>Area</span>
        <div class="area">
          <el-button
            size="small"
            :disabled="locked || input.state !== 'on'"
            :aria-pressed="choosing"
            @click="emit('choose', !choosing)"
            >{{ choosing ? 'Drag over the preview …' : 'Drag an area' }}</el-button
          >
          <el-button v-if="plan.picture.area" size="small" text :disabled="locked" @click="picture({ area: null })"
            >All of it</el-button
          >
          <div class="edges">
            <label v-for="e in edges" :key="e.key"
              >{{ e.label }} %
              <input
                type="number"
                min="0"
                max="100"
                :value="Math.round(100 * (plan.picture.area?.[e.key] ?? (e.key === 'x' || e.key === 'y' ? 0 : 1)))"
                :disabled="locked"
                :aria-label="`${e.label} of the area of ${plan.label}, per cent`"
                @change="setEdge(e.key, Number(($event.target as HTMLInputElement).value))"
            /></label>
          </div>
        </div>
      </template>
    </div>
    <template v-if="input.meter">
      <LevelMeter :label="plan.label" :levels="input.meter.levels" />
      <div class="gain">
        <label :for="`gain-${plan.id}`">Gain</label
        ><el-slider
          :id="`gain-${plan.id}`"
          :model-value="plan.gain"
          :min="0"
          :max="4"
          :step="0.05"
          :aria-label="`Gain of ${plan.label}`"
          :format-tooltip="(g: number) => `${g.toFixed(2)} ×`"
          @update:model-value="emit('change', { gain: Number($event) })"
        />
      </div>
      <p v-if="input.meter.levels.warning" class="notice" role="status">{{ input.meter.levels.warning }}</p>
    </template>
  </div>
</template>

<style scoped>
.input {
  padding: 5px 0;
}
.input + .input {
  border-top: 1px solid var(--hairline);
}
.line {
  display: flex;
  align-items: center;
  gap: 2px;
}
.name {
  flex: 1;
  line-height: 1.25;
}
.name small {
  margin-left: 8px;
}
.line .el-button {
  margin: 0;
  padding: 4px;
}
.line .el-switch {
  margin-left: 6px;
}
.notice {
  margin: 4px 0;
}
.settings {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
  padding: 4px 0 6px;
  font-size: 14px;
}
.settings > label,
.settings > span {
  color: var(--quiet);
}
.area {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.area .el-button {
  margin: 0;
}
.edges {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 10px;
  width: 100%;
  color: var(--quiet);
}
.edges label {
  display: flex;
  justify-content: space-between;
  gap: 6px;
}
.edges input {
  width: 62px;
  border: 1px solid var(--hairline);
  border-radius: 6px;
  padding: 1px 5px;
  font: inherit;
}
.gain {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 14px;
  align-items: center;
  padding-right: 10px;
}
</style>
