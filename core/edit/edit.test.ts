import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { EditCommand, EditDocument } from '../schema/edit'
import { InvalidDocument } from '../schema/validate'
import { recorded } from '../time/units'
import { apply, canRedo, describe as say, editState, editTimeMap, goTo, InvalidEdit, isTidied, layoutAt, newEdit, readEdit, redo, undo } from './edit'

const start = newEdit(recorded(60), 25)
const remove = (id: string, from: number, to: number): EditCommand => ({ do: 'remove', id, from: recorded(from), to: recorded(to) })

/** Any command, sensible or not; ids from a small pool, so that they meet. */
const command: fc.Arbitrary<EditCommand> = fc.oneof(
  fc.record({ do: fc.constant('remove' as const), id: fc.constantFrom('a', 'b', 'c', 'd'), from: fc.integer({ min: 0, max: 70 }).map(recorded), to: fc.integer({ min: 0, max: 70 }).map(recorded) }),
  fc.record({ do: fc.constant('move-edge' as const), id: fc.constantFrom('a', 'b', 'c', 'd'), edge: fc.constantFrom('from' as const, 'to' as const), at: fc.integer({ min: 0, max: 70 }).map(recorded) }),
  fc.record({ do: fc.constant('restore' as const), id: fc.constantFrom('a', 'b', 'c', 'd') }),
  fc.constant({ do: 'restore-all' as const }),
  fc.record({ do: fc.constant('layout' as const), layout: fc.constantFrom('inset' as const, 'screen' as const, 'camera' as const, 'beside' as const) }),
  fc.record({ do: fc.constant('insert' as const), id: fc.constantFrom('i', 'j'), at: fc.integer({ min: 0, max: 70 }).map(recorded), what: fc.record({ kind: fc.constant('picture' as const), file: fc.constant('map.png'), seconds: fc.integer({ min: 1, max: 9 }) }) }),
  fc.record({ do: fc.constant('stretch' as const), id: fc.constantFrom('s', 't'), from: fc.integer({ min: 0, max: 70 }).map(recorded), to: fc.integer({ min: 0, max: 70 }).map(recorded), what: fc.record({ kind: fc.constant('layout' as const), layout: fc.constantFrom('screen' as const, 'camera' as const) }) }),
  fc.record({ do: fc.constant('drop' as const), id: fc.constantFrom('i', 'j', 's', 't') }),
  fc.record({ do: fc.constant('fade' as const), seconds: fc.constantFrom(0, 0.5) }),
  fc.record({ do: fc.constant('sound' as const), treatment: fc.record({ noise: fc.constantFrom('keep' as const, 'reduce' as const), loudness: fc.constantFrom(null, -16), truePeak: fc.constant(-1) }) }),
)

/** Does what can be done of a list of commands. */
function applyAll(commands: readonly EditCommand[]): EditDocument {
  return commands.reduce((edit, c) => {
    try {
      return apply(edit, c)
    } catch (error) {
      if (error instanceof InvalidEdit) return edit
      throw error
    }
  }, start)
}

