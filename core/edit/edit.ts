/**
 * The edit of a lecture: what is taken out, put in and laid over, and what is done to do so. Every function gives a new
 * document; how it came about is kept beside it (`core/documents/history.ts`).
 */
import { max } from 'd3-array'
import type {
  Background,
  EditDocument,
  Insert,
  InsertKind,
  Layout,
  LayoutPreset,
  RemovedRange,
  Split,
  Stretch,
  StretchKind,
} from '../schema/edit'
import { EditDocument as EditDocumentSchema } from '../schema/edit'
import type { EditCommand } from '../schema/edit-command'
import { InvalidDocument, parseAs } from '../schema/validate'
import { snapToFrame } from '../time/frames'
import { subtract, union } from '../time/ranges'
import { buildTimeMap, toResult, type TimeMap } from '../time/time-map'
import { formatTimecode } from '../time/timecode'
import { recorded, type RecordedRange, type RecordedTime, type ResultRange } from '../time/units'

/** A command that makes no sense for the lecture it was given for. The message is a sentence for a person. */
export class InvalidEdit extends Error {
  override name = 'InvalidEdit'
}

const initial = {
  removed: [],
  inserts: [],
  stretches: [],
  layout: 'inset',
  fade: 0,
  sound: { noise: 'keep', loudness: null, truePeak: -1 },
} satisfies Partial<EditDocument>

/** An edit in which nothing has been done. */
export function newEdit(duration: RecordedTime, frameRate: number): EditDocument {
  return { format: 'thaw-edit', version: 3, duration, frameRate, ...initial }
}

/** The same edit over a recording that a further take has made longer. What was taken out and put in stays. */
export function lengthen(edit: EditDocument, duration: RecordedTime): EditDocument {
  return { ...edit, duration: recorded(Math.max(edit.duration, duration)) }
}

const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : a.id > b.id ? 1 : 0)
const orderOf = (x: Insert | Stretch) => x.order ?? 0

/** The order in which the lists of an edit stand. */
export const editLists = {
  removed: (a: RemovedRange, b: RemovedRange) => a.from - b.from || a.to - b.to || byId(a, b),
  inserts: (a: Insert, b: Insert) => a.at - b.at || orderOf(a) - orderOf(b),
  stretches: (a: Stretch, b: Stretch) => orderOf(a) - orderOf(b),
  splits: (a: Split, b: Split) => a.at - b.at || byId(a, b),
}

const nextOrder = (items: readonly (Insert | Stretch)[]) => 1 + Math.max(-1, max(items.map(orderOf)) ?? -1)

/** What is wrong with an edit that fits its schema, as a sentence; empty when nothing is. */
function problem({ duration, removed, inserts, stretches, splits = [] }: EditDocument): string {
  for (const list of [removed, inserts, stretches, splits]) {
    const known = new Set<string>()
    for (const { id } of list) {
      if (known.has(id)) return `“${id}” is there twice`
      known.add(id)
    }
  }
  const backward = [...removed, ...stretches].find((r) => r.to <= r.from)
  if (backward) return `“${backward.id}” ends before it starts`
  const outside = removed.find((r) => r.from >= duration)
  if (outside) return `“${outside.id}” begins after the recording has ended at ${formatTimecode(duration, 2)}`
  const empty = inserts.find((i) => insertLength(i.what) <= 0)
  return empty ? `the video “${empty.id}” that is put in ends before it starts` : ''
}

/**
 * Checks an edit document of the present version. What it leaves out is as in one in which nothing has been done.
 * @throws {InvalidDocument} when it does not fit the schema, or when its parts do not fit together
 */
export function checkEdit(data: unknown): EditDocument {
  const whole = typeof data === 'object' && data !== null ? { ...initial, ...data } : data
  const edit = parseAs(EditDocumentSchema, whole, 'edit document')
  const says = problem(edit)
  if (says) throw new InvalidDocument('edit document', [says])
  return onFrames(edit)
}

/**
 * The edit with every instant on a frame, or at the recording's end; what ends there ends on a frame once the recording
 * has grown by a further take, which begins on one.
 */
