<script setup lang="ts">
import { retime } from '#core/captions/times'
import { InvalidCaptionChange } from '#core/captions/track'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { sayCount } from '#core/text/words'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'

/** Moves cues that sit wrongly – all, those from the open one on, or those chosen on the time line – by one instant, or stretched by two. */
const props = defineProps<{ track: CaptionTrack; opened: Cue | null }>()
const emit = defineEmits<{ done: [] }>()
const desk = useDesk()
const chosen = useChosen()
const first = reactive({ now: props.track.cues[0]?.from ?? 0, belongs: props.track.cues[0]?.from ?? 0 })
const last = props.track.cues.at(-1)
const second = reactive({ now: last?.from ?? 0, belongs: last?.from ?? 0 })
const stretched = ref(false)
const problem = ref('')
const rows = computed(() => (stretched.value ? [first, second] : [first]))

/** Cues that are chosen on the time line. */
const picked = computed(() => chosen.items.filter((c) => c.ref.kind === 'captions').map((c) => c.ref.id))
const which = ref<'all' | 'on' | 'picked'>(picked.value.length > 1 ? 'picked' : 'all')
const ids = computed(() => {
  const from = which.value === 'on' ? (props.opened?.from ?? 0) : 0
  if (which.value === 'picked') return new Set(picked.value)
  return new Set(props.track.cues.filter((c) => c.from >= from).map((c) => c.id))
})

async function move(): Promise<void> {
  try {
    problem.value = ''
    const next = retime(props.track, first, stretched.value ? second : null, desk.map.duration, ids.value)
    const many = sayCount(ids.value.size, 'cue', 'cues')
    await desk.changeCaptions(next, { says: `${stretched.value ? 'Stretched' : 'Shifted'} the times of ${many}` })
    emit('done')
  } catch (error) {
    if (!(error instanceof InvalidCaptionChange)) throw error
    problem.value = error.message
  }
}
</script>

<template>
  <form class="retime" aria-label="Shift or stretch times" @submit.prevent="move">
    <el-radio-group v-model="which" aria-label="Which cues">
      <el-radio value="all">All cues</el-radio>
      <el-radio value="on" :disabled="!opened">From the open one on</el-radio>
      <el-radio value="picked" :disabled="picked.length === 0"
        >The {{ picked.length || '' }} chosen on the time line</el-radio
      >
    </el-radio-group>
    <div v-for="(row, i) in rows" :key="i" class="row">
      <DeskTimeField
        :model-value="row.now"
        :label="`What stands at${rows.length > 1 ? ` (${i + 1})` : ''}`"
        @update:model-value="row.now = $event"
      />
      <el-button size="small" :disabled="!opened" @click="row.now = opened?.from ?? row.now">The open cue</el-button>
      <DeskTimeField
        :model-value="row.belongs"
        :label="`belongs at${rows.length > 1 ? ` (${i + 1})` : ''}`"
        @update:model-value="row.belongs = $event"
      />
      <el-button size="small" @click="row.belongs = desk.recordedTime">The playhead</el-button>
    </div>
    <el-checkbox v-model="stretched">They drift: stretch between two instants</el-checkbox>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <div>
      <el-button native-type="submit" type="primary" size="small"
        >Move {{ sayCount(ids.size, 'cue', 'cues') }}</el-button
      ><el-button size="small" @click="emit('done')">Cancel</el-button>
    </div>
  </form>
</template>

<style scoped>
.retime {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px 10px;
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  flex: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: end;
}
p {
  margin: 0;
}
</style>
