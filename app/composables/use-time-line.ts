import { useElementSize, useEventListener, useLocalStorage } from '@vueuse/core'
import equal from 'fast-deep-equal'
import { computed, nextTick, ref, shallowRef, watch, type InjectionKey, type ShallowRef } from 'vue'
import { clampShift, isSame, rangeOf, shifted, withEdge, type ItemRef, type Timed } from '#core/documents/items'
import { buildAxis, pointAt, resultToPixel, toPixel, toTime } from '#core/time/axis'
import { frameLength, snapToFrame } from '#core/time/frames'
import { snapTo, type SnapTarget } from '#core/time/snap'
import { recorded, result, type RecordedRange, type RecordedTime, type ResultTime } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import type { Stops } from '~/composables/use-stops'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

const SEAM = 12
/** Width of the lanes' names, px. */
export const SIDE = 104
/** A frame is at most so wide, px. */
const FRAME = 40
/** A browser lays out nothing wider, px. */
const WIDEST = 2e7
/** What is drawn moves on in steps of so many px, so that scrolling does not draw at every one. */
const STEP = 256
/** Within so many px an edge that is dragged goes to what is near. */
const REACH = 8
/** What moves less than this was not dragged, px. */
const STILL = 4

/** One gesture at a time, in recorded time. */
type Drag =
  | { kind: 'select'; from: RecordedTime }
  | { kind: 'cut'; id: string; edge: 'from' | 'to' }
  | { kind: 'trim'; end: 'start' | 'end' }
  | {
      kind: 'items'
      at: number
      of: Held[]
      edge: 'from' | 'to' | null
      targets: SnapTarget[]
      moved: boolean
      press: () => void
    }

interface Held {
  ref: ItemRef
  item: Timed
}

