import { computed, type InjectionKey } from 'vue'
import { rangeOf, type ItemRef, type Timed } from '#core/documents/items'
import { spokenWords } from '#core/captions/spoken'
import { joinSlides } from '#core/record/recording'
import { sortTargets, type SnapTarget } from '#core/time/snap'
import { seenFrom, toResult } from '#core/time/time-map'
import { recorded, type RecordedTime } from '#core/time/units'
import { useDesk } from '~/stores/desk'

/** What one can jump by. */
export const stopKinds = [
  { key: 'cut', label: 'cut' },
  { key: 'silence', label: 'silence' },
  { key: 'slide', label: 'slide' },
  { key: 'caption', label: 'caption' },
  { key: 'chapter', label: 'chapter' },
  { key: 'mark', label: 'mark' },
] as const
export type StopKind = (typeof stopKinds)[number]['key']

/** From so many px per second on words, and silences, stand apart. */
const APART = { words: 60, silences: 15 }

/** Where something begins or ends on the time line: what the playhead jumps to and what is dragged snaps to. */
export function useStops() {
  const desk = useDesk()
  const { silences } = useSoundFound(() => desk.recording)
  const { slides } = useStills(() => desk.recording)
  const shown = computed(() => {
    const { recording } = desk
    const found = slides.value.map((s) => s.at)
    return recording ? seenFrom(desk.map, joinSlides(recording, found)) : []
  })
  const edges = (ranges: readonly { from: number; to: number }[]) => ranges.flatMap((r) => [r.from, r.to])
  const instants = computed<Record<StopKind, readonly number[]>>(() => ({
    cut: [...edges(desk.map.removed), ...(desk.edit?.splits ?? []).map((s) => s.at)],
    silence: silences.value.map((s) => s.to),
    slide: shown.value.map((s) => s.at),
    caption: (desk.captions?.cues ?? []).map((c) => c.from),
    chapter: (desk.chapters?.chapters ?? []).map((c) => c.at),
    mark: desk.recording?.markers ?? [],
  }))

  /** Instants of the result that one jumps to, s, in order. */
  const stops = (kind: StopKind): number[] => {
    const found = instants.value[kind].map((t) => toResult(desk.map, recorded(t)))
    const inserts = kind === 'cut' ? desk.map.inserts.flatMap((i) => [i.at, i.at + i.length]) : []
    const seen = found.flatMap((r) => (r.kind === 'kept' || kind === 'cut' ? [r.at as number] : []))
    return [...new Set([...seen, ...inserts])].sort((a, b) => a - b)
  }

  const named = (times: readonly number[], what: string): SnapTarget[] =>
    times.map((at) => ({ at: recorded(at), what }))
  /**
   * What something that is dragged snaps to.
   * @param held what is dragged, which does not snap to itself
   * @param near only words between these instants are of use, s
   * @param scale px per second: words and silences that stand too near one another are of no use
   */
  function targets(
    held: readonly ItemRef[],
    near: { from: RecordedTime; to: RecordedTime },
    scale: number,
  ): SnapTarget[] {
    const isHeld = (id: string) => held.some((h) => h.id === id)
    const others = (items: readonly Timed[]) => edges(items.filter((i) => !isHeld(i.id)).map(rangeOf))
    const words =
      scale < APART.words
        ? []
        : spokenWords((desk.spoken?.cues ?? []).filter((c) => c.to > near.from && c.from < near.to))
    return sortTargets([
      { at: desk.recordedTime, what: 'playhead', isMeant: true },
      ...named(desk.selection ? edges([desk.selection]) : [], 'selection'),
      ...named(scale > APART.silences ? edges(silences.value) : [], 'silence'),
      ...named(instants.value.slide, 'slide'),
      ...named(edges(words), 'word'),
      ...named(others(desk.edit?.removed ?? []), 'cut'),
      ...named(others(desk.edit?.stretches ?? []), 'what is laid over'),
      ...named(others(desk.chapters?.chapters ?? []), 'chapter'),
      ...named(others(desk.links?.links ?? []), 'link card'),
      ...named(others(desk.questions?.checkpoints ?? []), 'question'),
      ...named(instants.value.mark, 'mark'),
      ...named([0, desk.map.duration], 'the end'),
    ])
  }

  return { slides: shown, silences, stops, targets }
}
export type Stops = ReturnType<typeof useStops>
export const stopsKey = Symbol('stops') as InjectionKey<Stops>
