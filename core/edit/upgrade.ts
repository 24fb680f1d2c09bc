/**
 * Edits as earlier versions wrote them. Up to version 2 an edit was the list of what had been done, of which the first
 * `applied` held; since version 3 it is what that came to. In version 1, cuts that came to touch became one under the
 * id of the later command; since version 2 each keeps its own, and the upgrade says of each command what it took the
 * place of, so that every state of the history stays what it was.
 */
import { max, min } from 'd3-array'
import { Type, type Static } from '@sinclair/typebox'
import type { EditDocument } from '../schema/edit'
import { EditCommand } from '../schema/edit-command'
import { closed, Seconds } from '../schema/parts'
import { InvalidDocument, parseAs } from '../schema/validate'
import { snapToFrame } from '../time/frames'
import { apply, checkEdit, describe, InvalidEdit, newEdit } from './edit'

export const EditDocument2 = Type.Object(
  {
    format: Type.Literal('thaw-edit'),
    version: Type.Literal(2),
    duration: Seconds,
    frameRate: Type.Number({ minimum: 0, maximum: 240 }),
    commands: Type.Array(EditCommand, { maxItems: 20_000 }),
    applied: Type.Integer({ minimum: 0 }),
  },
  closed,
)
type EditDocument2 = Static<typeof EditDocument2>

interface Cut {
  id: string
  from: number
  to: number
}

interface Old {
  duration: number
  frameRate: number
  commands: EditCommand[]
}

/** As version 1 did it: the new cut with all those it touches. */
function merge(cuts: readonly Cut[], added: Cut): { cuts: Cut[]; merged: Cut; absorbed: string[] } {
  const touched = cuts.filter((c) => c.to >= added.from && c.from <= added.to)
  const merged = {
    id: added.id,
    from: Math.min(added.from, min(touched, (c) => c.from) ?? added.from),
    to: Math.max(added.to, max(touched, (c) => c.to) ?? added.to),
  }
  return { cuts: [...cuts.filter((c) => !touched.includes(c)), merged], merged, absorbed: touched.map((c) => c.id) }
}

function upgradeCommands({ duration, frameRate, commands }: Old): EditCommand[] {
  const snap = (t: number) => (t >= duration ? duration : Math.min(duration, snapToFrame(t, frameRate)))
  let cuts: Cut[] = []
  const take = (command: EditCommand, added: Cut, others: readonly Cut[]): EditCommand => {
    const { cuts: after, merged, absorbed } = merge(others, added)
    cuts = after
    if (absorbed.length === 0) return command
    const reason = command.do === 'remove' && command.reason ? { reason: command.reason } : {}
    return {
      do: 'remove',
      id: merged.id,
      from: merged.from,
      to: merged.to,
      ...reason,
      instead: [...new Set([...absorbed, merged.id])],
    } as EditCommand
  }
  return commands.map((command): EditCommand => {
    switch (command.do) {
      case 'remove': {
        const added = { id: command.id, from: snap(command.from), to: snap(command.to) }
        return added.to > added.from ? take(command, added, cuts) : command
      }
      case 'move-edge': {
        const range = cuts.find((c) => c.id === command.id)
        return range
          ? take(
              command,
              { ...range, [command.edge]: snap(command.at) },
              cuts.filter((c) => c !== range),
            )
          : command
      }
      case 'restore':
        cuts = cuts.filter((c) => c.id !== command.id)
        return command
      case 'restore-all':
        cuts = []
        return { do: 'restore-all', pauses: true }
      default:
        return command
    }
  })
}

/** Whether it has the shape that the upgrade reads; everything else about it is checked afterwards, by the schema. */
function isVersion1(data: unknown): data is Omit<EditDocument2, 'version'> & { version: 1 } {
  return (
    hasVersion(data, 1) &&
    'commands' in data &&
    Array.isArray(data.commands) &&
    data.commands.every((c) => typeof c === 'object' && c !== null) &&
    'duration' in data &&
    typeof data.duration === 'number' &&
    'frameRate' in data &&
    typeof data.frameRate === 'number'
  )
}

const hasVersion = (data: unknown, version: number): data is { version: number } =>
  typeof data === 'object' && data !== null && 'version' in data && data.version === version

/** An edit of version 2, or one of version 1 made so; null for any other. @throws {InvalidDocument} */
function asVersion2(data: unknown): EditDocument2 | null {
  const upgraded = isVersion1(data) ? { ...data, version: 2, commands: upgradeCommands(data) } : data
  if (!hasVersion(upgraded, 1) && !hasVersion(upgraded, 2)) return null
  const edit = parseAs(EditDocument2, upgraded, 'edit document')
  if (edit.applied > edit.commands.length)
    throw new InvalidDocument('edit document', [`/applied is ${edit.applied} of ${edit.commands.length} commands`])
  return edit
}

/** One thing that was done, and what the edit was then. */
export interface EditStep {
  says: string
  edit: EditDocument
}

/**
 * The steps of an edit that was the list of what had been done, also those that were undone.
 * @returns null for an edit of version 3 or later, whose history stands beside it
 * @throws {InvalidDocument}
 */
export function readSteps(data: unknown): { start: EditDocument; steps: EditStep[]; applied: number } | null {
  const old = asVersion2(data)
  if (!old) return null
  const start = newEdit(old.duration, old.frameRate)
  const steps: EditStep[] = []
  try {
    for (const command of old.commands)
      steps.push({ says: describe(command), edit: apply(steps.at(-1)?.edit ?? start, command) })
  } catch (error) {
    if (error instanceof InvalidEdit) throw new InvalidDocument('edit document', [error.message])
    throw error
  }
  return { start, steps, applied: old.applied }
}

/**
 * Reads an edit document of any version from outside.
 * @throws {InvalidDocument} when it does not fit its schema, or when its parts do not fit together
 */
export function readEdit(data: unknown): EditDocument {
  const old = readSteps(data)
  return checkEdit(old ? (old.steps[old.applied - 1]?.edit ?? old.start) : data)
}
