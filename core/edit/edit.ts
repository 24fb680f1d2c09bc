/**
 * The edit of a lecture: a history of commands, and the state they add up to. The history *is* the
 * document; undo and redo only move how much of it is applied.
 */
import type { EditCommand, EditDocument, InsertKind, Layout, SoundTreatment, StretchKind } from '../schema/edit'
import { EditDocument as EditDocumentSchema } from '../schema/edit'
import { InvalidDocument, parseAs } from '../schema/validate'
import { snapToFrame } from '../time/frames'
import { buildTimeMap, type InsertAt, type TimeMap } from '../time/time-map'
import { formatTimecode } from '../time/timecode'
import { recorded, type RecordedRange, type RecordedTime } from '../time/units'

/** A removed stretch that still knows which command made it. */
export interface RemovedRange extends RecordedRange {
  id: string
  reason?: 'pause' | 'trim'
}

/** Something put in between two instants of the recording. */
export interface Insert extends InsertAt {
  what: InsertKind
}

/** Something that holds over a stretch of the recording; later ones lie on top. */
export interface Stretch extends RecordedRange {
  id: string
  what: StretchKind
}

/** What the applied commands add up to. */
export interface EditState {
  /** Sorted and disjoint; two that come to touch become one, under the id of the later command. */
  removed: readonly RemovedRange[]
  /** How the pictures share the frame where no stretch says otherwise. */
  layout: Layout
  /** In the order in which they are seen; those at one instant in the order in which they were put in. */
  inserts: readonly Insert[]
  /** In the order in which they were made, bottom-most first. */
  stretches: readonly Stretch[]
  /** Length of the fade through black on each side of a seam, s. */
  fade: number
  sound: SoundTreatment
}

/** A command that makes no sense for the lecture it was given for. The message is a sentence for a person. */
export class InvalidEdit extends Error {
  override name = 'InvalidEdit'
}

/** An edit in which nothing has been done. */
export function newEdit(duration: RecordedTime, frameRate: number): EditDocument {
  return { format: 'thaw-edit', version: 1, duration, frameRate, commands: [], applied: 0 }
}

/** The same edit over a recording that a further take has made longer. What was taken out and put in stays where it is. */
export function lengthen(edit: EditDocument, duration: RecordedTime): EditDocument {
  return { ...edit, duration: recorded(Math.max(edit.duration, duration)) }
}

/**
 * Reads an edit document from outside.
 * @throws {InvalidDocument} when it does not fit the schema, or when a command does not fit what came before it
 */
export function readEdit(data: unknown): EditDocument {
  const edit = parseAs(EditDocumentSchema, data, 'edit document')
  if (edit.applied > edit.commands.length) throw new InvalidDocument('edit document', [`/applied is ${edit.applied} of ${edit.commands.length} commands`])
  try {
    editState({ ...edit, applied: edit.commands.length })
  } catch (error) {
    if (error instanceof InvalidEdit) throw new InvalidDocument('edit document', [error.message])
    throw error
  }
  return edit
}

const initial: EditState = { removed: [], layout: 'inset', inserts: [], stretches: [], fade: 0, sound: { noise: 'keep', loudness: null, truePeak: -1 } }

const insertLength = (what: InsertKind): number => (what.kind === 'video' ? what.to - what.from : what.seconds)

function insert(removed: readonly RemovedRange[], added: RemovedRange): RemovedRange[] {
  const apart = removed.filter((r) => r.to < added.from || r.from > added.to)
  const joined = removed.filter((r) => !apart.includes(r))
  const merged = {
    ...added,
    from: recorded(Math.min(added.from, ...joined.map((r) => r.from))),
    to: recorded(Math.max(added.to, ...joined.map((r) => r.to))),
  }
  return [...apart, merged].sort((a, b) => a.from - b.from)
}

function step(state: EditState, command: EditCommand, edit: Pick<EditDocument, 'duration' | 'frameRate'>): EditState {
  const snap = (t: number) => recorded(t >= edit.duration ? edit.duration : Math.min(edit.duration, snapToFrame(t, edit.frameRate)))
  switch (command.do) {
    case 'remove': {
      const from = snap(command.from)
      const to = snap(command.to)
      if (command.to <= command.from) throw new InvalidEdit('The end of what is taken out has to come after its start.')
      if (command.from >= edit.duration) throw new InvalidEdit(`The recording ends at ${formatTimecode(edit.duration, 2)}; there is nothing after it to take out.`)
      if (to <= from) return state
      return { ...state, removed: insert(state.removed, { id: command.id, from, to, ...(command.reason && { reason: command.reason }) }) }
    }
    case 'move-edge': {
      const range = find(state, command.id)
      const at = snap(command.at)
      const moved = { ...range, [command.edge]: at }
      if (moved.to <= moved.from) throw new InvalidEdit('An edge cannot be moved past the other end; put the part back instead.')
      return { ...state, removed: insert(state.removed.filter((r) => r !== range), moved) }
    }
    case 'restore': {
      const range = find(state, command.id)
      return { ...state, removed: state.removed.filter((r) => r !== range) }
    }
    case 'restore-all':
      return initial
    case 'layout':
      return { ...state, layout: command.layout }
    case 'insert': {
      if (insertLength(command.what) <= 0) throw new InvalidEdit('The end of the video that is put in has to come after its start.')
      const added: Insert = { id: command.id, at: snap(command.at), length: insertLength(command.what), what: command.what }
      return { ...state, inserts: [...state.inserts.filter((i) => i.id !== command.id), added].sort((a, b) => a.at - b.at) }
    }
    case 'stretch': {
      if (command.to <= command.from) throw new InvalidEdit('The end of a stretch has to come after its start.')
      const stretch: Stretch = { id: command.id, from: snap(command.from), to: snap(command.to), what: command.what }
      const others = state.stretches.filter((s) => s.id !== command.id)
      return { ...state, stretches: stretch.to > stretch.from ? [...others, stretch] : others }
    }
    case 'drop': {
      if (![...state.inserts, ...state.stretches].some((x) => x.id === command.id)) throw new InvalidEdit('What was to be dropped is not there any more.')
      return { ...state, inserts: state.inserts.filter((i) => i.id !== command.id), stretches: state.stretches.filter((s) => s.id !== command.id) }
    }
    case 'fade':
      return { ...state, fade: command.seconds }
    case 'sound':
      return { ...state, sound: command.treatment }
  }
}

