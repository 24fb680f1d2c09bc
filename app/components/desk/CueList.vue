<script setup lang="ts">
/** The cues of a track. Only those near what is seen are drawn: a lecture of two hours has two thousand. */
import { useVirtualizer } from '@tanstack/vue-virtual'
import { checkCues, mendCue, type CaptionProblem } from '#core/captions/checks'
import { doubtsOf, settleWord } from '#core/captions/doubts'
import { cueAt } from '#core/captions/lookup'
import { confirmWords, joinWithNext, setText, setTimes, splitCue } from '#core/captions/track'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { projectRange } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

const props = defineProps<{ track: CaptionTrack; opened: string | null }>()
const emit = defineEmits<{
  open: [cue: Cue]
  remove: [cue: Cue]
  /** @param says what is done, for the list of what was done */
  /** To the next cue with a doubtful word. */
  next: []
  change: [next: (track: CaptionTrack) => CaptionTrack, says: string]
}>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const list = useTemplateRef<HTMLElement>('list')
const { measures } = useMeasures()
const cues = computed(() => props.track.cues)
const nowId = computed(() => cueAt(cues.value, desk.recordedTime)?.id)
const problems = computed(() => {
  const byCue = new Map<string, CaptionProblem[]>()
  for (const p of checkCues(cues.value, measures.value)) byCue.set(p.cueId, [...(byCue.get(p.cueId) ?? []), p])
  return byCue
})
const none: CaptionProblem[] = []

const virtual = useVirtualizer(
  computed(() => ({
    count: cues.value.length,
    getScrollElement: () => list.value,
    estimateSize: () => 52,
    overscan: 12,
    getItemKey: (i: number) => cues.value[i]?.id ?? i,
  })),
)
const drawn = computed(() =>
  virtual.value.getVirtualItems().flatMap(({ index }) => {
    const cue = cues.value[index]
    return cue ? [{ cue, index }] : []
  }),
)
/** Room for those that are not drawn, px. */
const room = computed(() => {
  const items = virtual.value.getVirtualItems()
  return { before: items[0]?.start ?? 0, after: virtual.value.getTotalSize() - (items.at(-1)?.end ?? 0) }
})
const measure = (row: unknown) => virtual.value.measureElement((row as { $el?: HTMLElement } | null)?.$el ?? null)

const at = (cue: Cue) => `at ${formatTimecode(cue.from, 1)}`
function settle(cue: Cue, index: number, by: string | null): void {
  const said = by === null ? `Confirmed a word ${at(cue)}` : `Took “${by}” ${at(cue)}`
  const isLast = doubtsOf(cue).length === 1
  emit('change', (t) => settleWord(t, cue.id, index, by), said)
  if (isLast) emit('next')
}
/** What was typed comes when its row goes, too: also when its cue was deleted. */
function type(cue: Cue, plain: string): void {
  if (cues.value.some((c) => c.id === cue.id))
    emit('change', (t) => setText(t, cue.id, plain), `Changed the words ${at(cue)}`)
}

watch([nowId, () => props.opened], async () => {
  await nextTick()
  const id = props.opened ?? nowId.value
  const scroller = list.value
  if (!id || !scroller) return
  const line = scroller.querySelector<HTMLElement>(`[data-cue="${id}"]`)
  if (line) scroller.scrollTo({ top: line.offsetTop - scroller.clientHeight / 3, behavior: 'smooth' })
  else
    virtual.value.scrollToIndex(
      cues.value.findIndex((c) => c.id === id),
      { align: 'center' },
    )
})
</script>

<template>
  <ol
    ref="list"
    class="cues"
    aria-label="Cues"
    :style="{ '--before': `${room.before}px`, '--after': `${room.after}px` }"
  >
    <CueRow
      v-for="{ cue, index } in drawn"
      :key="cue.id"
      :ref="measure"
      :data-index="index"
      :aria-posinset="index + 1"
      :aria-setsize="cues.length"
      :cue="cue"
      :now="cue.id === nowId"
      :open="cue.id === opened"
      :last="index === cues.length - 1"
      :gone="projectRange(desk.map, cue).pieces.length === 0"
      :problems="problems.get(cue.id) ?? none"
      @open="emit('open', cue)"
      @seek="media.seekRecorded(cue.from)"
      @text="type(cue, $event)"
      @times="
        (from, to) =>
          emit(
            'change',
            (t) => setTimes(t, cue.id, recorded(from), recorded(to)),
            `Changed the times of the cue ${at(cue)}`,
          )
      "
      @split="emit('change', (t) => splitCue(t, cue.id, $event, newId()), `Split the cue ${at(cue)}`)"
      @join="emit('change', (t) => joinWithNext(t, cue.id), `Joined two cues ${at(cue)}`)"
      @remove="emit('remove', cue)"
      @mend="emit('change', (t) => mendCue(t, cue.id, $event, measures, newId), `Mended the cue ${at(cue)}`)"
      @settle="(index, by) => settle(cue, index, by)"
      @next="emit('next')"
      @confirm="emit('change', (t) => confirmWords(t, cue.id), `Confirmed the words ${at(cue)}`)"
    />
  </ol>
</template>

<style scoped>
.cues {
  list-style: none;
  padding: 0;
  margin: 0;
  overflow: auto;
  overflow-anchor: none;
  flex: 1;
  min-height: 120px;
  position: relative;
}
.cues::before,
.cues::after {
  content: '';
  display: block;
}
.cues::before {
  height: var(--before);
}
.cues::after {
  height: var(--after);
}
</style>