describe('the edit', () => {
  it('takes parts out and joins those that meet', () => {
    const edit = applyAll([remove('a', 10, 20), remove('b', 30, 40), remove('c', 18, 30)])
    expect(editState(edit).removed).toEqual([{ id: 'c', from: 10, to: 40 }])
    expect(editTimeMap(edit).length).toBeCloseTo(30, 9)
  })

  it('snaps edges to frames but never past the end', () => {
    const edit = apply(start, remove('a', 1.03, 59.999))
    expect(editState(edit).removed[0]?.from).toBeCloseTo(1.04, 9)
    const end = apply(start, remove('b', 30, 75))
    expect(editState(end).removed[0]?.to).toBe(60)
  })

  it('moves an edge and puts a part back', () => {
    let edit = apply(start, remove('a', 10, 20))
    edit = apply(edit, { do: 'move-edge', id: 'a', edge: 'to', at: recorded(15) })
    expect(editState(edit).removed).toEqual([{ id: 'a', from: 10, to: 15 }])
    expect(editState(apply(edit, { do: 'restore', id: 'a' })).removed).toEqual([])
  })

  it.each<[string, EditCommand, RegExp]>([
    ['an end before its start', remove('x', 20, 10), /end .* after its start/],
    ['a part behind the end', remove('x', 61, 65), /ends at 1:00.00/],
    ['an edge moved past the other', { do: 'move-edge', id: 'a', edge: 'from', at: recorded(25) }, /past the other end/],
    ['a part that is not there', { do: 'restore', id: 'nobody' }, /not taken out/],
  ])('refuses %s and changes nothing', (_, bad, says) => {
    const edit = apply(start, remove('a', 10, 20))
    expect(() => apply(edit, bad)).toThrow(says)
    expect(edit.commands).toHaveLength(1)
  })

  it('undoes any sequence of commands to the start, and redoes it to the same end', () => {
    fc.assert(fc.property(fc.array(command, { maxLength: 25 }), (commands) => {
      const edit = applyAll(commands)
      const states = [editState(edit)]
      let back = edit
      while (back.applied > 0) back = undo(back)
      expect(editState(back)).toEqual(editState(start))
      expect(undo(back)).toBe(back)
      let forth = back
      while (canRedo(forth)) forth = redo(forth)
      expect(editState(forth)).toEqual(states[0])
    }))
  })

  it('always gives sorted, disjoint parts inside the recording, and a map of the right length', () => {
    fc.assert(fc.property(fc.array(command, { maxLength: 25 }), (commands) => {
      const edit = applyAll(commands)
      const { removed } = editState(edit)
      removed.forEach((r, i) => {
        expect(r.to).toBeGreaterThan(r.from)
        expect(r.from).toBeGreaterThan(removed[i - 1]?.to ?? -1)
        expect(r.to).toBeLessThanOrEqual(60)
      })
      const put = editState(edit).inserts.reduce((s, i) => s + i.length, 0)
      expect(editTimeMap(edit).length).toBeCloseTo(60 - removed.reduce((s, r) => s + r.to - r.from, 0) + put, 6)
    }))
  })

  it('gives up what was undone when something new is done', () => {
    const edit = apply(undo(applyAll([remove('a', 1, 2), remove('b', 5, 6)])), remove('c', 8, 9))
    expect(edit.commands.map((c) => 'id' in c && c.id)).toEqual(['a', 'c'])
    expect(canRedo(edit)).toBe(false)
  })

  it('goes to any point of its history', () => {
    const edit = applyAll([remove('a', 1, 2), remove('b', 5, 6), { do: 'layout', layout: 'camera' }])
    expect(editState(goTo(edit, 1)).removed.map((r) => r.id)).toEqual(['a'])
    expect(goTo(edit, 99).applied).toBe(3)
    expect(goTo(edit, -4).applied).toBe(0)
  })

  it('counts a pause that the recorder folded as nothing tidied', () => {
    const paused = apply(start, { do: 'remove', id: 'p', from: recorded(3), to: recorded(5), reason: 'pause' })
    expect(isTidied(paused)).toBe(false)
    expect(isTidied(apply(paused, remove('a', 0, 1)))).toBe(true)
    expect(say(paused.commands[0] as EditCommand)).toBe('Folded a pause 0:03.0 – 0:05.0')
  })
})