function find(state: EditState, id: string): RemovedRange {
  const range = state.removed.find((r) => r.id === id)
  if (!range) throw new InvalidEdit('That part is not taken out any more.')
  return range
}

/** What the applied commands of `edit` add up to. */
export function editState(edit: EditDocument): EditState {
  return edit.commands.slice(0, edit.applied).reduce((state, command) => step(state, command, edit), initial)
}

/** How the pictures share the frame at an instant: the latest layout stretch over it, or what holds throughout. */
export function layoutAt(state: EditState, time: number): Layout {
  const stretch = state.stretches.findLast((s) => s.what.kind === 'layout' && time >= s.from && time < s.to)
  return stretch?.what.kind === 'layout' ? stretch.what.layout : state.layout
}

/** The time map of what is applied. */
export function editTimeMap(edit: EditDocument): TimeMap {
  const { removed, inserts } = editState(edit)
  return buildTimeMap(edit.duration, removed, inserts)
}

/**
 * Does one more thing. What had been undone before is given up.
 * @throws {InvalidEdit} when the command does not fit the present state; the edit is then unchanged
 */
export function apply(edit: EditDocument, command: EditCommand): EditDocument {
  step(editState(edit), command, edit)
  const commands = [...edit.commands.slice(0, edit.applied), command]
  return { ...edit, commands, applied: commands.length }
}

export const canUndo = (edit: EditDocument): boolean => edit.applied > 0
export const canRedo = (edit: EditDocument): boolean => edit.applied < edit.commands.length

/** Takes the last applied command back; at the start, the same edit. */
export function undo(edit: EditDocument): EditDocument {
  return canUndo(edit) ? { ...edit, applied: edit.applied - 1 } : edit
}

/** Does the next undone command again; at the end, the same edit. */
export function redo(edit: EditDocument): EditDocument {
  return canRedo(edit) ? { ...edit, applied: edit.applied + 1 } : edit
}

/** Goes to any point of the history: `applied` commands from the start. */
export function goTo(edit: EditDocument, applied: number): EditDocument {
  return { ...edit, applied: Math.min(edit.commands.length, Math.max(0, Math.round(applied))) }
}

const layoutNames: Record<Layout, string> = { inset: 'Screen large, camera inset', screen: 'Screen alone', camera: 'Camera alone', beside: 'Screen and camera side by side' }
const stretchNames: Record<Exclude<StretchKind['kind'], 'layout'>, string> = { mask: 'Masked', text: 'Text over', picture: 'Picture over', video: 'Video over', strokes: 'Drawing over' }

/** One line for the list of edits. */
export function describe(command: EditCommand): string {
  const t = (seconds: number) => formatTimecode(seconds, 1)
  switch (command.do) {
    case 'remove':
      return `${command.reason === 'pause' ? 'Folded a pause' : command.reason === 'trim' ? 'Trimmed' : 'Took out'} ${t(command.from)} – ${t(command.to)}`
    case 'move-edge':
      return `Moved ${command.edge === 'from' ? 'the start' : 'the end'} of a removed part to ${t(command.at)}`
    case 'restore':
      return 'Put a part back'
    case 'restore-all':
      return 'Back to the original'
    case 'layout':
      return layoutNames[command.layout]
    case 'insert':
      return `Put in ${{ card: 'a card', picture: 'a picture', video: 'a video' }[command.what.kind]} at ${t(command.at)}`
    case 'stretch':
      return `${command.what.kind === 'layout' ? layoutNames[command.what.layout] : stretchNames[command.what.kind]} ${t(command.from)} – ${t(command.to)}`
    case 'drop':
      return 'Dropped something put in'
    case 'fade':
      return command.seconds > 0 ? `Fades of ${command.seconds} s at seams` : 'No fades at seams'
    case 'sound':
      return command.treatment.noise === 'reduce' || command.treatment.loudness !== null ? 'Treated the sound' : 'Sound as recorded'
  }
}

/** Whether anything differs from the recording as it was made; pauses and drawing while recording count as nothing done. */
export function isTidied(edit: EditDocument): boolean {
  return edit.commands.slice(0, edit.applied).some((c) => !(c.do === 'remove' && c.reason === 'pause') && !(c.do === 'stretch' && c.what.kind === 'strokes'))
}