export function onFrames(edit: EditDocument): EditDocument {
  const snap = snapTo(edit)
  const snapped = <R extends RecordedRange>(range: R): R => {
    const [from, to] = [snap(range.from), snap(range.to)]
    return from === range.from && to === range.to ? range : { ...range, from, to }
  }
  const placed = <I extends { at: number }>(item: I): I => {
    const at = snap(item.at)
    return at === item.at ? item : { ...item, at }
  }
  return {
    ...edit,
    removed: unlessSame(edit.removed, edit.removed.map(snapped).filter(isThere).sort(editLists.removed)),
    inserts: unlessSame(edit.inserts, edit.inserts.map(placed).sort(editLists.inserts)),
    stretches: unlessSame(edit.stretches, edit.stretches.map(snapped).filter(isThere).sort(editLists.stretches)),
    ...(edit.splits && { splits: unlessSame(edit.splits, edit.splits.map(placed).sort(editLists.splits)) }),
  }
}

/** A list that says the same stays the same one: what is made of it need not be made anew. */
const unlessSame = <T>(before: T[], now: T[]): T[] =>
  before.length === now.length && before.every((item, i) => item === now[i]) ? before : now

const isThere = (range: RecordedRange) => range.to > range.from

/** Instants of an edit lie on frames, and its end is the recording's. */
const snapTo =
  ({ duration, frameRate }: Pick<EditDocument, 'duration' | 'frameRate'>) =>
  (t: number): RecordedTime =>
    recorded(t >= duration ? duration : Math.min(duration, snapToFrame(t, frameRate)))

/** How long something that is put in is seen, s. */
export const insertLength = (what: InsertKind): number => (what.kind === 'video' ? what.to - what.from : what.seconds)

/** What is put in, in a word or by what stands on it. */
export const sayInsert = (what: InsertKind): string =>
  what.kind === 'card' ? what.title || what.text || 'Card' : what.kind === 'picture' ? 'Picture' : 'Video'

/** What the recorder itself puts into an edit; it is how the recording was made, and nothing a person has done to it. */
const isRecorded = {
  cut: (r: RemovedRange) => r.reason === 'pause',
  stretch: (s: Stretch) => s.what.kind === 'strokes',
}

const without = <T extends { id: string }>(items: readonly T[], id: string): T[] => items.filter((i) => i.id !== id)

/**
 * Does one more thing.
 * @throws {InvalidEdit} when the command does not fit the edit, which is then unchanged
 */