/** The time line under the hand: its scale, what of it is seen, and what is dragged on it. */
export function useTimeLine(viewport: Readonly<ShallowRef<HTMLElement | null>>, stops: Stops) {
  const desk = useDesk()
  const chosen = useChosen()
  const media = injectStrict(scriptPlayerKey)
  const { width: outer } = useElementSize(viewport)
  const scrolled = ref(0)
  useEventListener(
    viewport,
    'scroll',
    () => {
      scrolled.value = viewport.value?.scrollLeft ?? 0
    },
    { passive: true },
  )
  const width = computed(() => Math.max(0, outer.value - SIDE))

  const pinned = ref(new Set<string>())
  const hovered = ref<string | null>(null)
  /** A seam goes by the first of its cuts. */
  const idOf = (r: RecordedRange) => desk.cutsOf(r)[0]?.id ?? ''
  const fit = computed(() =>
    Math.max(0.01, (width.value - 2 - desk.map.removed.length * SEAM) / Math.max(0.1, desk.map.length)),
  )
  const frame = computed(() => frameLength(desk.edit?.frameRate ?? 0))
  const finest = computed(() =>
    Math.max(2, Math.min(FRAME / frame.value, WIDEST / Math.max(1, desk.map.length)) / fit.value),
  )
  /** 1 shows the whole lecture. */
  const zoom = ref(1)
  const scale = computed(() => fit.value * Math.min(zoom.value, finest.value))
  const axis = computed(() =>
    buildAxis(desk.map, scale.value, SEAM, (r) => pinned.value.has(idOf(r)) || hovered.value === idOf(r)),
  )
  const px = (t: number) => toPixel(axis.value, recorded(t))
  const playhead = computed(() => (desk.peek === null ? resultToPixel(axis.value, desk.time) : px(desk.peek)))
  /** What is drawn: what is seen, and some more at both sides. */
  const view = computed<{ from: number; width: number }>((last) => {
    const from = Math.max(0, (Math.floor(scrolled.value / STEP) - 1) * STEP)
    const to = Math.min(axis.value.width, (Math.ceil((scrolled.value + width.value) / STEP) + 1) * STEP)
    const seen = { from, width: Math.max(0, to - from) }
    // The same object for as long as it says the same, so that nothing is drawn again for it.
    return last && equal(last, seen) ? last : seen
  })

  const along = (clientX: number) => {
    const box = viewport.value?.getBoundingClientRect()
    return clientX - (box?.left ?? 0) - SIDE + (viewport.value?.scrollLeft ?? 0)
  }
  const snap = (t: number) => snapToFrame(t, desk.edit?.frameRate ?? 0)
  const timeAt = (event: { clientX: number }): RecordedTime => recorded(snap(toTime(axis.value, along(event.clientX))))
  function seekAt(event: { clientX: number }): void {
    const point = pointAt(axis.value, along(event.clientX))
    if (point?.piece.length) media.seek(result(snap(point.result)))
    else if (point) media.seekRecorded(recorded(snap(point.recorded)))
  }

  const drag = shallowRef<Drag | null>(null)
  /** A stretch that is being dragged over what is kept. */
  const preview = shallowRef<RecordedRange | null>(null)
  /** What is held, where it would go, and what it has met. */
  const held = shallowRef<{
    of: readonly Held[]
    to: (range: RecordedRange) => RecordedRange
    met: SnapTarget | null
  } | null>(null)
  /** Names of what is held; they change only when something is taken or let go. */
  const heldIds = shallowRef<ReadonlySet<string>>(new Set())
  watch(held, (now, before) => {
    if (!now !== !before) heldIds.value = new Set(now?.of.map((h) => h.ref.id))
  })
  const isHeld = (ref: ItemRef) => heldIds.value.has(ref.id)
  /** Where an item stands, also while it is dragged. */
  const shown = (ref: ItemRef, range: RecordedRange): RecordedRange =>
    held.value?.of.some((h) => isSame(h.ref, ref)) ? held.value.to(range) : range

  function begin(event: PointerEvent, what: Drag): void {
    if (event.button !== 0) return
    event.preventDefault()
    event.stopPropagation()
    viewport.value?.setPointerCapture(event.pointerId)
    drag.value = what
  }

  /**
   * An item is pressed: it is chosen, and dragged with what else is; or one of its edges is.
   * @param press what happens when it was not dragged
   */
  function beginItem(event: PointerEvent, ref: ItemRef, edge: 'from' | 'to' | null, press: () => void): void {
    if (event.button !== 0) return
    const more = event.ctrlKey || event.metaKey || event.shiftKey
    if (edge || more || !chosen.has(ref)) chosen.choose(ref, more && !edge)
    const of = edge ? chosen.items.filter((i) => isSame(i.ref, ref)) : [...chosen.items]
    // The one under the hand is what snaps.
    of.sort((a, b) => Number(isSame(b.ref, ref)) - Number(isSame(a.ref, ref)))
    const near = {
      from: toTime(axis.value, view.value.from),
      to: toTime(axis.value, view.value.from + view.value.width),
    }
    const targets = stops.targets(
      of.map((o) => o.ref),
      near,
      scale.value,
    )
    begin(event, { kind: 'items', at: event.clientX, of, edge, targets, moved: false, press })
  }

  function moveItems(what: Extract<Drag, { kind: 'items' }>, event: PointerEvent): void {
    const [first] = what.of
    if (!first || (!what.moved && Math.abs(event.clientX - what.at) < STILL)) return
    what.moved = true
    const range = rangeOf(first.item)
    const isInsert = first.ref.list === 'inserts'
    const moved = (t: number) => toTime(axis.value, px(t) + event.clientX - what.at)
    const grip = what.edge ?? 'from'
    const target = isInsert ? toTime(axis.value, along(event.clientX)) : moved(range[grip])
    let by = target - range[grip]
    const edges = what.edge ? [range[what.edge] + by] : [range.from + by, range.to + by]
    const met = event.altKey ? null : snapTo(edges, what.targets, REACH / scale.value)
    by = snap(range[grip] + by + (met?.by ?? 0)) - range[grip]
    const { edge } = what
    if (edge) {
      const at = Math.min(desk.map.duration, range[edge] + by)
      held.value = { of: what.of, to: (r) => withEdge(r, edge, at, frame.value), met: met?.target ?? null }
      return
    }
    const fits = clampShift(
      what.of.map((o) => rangeOf(o.item)),
      by,
      desk.map.duration,
    )
    held.value = { of: what.of, to: (r) => shifted(r, fits), met: fits === by ? (met?.target ?? null) : null }
  }

  function move(event: PointerEvent): void {
    const what = drag.value
    if (!what) return
    if (what.kind === 'items') {
      moveItems(what, event)
      return
    }
    const t = timeAt(event)
    if (what.kind === 'select')
      desk.selection =
        Math.abs(px(t) - px(what.from)) < STILL
          ? null
          : { from: recorded(Math.min(what.from, t)), to: recorded(Math.max(what.from, t)) }
    else if (what.kind === 'trim')
      preview.value = what.end === 'start' ? { from: recorded(0), to: t } : { from: t, to: desk.map.duration }
    else {
      const range = desk.edit?.removed.find((r) => r.id === what.id)
      if (range) preview.value = { ...range, [what.edge]: t }
    }
  }

  async function end(event: PointerEvent): Promise<void> {
    const what = drag.value
    const range = preview.value
    const now = held.value
    cancel()
    if (!what) return
    if (what.kind === 'items') {
      if (now) await chosen.place(now.to, now.of as Held[])
      else if (!what.moved) what.press()
      return
    }
    if (what.kind === 'select' && !desk.selection) {
      chosen.clear()
      seekAt(event)
    }
    if (what.kind === 'trim' && range && range.to - range.from > 0.02)
      await desk.trim(what.end, what.end === 'start' ? range.to : range.from)
    if (what.kind === 'cut' && range)
      await desk.command({ do: 'move-edge', id: what.id, edge: what.edge, at: range[what.edge] })
  }
  function cancel(): void {
    drag.value = preview.value = held.value = null
  }

  /** By how much an arrow key moves something, s; null for another key. */
  const nudge = (event: KeyboardEvent): number | null =>
    event.key === 'ArrowLeft' || event.key === 'ArrowRight'
      ? (event.key === 'ArrowLeft' ? -1 : 1) * (event.shiftKey ? 1 : frame.value)
      : null

  /** Has an instant of the result stay where it is seen while the scale changes. */
  async function zoomAbout(to: number, at: ResultTime): Promise<void> {
    const before = resultToPixel(axis.value, at) - (viewport.value?.scrollLeft ?? 0)
    zoom.value = Math.min(finest.value, Math.max(1, to))
    await nextTick()
    if (viewport.value) viewport.value.scrollLeft = resultToPixel(axis.value, at) - before
  }
  /** About the playhead where it is seen, otherwise about the middle. */
  function setZoom(to: number): void {
    const isSeen = playhead.value >= scrolled.value && playhead.value <= scrolled.value + width.value
    const middle = pointAt(axis.value, scrolled.value + width.value / 2)
    void zoomAbout(to, isSeen || !middle ? desk.time : middle.result)
  }
  function wheel(event: WheelEvent): void {
    // A pinch on a touch pad arrives as this too.
    if (!event.ctrlKey) return
    event.preventDefault()
    const point = pointAt(axis.value, along(event.clientX))
    if (point) void zoomAbout(zoom.value * Math.exp(-Math.max(-100, Math.min(100, event.deltaY)) / 200), point.result)
  }
  useEventListener(viewport, 'wheel', wheel, { passive: false })

  /** Two fingers on the line: what is between them stays there. */
  const fingers = new Map<number, number>()
  let spread = 0
  function pinch(event: PointerEvent): void {
    if (event.pointerType !== 'touch') return
    if (event.type === 'pointerdown') fingers.set(event.pointerId, event.clientX)
    else if (event.type !== 'pointermove') fingers.delete(event.pointerId)
    else if (fingers.has(event.pointerId)) fingers.set(event.pointerId, event.clientX)
    const [a, b] = [...fingers.values()]
    if (a === undefined || b === undefined) {
      spread = 0
      return
    }
    cancel()
    const now = Math.max(20, Math.abs(a - b))
    const point = pointAt(axis.value, along((a + b) / 2))
    if (spread > 0 && point) void zoomAbout((zoom.value * now) / spread, point.result)
    spread = now
  }
  for (const kind of ['pointerdown', 'pointermove', 'pointerup', 'pointercancel'] as const)
    useEventListener(viewport, kind, pinch, { capture: true })

  const follows = useLocalStorage('thaw-follow-playhead', true)
  watch(playhead, (x) => {
    const element = viewport.value
    if (!element || !desk.playing || !follows.value) return
    if (x > element.scrollLeft + width.value - 60 || x < element.scrollLeft) element.scrollLeft = x - 80
  })
  // Wherever one goes to is seen.
  watch(
    [() => desk.time, media.seeks],
    () => {
      const element = viewport.value
      const x = playhead.value
      if (!element || desk.playing || drag.value) return
      if (x > element.scrollLeft + width.value || x < element.scrollLeft) element.scrollLeft = x - width.value / 2
    },
    { flush: 'post' },
  )

  return {
    axis,
    scale,
    fit,
    zoom,
    finest,
    width,
    view,
    px,
    playhead,
    pinned,
    hovered,
    idOf,
    drag,
    preview,
    held,
    isHeld,
    shown,
    begin,
    beginItem,
    move,
    end,
    cancel,
    nudge,
    timeAt,
    seekAt,
    setZoom,
    follows,
  }
}
export type TimeLine = ReturnType<typeof useTimeLine>
export const timeLineKey = Symbol('time line') as InjectionKey<TimeLine>
