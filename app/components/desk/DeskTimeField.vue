<script setup lang="ts">
import { toRecorded, toRecordedEnd, toResult } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded, result } from '#core/time/units'
import { useDesk } from '~/stores/desk'

/**
 * A time of the lecture on the desk. It is kept in recorded time, and read and typed as everything there is: in the time that
 * students see. Where the two differ, the recorded one stands beside.
 */
const props = defineProps<{
  /** Recorded time, s. */
  modelValue: number
  label: string
  /** Whether something ends there: at a seam, it does before. */
  end?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [recordedTime: number] }>()
const desk = useDesk()
const where = computed(() => toResult(desk.map, recorded(props.modelValue)))
const isCut = computed(() => {
  const w = where.value
  return w.kind === 'removed' && !(props.end && props.modelValue <= w.removed.from)
})
const beside = computed(() => {
  const own = `recorded ${formatTimecode(props.modelValue, 2)}`
  if (isCut.value) return `cut out; ${own}`
  return Math.abs(where.value.at - props.modelValue) > 0.005 ? own : undefined
})
/** Half of the last digit that is shown, s: a seam that was read here and is typed is that seam. */
const SHOWN = 0.0051
function set(time: number): void {
  const seam = desk.map.kept.find((k) => Math.abs(k.at - time) < SHOWN)?.at
  const at = seam ?? result(Math.min(time, desk.map.length))
  emit('update:modelValue', (props.end ? toRecordedEnd : toRecorded)(desk.map, at))
}
</script>

<template>
  <TimeField :model-value="where.at" :label="label" :max="desk.map.length" :beside="beside" @update:model-value="set" />
</template>