export function apply(edit: EditDocument, command: EditCommand): EditDocument {
  const snap = snapTo(edit)
  switch (command.do) {
    case 'remove': {
      const from = snap(command.from)
      const to = snap(command.to)
      if (command.to <= command.from) throw new InvalidEdit('The end of what is taken out has to come after its start.')
      if (command.from >= edit.duration)
        throw new InvalidEdit(
          `The recording ends at ${formatTimecode(edit.duration, 2)}; there is nothing after it to take out.`,
        )
      if (to <= from) return edit
      const others = edit.removed.filter((r) => r.id !== command.id && !command.instead?.includes(r.id))
      const cut = { id: command.id, from, to, ...(command.reason && { reason: command.reason }) }
      return { ...edit, removed: [...others, cut].sort(editLists.removed) }
    }
    case 'move-edge': {
      const range = find(edit, command.id)
      const moved = { ...range, [command.edge]: snap(command.at) }
      if (!isThere(moved))
        throw new InvalidEdit('An edge cannot be moved past the other end; put the part back instead.')
      return { ...edit, removed: edit.removed.map((r) => (r === range ? moved : r)).sort(editLists.removed) }
    }
    case 'restore': {
      const back = new Set([command.id, ...(command.also ?? [])].map((id) => find(edit, id)))
      return { ...edit, removed: edit.removed.filter((r) => !back.has(r)) }
    }
    case 'restore-all': {
      const { splits: _, watermark: __, background: ___, ...plain } = edit
      if (command.pauses) return { ...plain, ...initial }
      return {
        ...plain,
        ...initial,
        removed: edit.removed.filter(isRecorded.cut),
        stretches: edit.stretches.filter(isRecorded.stretch),
      }
    }
    case 'layout':
      return { ...edit, layout: command.layout }
    case 'insert': {
      if (insertLength(command.what) <= 0)
        throw new InvalidEdit('The end of the video that is put in has to come after its start.')
      const others = without(edit.inserts, command.id)
      const order = edit.inserts.find((i) => i.id === command.id)?.order ?? nextOrder(others)
      const added: Insert = { id: command.id, at: snap(command.at), order, what: command.what }
      return { ...edit, inserts: [...others, added].sort(editLists.inserts) }
    }
    case 'stretch': {
      if (command.to <= command.from) throw new InvalidEdit('The end of a stretch has to come after its start.')
      const others = without(edit.stretches, command.id)
      const stretch: Stretch = {
        id: command.id,
        from: snap(command.from),
        to: snap(command.to),
        order: nextOrder(others),
        what: command.what,
      }
      return { ...edit, stretches: isThere(stretch) ? [...others, stretch] : others }
    }
    case 'split': {
      const at = snap(command.at)
      const piece = pieceAt(edit, at)
      if (!piece) throw new InvalidEdit('This part is taken out; there is nothing to split in it.')
      if (at <= piece.from || at >= piece.to) throw new InvalidEdit('A piece begins here already.')
      return { ...edit, splits: [...(edit.splits ?? []), { id: command.id, at }].sort(editLists.splits) }
    }
    case 'drop': {
      const { splits = [] } = edit
      if (![...edit.inserts, ...edit.stretches, ...splits].some((x) => x.id === command.id))
        throw new InvalidEdit('What was to be dropped is not there any more.')
      return {
        ...edit,
        inserts: without(edit.inserts, command.id),
        stretches: without(edit.stretches, command.id),
        ...(splits.length > 0 && { splits: without(splits, command.id) }),
      }
    }
    case 'watermark': {
      const { watermark: _, ...plain } = edit
      return command.watermark ? { ...plain, watermark: command.watermark } : plain
    }
    case 'background': {
      const { background: _, ...plain } = edit
      return command.background ? { ...plain, background: command.background } : plain
    }
    case 'fade':
      return { ...edit, fade: command.seconds }
    case 'sound':
      return { ...edit, sound: command.treatment }
  }
}

/** The piece of the recording around an instant: from the cut, split or end before it to the one after. Null in a cut. */
export function pieceAt(
  edit: Pick<EditDocument, 'duration' | 'removed' | 'splits'>,
  time: number,
): RecordedRange | null {
  const whole = { from: recorded(0), to: recorded(edit.duration) }
  // What begins at the instant is meant, and at the very end what ends there.
  const kept = subtract(whole, union(edit.removed)).findLast((k) => k.from <= time && time <= k.to)
  if (!kept || (time === kept.to && kept.to < edit.duration)) return null
  const splits = (edit.splits ?? []).map((s) => s.at).filter((t) => t > kept.from && t < kept.to)
  const inside = Math.min(time, kept.to - 1e-6)
  return {
    from: recorded(splits.findLast((t) => t <= inside) ?? kept.from),
    to: recorded(splits.find((t) => t > inside) ?? kept.to),
  }
}

function find(edit: EditDocument, id: string): RemovedRange {
  const range = edit.removed.find((r) => r.id === id)
  if (!range) throw new InvalidEdit('That part is not taken out any more.')
  return range
}

/** Feeds that an edit's layouts show in slots of their own. */
export const feedsInSlots = ({ layout, stretches }: Pick<EditDocument, 'layout' | 'stretches'>): Set<string> =>
  new Set(
    [layout, ...stretches.map(({ what }) => (what.kind === 'layout' ? what.layout : []))].flatMap((l) =>
      typeof l === 'string' ? [] : l.map((slot) => slot.feed),
    ),
  )