describe('what is put in and laid over', () => {
  const picture = (id: string, at: number, seconds = 5): EditCommand => ({ do: 'insert', id, at: recorded(at), what: { kind: 'picture', file: 'map.png', seconds } })
  const mask = (id: string, from: number, to: number): EditCommand => ({ do: 'stretch', id, from: recorded(from), to: recorded(to), what: { kind: 'mask', box: { x: 0, y: 0, width: 0.5, height: 0.5 }, how: 'blur' } })
  const layout = (id: string, from: number, to: number, which: 'screen' | 'camera'): EditCommand => ({ do: 'stretch', id, from: recorded(from), to: recorded(to), what: { kind: 'layout', layout: which } })

  it('is kept in the order in which it is seen, and those at one instant as they were put in', () => {
    const edit = applyAll([picture('late', 40), picture('first', 10), picture('second', 10)])
    expect(editState(edit).inserts.map((i) => [i.id, i.at, i.length])).toEqual([['first', 10, 5], ['second', 10, 5], ['late', 40, 5]])
    expect(editTimeMap(edit).length).toBe(75)
  })

  it('is changed by another command of the same id, and takes its length from what it is', () => {
    const video = { do: 'insert', id: 'i', at: recorded(20), what: { kind: 'video', file: 'calving.mp4', from: recorded(3), to: recorded(11.5) } } as const satisfies EditCommand
    const edit = applyAll([picture('i', 10), video])
    expect(editState(edit).inserts).toEqual([{ id: 'i', at: 20, length: 8.5, what: video.what }])
  })

  it('lies in the order in which it was made, snaps to frames, and ends with the recording', () => {
    const edit = applyAll([mask('under', 1.03, 8), mask('over', 2, 99)])
    expect(editState(edit).stretches.map((s) => [s.id, s.from, s.to])).toEqual([['under', expect.closeTo(1.04, 9), 8], ['over', 2, 60]])
  })

  it('changes the layout for its time only, the later stretch deciding', () => {
    const state = editState(applyAll([layout('a', 10, 30, 'camera'), layout('b', 20, 25, 'screen'), mask('m', 0, 60)]))
    expect([5, 10, 19.9, 20, 25, 30].map((t) => layoutAt(state, t))).toEqual(['inset', 'camera', 'camera', 'screen', 'camera', 'inset'])
  })

  it('is dropped by its id, whichever of the two it is', () => {
    const edit = applyAll([picture('i', 10), mask('m', 2, 4), { do: 'drop', id: 'i' }, { do: 'drop', id: 'm' }])
    expect([editState(edit).inserts, editState(edit).stretches]).toEqual([[], []])
    expect(edit.commands).toHaveLength(4)
  })

  it('goes with a return to the original, and so do fades and sound', () => {
    const edit = applyAll([picture('i', 10), mask('m', 2, 4), { do: 'fade', seconds: 0.5 }, { do: 'sound', treatment: { noise: 'reduce', loudness: -16, truePeak: -1 } }, { do: 'restore-all' }])
    expect(editState(edit)).toEqual(editState(start))
    expect(editState(undo(edit))).toMatchObject({ fade: 0.5, sound: { noise: 'reduce', loudness: -16 } })
  })

  it.each<[string, EditCommand, RegExp]>([
    ['a stretch that ends before it begins', mask('m', 9, 8), /end of a stretch/],
    ['a video whose end comes first', { do: 'insert', id: 'v', at: recorded(1), what: { kind: 'video', file: 'a.mp4', from: recorded(5), to: recorded(5) } }, /end of the video/],
    ['dropping what is not there', { do: 'drop', id: 'nobody' }, /not there any more/],
  ])('refuses %s', (_, bad, says) => {
    expect(() => apply(start, bad)).toThrow(InvalidEdit)
    expect(() => apply(start, bad)).toThrow(says)
  })

  it('says each command in one line', () => {
    const said = [picture('i', 10), mask('m', 2, 4), layout('l', 61, 75.5, 'camera'), { do: 'fade', seconds: 0.5 }, { do: 'fade', seconds: 0 },
      { do: 'sound', treatment: { noise: 'keep', loudness: -16, truePeak: -1 } }, { do: 'sound', treatment: { noise: 'keep', loudness: null, truePeak: -1 } }] as EditCommand[]
    expect(said.map(say)).toEqual(['Put in a picture at 0:10.0', 'Masked 0:02.0 – 0:04.0', 'Camera alone 1:01.0 – 1:15.5', 'Fades of 0.5 s at seams', 'No fades at seams', 'Treated the sound', 'Sound as recorded'])
  })
})

describe('reading an edit document', () => {
  it('takes its own output', () => {
    fc.assert(fc.property(fc.array(command, { maxLength: 10 }), (commands) => {
      const edit = applyAll(commands)
      expect(readEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit)
    }))
  })
  it.each([
    ['another version', { ...start, version: 2 }],
    ['more applied than done', { ...start, applied: 1 }],
    ['a command that cannot follow', { ...start, commands: [{ do: 'restore', id: 'a' }], applied: 1 }],
    ['an unknown command', { ...start, commands: [{ do: 'explode' }], applied: 1 }],
    ['a field nobody knows', { ...start, owner: 'me' }],
    ['no object', 7],
  ])('refuses %s with a sentence', (_, data) => {
    expect(() => readEdit(data)).toThrow(InvalidDocument)
    expect(() => readEdit(data)).toThrow(/^This edit document cannot be used: .+\.$/)
  })
})
