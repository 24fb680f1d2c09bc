<script setup lang="ts">
/** The cues of a track. Only those near what is seen are drawn: a lecture of two hours has two thousand. */
import { useVirtualizer } from '@tanstack/vue-virtual'
import equal from 'fast-deep-equal'
import { checkCues, mendCue, type CaptionProblem } from '#core/captions/checks'
import { doubtsOf, settleWord } from '#core/captions/doubts'
import { cueAt } from '#core/captions/lookup'
import { speakersOf } from '#core/captions/markup'
import { setPlace, type Place } from '#core/captions/position'
import { setTimes } from '#core/captions/times'
import { confirmCue, joinWithNext, setSpeaker, setText, splitCue } from '#core/captions/track'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { frameLength } from '#core/time/frames'
import { projectRange } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import type { CaptionAct } from '~/utils/caption-keys'
import { injectStrict } from '~/utils/inject'

const props = defineProps<{
  track: CaptionTrack
  opened: string | null
  /** Ids of cues over what is shown at the foot of the picture. */
  covering: ReadonlySet<string>
}>()
const emit = defineEmits<{
  open: [cue: Cue]
  remove: [cue: Cue]
  /**
   * To the next cue with a doubtful word, with a problem, or that nobody has gone through; `settled`: the last doubtful word of
   * this one is settled.
   */
  next: [what: 'doubt' | 'settled' | 'problem' | 'unchecked']
  /** What is offered for the word that was corrected last. */
  offer: [what: 'everywhere' | 'keep-word']
  /** @param says what is done, for the list of what was done */
  change: [next: (track: CaptionTrack) => CaptionTrack, says: string]
}>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const list = useTemplateRef<HTMLElement>('list')
const { measures } = useMeasures()
const cues = computed(() => props.track.cues)
const nowId = computed(() => cueAt(cues.value, desk.recordedTime)?.id)
const speakers = computed<string[]>((last) => {
  const now = speakersOf(cues.value)
  // The same list for as long as it says the same, so that no row is drawn again for it.
  return last && equal(last, now) ? last : now
})
const problems = computed(() => {
  const byCue = new Map<string, CaptionProblem[]>()
  for (const p of checkCues(cues.value, measures.value, props.covering))
    byCue.set(p.cueId, [...(byCue.get(p.cueId) ?? []), p])
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

const at = (cue: Cue) => `at ${desk.sayTime(cue.from, 1)}`
function settle(cue: Cue, index: number, by: string | null): void {
  const said = by === null ? `Confirmed a word ${at(cue)}` : `Took “${by}” ${at(cue)}`
  const isLast = doubtsOf(cue).length === 1
  emit('change', (t) => settleWord(t, cue.id, index, by), said)
  if (isLast) emit('next', 'settled')
}
/** What was typed comes when its row goes, too: also when its cue was deleted. */
function type(cue: Cue, typed: string): void {
  if (cues.value.some((c) => c.id === cue.id))
    emit('change', (t) => setText(t, cue.id, typed), `Changed the words ${at(cue)}`)
}
function confirm(cue: Cue, typed: string): void {
  emit('change', (t) => confirmCue(setText(t, cue.id, typed), cue.id), `Confirmed the cue ${at(cue)}`)
  emit('next', 'unchecked')
}
const time = (cue: Cue, from: number, to: number) =>
  emit(
    'change',
    (t) => setTimes(t, cue.id, { from: recorded(Math.max(0, from)), to: recorded(to) }),
    `Changed the times of the cue ${at(cue)}`,
  )
const place = (cue: Cue, to: Place) =>
  emit('change', (t) => setPlace(t, cue.id, to), `Put the cue ${at(cue)} at the ${to}`)
const speaker = (cue: Cue, name: string) =>
  emit('change', (t) => setSpeaker(t, cue.id, name), `Named who speaks ${at(cue)}`)

/** Whether the cue that is open is played again and again. */
const looping = ref(false)
/** How far before and behind a cue it is played, s: words are not always within their times. */
const AROUND = 0.15
watch(
  () => desk.recordedTime,
  (now) => {
    const cue = looping.value && desk.playing ? cues.value.find((c) => c.id === props.opened) : undefined
    if (cue && (now > cue.to + AROUND || now < cue.from - 1))
      media.seekRecorded(recorded(Math.max(0, cue.from - AROUND)))
  },
)
const speeds = [0.5, 0.75, 1, 1.25, 1.5, 2]
function faster(by: 1 | -1): void {
  const i = speeds.indexOf(media.speed.value)
  media.speed.value = speeds[Math.max(0, Math.min(speeds.length - 1, (i < 0 ? 2 : i) + by))] ?? 1
}
/** Has it play again and again, from its beginning where it is not played yet. */
function loop(cue: Cue): void {
  looping.value = !looping.value
  if (!looping.value) return
  media.seekRecorded(recorded(Math.max(0, cue.from - AROUND)))
  if (!desk.playing) media.play()
}
function neighbour(cue: Cue, by: 1 | -1): void {
  const next = cues.value[cues.value.findIndex((c) => c.id === cue.id) + by]
  if (next) emit('open', next)
}
/** What a key does from a cue that is open. What was typed in it is in the track by now. */
function act(id: string, what: CaptionAct): void {
  const cue = cues.value.find((c) => c.id === id)
  if (!cue) return
  const frame = frameLength(desk.edit?.frameRate ?? 0)
  const acts: Partial<Record<CaptionAct, () => unknown>> = {
    next: () => neighbour(cue, 1),
    previous: () => neighbour(cue, -1),
    doubt: () => emit('next', 'doubt'),
    problem: () => emit('next', 'problem'),
    join: () => emit('change', (t) => joinWithNext(t, cue.id), `Joined two cues ${at(cue)}`),
    everywhere: () => emit('offer', 'everywhere'),
    'keep-word': () => emit('offer', 'keep-word'),
    play: () => media.toggle(),
    back: () => media.step(-2),
    loop: () => loop(cue),
    slower: () => faster(-1),
    faster: () => faster(1),
    'start-here': () => time(cue, desk.recordedTime, cue.to),
    'end-here': () => time(cue, cue.from, desk.recordedTime),
    'start-earlier': () => time(cue, cue.from - frame, cue.to),
    'start-later': () => time(cue, cue.from + frame, cue.to),
    'end-earlier': () => time(cue, cue.from, cue.to - frame),
    'end-later': () => time(cue, cue.from, cue.to + frame),
  }
  acts[what]?.()
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
      :speakers="speakers"
      :looping="looping && cue.id === opened"
      @open="emit('open', cue)"
      @seek="media.seekRecorded(cue.from)"
      @text="type(cue, $event)"
      @confirm="confirm(cue, $event)"
      @times="(from, to) => time(cue, from, to)"
      @place="place(cue, $event)"
      @speaker="speaker(cue, $event)"
      @split="emit('change', (t) => splitCue(t, cue.id, $event, newId()), `Split the cue ${at(cue)}`)"
      @remove="emit('remove', cue)"
      @mend="emit('change', (t) => mendCue(t, cue.id, $event, measures, newId, covering), `Mended the cue ${at(cue)}`)"
      @settle="(index, by) => settle(cue, index, by)"
      @act="act(cue.id, $event)"
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