/** How the pictures share the frame at an instant: the latest layout stretch over it, or what holds throughout. */
export function layoutAt(edit: Pick<EditDocument, 'stretches' | 'layout'>, time: number): Layout {
  const stretch = edit.stretches.findLast((s) => s.what.kind === 'layout' && time >= s.from && time < s.to)
  return stretch?.what.kind === 'layout' ? stretch.what.layout : edit.layout
}

/**
 * Takes out several stretches at once. What is out already stays out.
 * @param newId gives an id for each cut
 */
export function removeAll(edit: EditDocument, ranges: readonly RecordedRange[], newId: () => string): EditDocument {
  return ranges.reduce((all, { from, to }) => apply(all, { do: 'remove', id: newId(), from, to }), edit)
}

/**
 * Has stretches be seen and heard again, whichever cuts they lie in: those are made shorter, or become two.
 * @param newId gives an id for what becomes a cut of its own
 */
export function reveal(edit: EditDocument, ranges: readonly RecordedRange[], newId: () => string): EditDocument {
  const back = union(ranges)
  const removed = edit.removed.flatMap((cut) =>
    subtract(cut, back).map((piece, i) => ({ ...cut, ...piece, id: i === 0 ? cut.id : newId() })),
  )
  return onFrames({ ...edit, removed })
}

/**
 * An edit of which a stretch of the result is left, to be put into another lecture: what is put in stays where all of it
 * is inside, and the sound as it was recorded, as it is treated there.
 */
export function excerpt(edit: EditDocument, { from, to }: ResultRange): EditDocument {
  const map = editTimeMap(edit)
  const inside = map.kept.flatMap((kept) => {
    const first = Math.max(from, kept.at) - kept.at
    const last = Math.min(to, kept.at + kept.to - kept.from) - kept.at
    return last > first ? [{ from: recorded(kept.from + first), to: recorded(kept.from + last) }] : []
  })
  const outside = subtract({ from: recorded(0), to: recorded(edit.duration) }, union(inside))
  const whole = new Set(map.inserts.filter((i) => i.at >= from - SAME && i.at + i.length <= to + SAME).map((i) => i.id))
  return onFrames({
    ...edit,
    removed: outside.map((range, i) => ({ id: `outside-${i}`, ...range })),
    inserts: edit.inserts.filter((i) => whole.has(i.id)),
    sound: initial.sound,
  })
}

/** Instants of the result closer than this are one, s. */
const SAME = 1e-6

/** The time map of an edit. */
export function editTimeMap(edit: EditDocument): TimeMap {
  const { duration, removed, inserts } = onFrames(edit)
  return buildTimeMap(
    duration,
    removed,
    inserts.map((i) => ({ id: i.id, at: i.at, length: insertLength(i.what) })),
  )
}

/** The cuts that a seam of the time line is made of, the first to begin first. */
export const cutsIn = (edit: Pick<EditDocument, 'removed'>, seam: RecordedRange): RemovedRange[] =>
  edit.removed.filter((r) => r.from < seam.to && r.to > seam.from)

/**
 * What puts a seam back: all cuts in it, but not a pause that they met, which is unfolded by itself. Null when there is
 * nothing there.
 * @param cuts of the seam
 */
export function restoring(cuts: readonly RemovedRange[]): EditCommand | null {
  const made = cuts.filter((c) => !isRecorded.cut(c))
  const [first, ...others] = made.length > 0 ? made : cuts
  return first ? { do: 'restore', id: first.id, ...(others.length > 0 && { also: others.map((c) => c.id) }) } : null
}

const presetNames: Record<LayoutPreset, string> = {
  inset: 'Screen large, camera inset',
  screen: 'Screen alone',
  camera: 'Camera alone',
  beside: 'Screen and camera side by side',
}
const sayLayout = (layout: Layout) => (typeof layout === 'string' ? presetNames[layout] : 'Pictures placed by hand')
const sayLevel = (gain: number | null) =>
  gain === null ? 'Silent' : `Sound ${gain < 0 ? '−' : '+'}${Math.abs(gain)} dB`

/** What is laid over, in a word or by what stands on it. */
export const sayStretch = (what: StretchKind): string =>
  what.kind === 'level'
    ? sayLevel(what.gain)
    : what.kind === 'layout'
      ? sayLayout(what.layout)
      : what.kind === 'text' && what.text.trim()
        ? what.text.trim()
        : what.kind === 'mask'
          ? what.how === 'blur'
            ? 'Blurred area'
            : 'Blacked-out area'
          : { text: 'Text', picture: 'Picture', video: 'Video', strokes: 'Drawing' }[what.kind]

const stretchNames: Record<Exclude<StretchKind['kind'], 'layout' | 'level'>, string> = {
  mask: 'Masked',
  text: 'Text over',
  picture: 'Picture over',
  video: 'Video over',
  strokes: 'Drawing over',
}

const sayBackground = (background: Background | null): string =>
  background
    ? { blur: 'Background blurred', colour: 'Background of one colour', picture: 'Background replaced by a picture' }[
        background.how.kind
      ]
    : 'Background as recorded'

/** One line for the list of edits. @param map what times are told by: as whoever did it saw them; recorded time without one */
export function describe(command: EditCommand, map?: TimeMap): string {
  const t = (seconds: number) => formatTimecode(map ? toResult(map, recorded(seconds)).at : seconds, 1)
  switch (command.do) {
    case 'remove': {
      const what = { pause: 'Folded a pause', trim: 'Trimmed', none: 'Took out' }[command.reason ?? 'none']
      return `${what} ${t(command.from)} – ${t(command.to)}`
    }
    case 'move-edge':
      return `Moved ${command.edge === 'from' ? 'the start' : 'the end'} of a removed part to ${t(command.at)}`
    case 'restore':
      return 'Put a part back'
    case 'restore-all':
      return 'Back to the original'
    case 'layout':
      return sayLayout(command.layout)
    case 'insert': {
      const what = { card: 'a card', picture: 'a picture', video: 'a video' }[command.what.kind]
      return `Put in ${what} at ${t(command.at)}`
    }
    case 'stretch': {
      const { what: of } = command
      const what = of.kind === 'layout' || of.kind === 'level' ? sayStretch(of) : stretchNames[of.kind]
      return `${what} ${t(command.from)} – ${t(command.to)}`
    }
    case 'split':
      return `Split at ${t(command.at)}`
    case 'drop':
      return 'Dropped something'
    case 'watermark':
      return command.watermark ? 'A mark over the whole lecture' : 'No mark over the lecture'
    case 'background':
      return sayBackground(command.background)
    case 'fade':
      return command.seconds > 0 ? `Fades of ${command.seconds} s at seams` : 'No fades at seams'
    case 'sound':
      return command.treatment.noise === 'reduce' || command.treatment.loudness !== null
        ? 'Treated the sound'
        : 'Sound as recorded'
  }
}

/** Something of an edit that has an id. */
export type EditedItem = RemovedRange | Insert | Stretch | Split

/** One of them as a person can tell it from another; what was taken out stands nowhere but in the recording. */
export function sayEdited(item: EditedItem): string {
  const own = () => {
    if ('at' in item) return describe('what' in item ? { do: 'insert', ...item } : { do: 'split', ...item })
    return describe('what' in item ? { do: 'stretch', ...item } : { do: 'remove', ...item })
  }
  return `${own()} of the recording`
}

/** Whether anything differs from the recording as it was made; pauses and drawing while recording count as nothing. */
export function isTidied({
  removed,
  inserts,
  stretches,
  layout,
  fade,
  sound,
  watermark,
  background,
}: EditDocument): boolean {
  const isSame =
    layout === initial.layout && fade === initial.fade && JSON.stringify(sound) === JSON.stringify(initial.sound)
  return (
    !isSame ||
    watermark !== undefined ||
    background !== undefined ||
    inserts.length > 0 ||
    !removed.every(isRecorded.cut) ||
    !stretches.every(isRecorded.stretch)
  )
}
