import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { EditDocument } from '../schema/edit'
import type { EditCommand } from '../schema/edit-command'
import { InvalidDocument } from '../schema/validate'
import { recorded, result } from '../time/units'
import {
  apply,
  checkEdit,
  cutsIn,
  describe as say,
  editTimeMap,
  excerpt,
  insertLength,
  InvalidEdit,
  isTidied,
  layoutAt,
  newEdit,
  pieceAt,
  removeAll,
  restoring,
  reveal,
} from './edit'
import { readEdit, readSteps } from './upgrade'

const at = recorded
const start = newEdit(recorded(60), 25)
const remove = (id: string, from: number, to: number): EditCommand => ({
  do: 'remove',
  id,
  from: recorded(from),
  to: recorded(to),
})

/** Any command, sensible or not; ids from a small pool, so that they meet. */
const command: fc.Arbitrary<EditCommand> = fc.oneof(
  fc.record({
    do: fc.constant('remove' as const),
    id: fc.constantFrom('a', 'b', 'c', 'd'),
    from: fc.integer({ min: 0, max: 70 }).map(recorded),
    to: fc.integer({ min: 0, max: 70 }).map(recorded),
  }),
  fc.record({
    do: fc.constant('move-edge' as const),
    id: fc.constantFrom('a', 'b', 'c', 'd'),
    edge: fc.constantFrom('from' as const, 'to' as const),
    at: fc.integer({ min: 0, max: 70 }).map(recorded),
  }),
  fc.record({ do: fc.constant('restore' as const), id: fc.constantFrom('a', 'b', 'c', 'd') }),
  fc.constant({ do: 'restore-all' as const }),
  fc.record({
    do: fc.constant('layout' as const),
    layout: fc.constantFrom('inset' as const, 'screen' as const, 'camera' as const, 'beside' as const),
  }),
  fc.record({
    do: fc.constant('insert' as const),
    id: fc.constantFrom('i', 'j'),
    at: fc.integer({ min: 0, max: 70 }).map(recorded),
    what: fc.record({
      kind: fc.constant('picture' as const),
      file: fc.constant('map.png'),
      seconds: fc.integer({ min: 1, max: 9 }),
    }),
  }),
  fc.record({
    do: fc.constant('stretch' as const),
    id: fc.constantFrom('s', 't'),
    from: fc.integer({ min: 0, max: 70 }).map(recorded),
    to: fc.integer({ min: 0, max: 70 }).map(recorded),
    what: fc.record({
      kind: fc.constant('layout' as const),
      layout: fc.constantFrom('screen' as const, 'camera' as const),
    }),
  }),
  fc.record({ do: fc.constant('drop' as const), id: fc.constantFrom('i', 'j', 's', 't') }),
  fc.record({ do: fc.constant('fade' as const), seconds: fc.constantFrom(0, 0.5) }),
  fc.record({
    do: fc.constant('sound' as const),
    treatment: fc.record({
      noise: fc.constantFrom('keep' as const, 'reduce' as const),
      loudness: fc.constantFrom(null, -16),
      truePeak: fc.constant(-1),
    }),
  }),
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
  it('takes parts out; those that meet stay apart, and the map makes one of them', () => {
    const edit = applyAll([remove('a', 10, 20), remove('b', 30, 40), remove('c', 18, 30)])
    expect(edit.removed.map((r) => r.id)).toEqual(['a', 'c', 'b'])
    expect(editTimeMap(edit).removed).toEqual([{ from: 10, to: 40 }])
    expect(editTimeMap(apply(edit, { do: 'restore', id: 'c' })).removed).toEqual([
      { from: 10, to: 20 },
      { from: 30, to: 40 },
    ])
  })

  it('puts a seam back without unfolding a pause that it met, and the pause by itself', () => {
    const paused = apply(start, { ...remove('p', 12, 15), reason: 'pause' } as EditCommand)
    const edit = [remove('a', 10, 13), remove('b', 14, 20)].reduce(apply, paused)
    const [seam] = editTimeMap(edit).removed
    const back = apply(edit, restoring(cutsIn(edit, seam!))!)
    expect(editTimeMap(back).removed).toEqual([{ from: 12, to: 15 }])
    const whole = apply(back, restoring(cutsIn(back, seam!))!)
    expect(editTimeMap(whole).removed).toEqual([])
    expect(restoring([])).toBeNull()
  })

  it('goes back to the original, in which pauses are folded and drawing stands', () => {
    const ink: EditCommand = {
      do: 'stretch',
      id: 'ink',
      from: recorded(0),
      to: recorded(60),
      what: { kind: 'strokes', strokes: [] },
    }
    const made = [{ ...remove('p', 12, 15), reason: 'pause' } as EditCommand, ink].reduce(apply, start)
    const edit = [
      remove('a', 10, 13),
      { do: 'layout', layout: 'camera' } as EditCommand,
      { do: 'restore-all' } as EditCommand,
    ].reduce(apply, made)
    expect(edit).toEqual(made)
  })

  it('snaps edges to frames but never past the end', () => {
    const edit = apply(start, remove('a', 1.03, 59.999))
    expect(edit.removed[0]?.from).toBeCloseTo(1.04, 9)
    const end = apply(start, remove('b', 30, 75))
    expect(end.removed[0]?.to).toBe(60)
  })

  it('moves an edge and puts a part back', () => {
    let edit = apply(start, remove('a', 10, 20))
    edit = apply(edit, { do: 'move-edge', id: 'a', edge: 'to', at: recorded(15) })
    expect(edit.removed).toEqual([{ id: 'a', from: 10, to: 15 }])
    expect(apply(edit, { do: 'restore', id: 'a' }).removed).toEqual([])
  })

  it.each<[string, EditCommand, RegExp]>([
    ['an end before its start', remove('x', 20, 10), /end .* after its start/],
    ['a part behind the end', remove('x', 61, 65), /ends at 1:00.00/],
    [
      'an edge moved past the other',
      { do: 'move-edge', id: 'a', edge: 'from', at: recorded(25) },
      /past the other end/,
    ],
    ['a part that is not there', { do: 'restore', id: 'nobody' }, /not taken out/],
  ])('refuses %s and changes nothing', (_, bad, says) => {
    const edit = apply(start, remove('a', 10, 20))
    expect(() => apply(edit, bad)).toThrow(says)
    expect(edit.removed).toHaveLength(1)
  })

  it('always gives sorted parts inside the recording, of which the map makes disjoint ones, and is as long as what is left', () => {
    fc.assert(
      fc.property(fc.array(command, { maxLength: 25 }), (commands) => {
        const edit = applyAll(commands)
        edit.removed.forEach((r, i, all) => {
          expect(r.to).toBeGreaterThan(r.from)
          expect(r.from).toBeGreaterThanOrEqual(all[i - 1]?.from ?? 0)
          expect(r.to).toBeLessThanOrEqual(60)
        })
        const { removed } = editTimeMap(edit)
        removed.forEach((r, i) => expect(r.from).toBeGreaterThan(removed[i - 1]?.to ?? -1))
        // Every instant is out exactly when some command took it out that still stands.
        for (let t = 0.5; t < 60; t++)
          expect(removed.some((r) => t >= r.from && t < r.to)).toBe(edit.removed.some((r) => t >= r.from && t < r.to))
        const put = edit.inserts.reduce((s, i) => s + insertLength(i.what), 0)
        expect(editTimeMap(edit).length).toBeCloseTo(60 - removed.reduce((s, r) => s + r.to - r.from, 0) + put, 6)
      }),
    )
  })

  it('counts a pause that the recorder folded as nothing tidied', () => {
    const pause: EditCommand = { do: 'remove', id: 'p', from: recorded(3), to: recorded(5), reason: 'pause' }
    const paused = apply(start, pause)
    expect(say(pause)).toBe('Folded a pause 0:03.0 – 0:05.0')
    expect(isTidied(paused)).toBe(false)
    const cut = apply(paused, remove('a', 0, 1))
    expect(isTidied(cut)).toBe(true)
    expect(isTidied(apply(cut, { do: 'restore', id: 'a' }))).toBe(false)
    expect(isTidied(apply(cut, { do: 'restore-all' }))).toBe(false)
    expect(isTidied(apply(paused, { do: 'fade', seconds: 1 }))).toBe(true)
  })
})

describe('several stretches at once', () => {
  const ranges = fc.array(
    fc.tuple(fc.integer({ min: 0, max: 55 }), fc.integer({ min: 1, max: 9 })).map(([from, length]) => ({
      from: recorded(from),
      to: recorded(Math.min(60, from + length)),
    })),
    { minLength: 1, maxLength: 6 },
  )
  const ids = () => {
    let n = 0
    return () => `n${n++}`
  }
  const isOut = (edit: EditDocument, time: number) =>
    editTimeMap(edit).removed.some((r) => r.from <= time && time < r.to)
  it('are taken out, and put back whichever cuts they lie in; all else stays as it was', () => {
    fc.assert(
      fc.property(ranges, ranges, (out, back) => {
        const newId = ids()
        const cut = removeAll(start, out, newId)
        const put = reveal(cut, back, newId)
        const inside = (all: typeof out, t: number) => all.some((r) => r.from <= t && t < r.to)
        for (let t = 0.5; t < 60; t++) {
          expect(isOut(cut, t)).toBe(inside(out, t))
          expect(isOut(put, t)).toBe(inside(out, t) && !inside(back, t))
        }
        expect(new Set(put.removed.map((r) => r.id)).size).toBe(put.removed.length)
      }),
    )
  })
})

describe('what is put in and laid over', () => {
  const picture = (id: string, at: number, seconds = 5): EditCommand => ({
    do: 'insert',
    id,
    at: recorded(at),
    what: { kind: 'picture', file: 'map.png', seconds },
  })
  const mask = (id: string, from: number, to: number): EditCommand => ({
    do: 'stretch',
    id,
    from: recorded(from),
    to: recorded(to),
    what: { kind: 'mask', box: { x: 0, y: 0, width: 0.5, height: 0.5 }, how: 'blur' },
  })
  const layout = (id: string, from: number, to: number, which: 'screen' | 'camera'): EditCommand => ({
    do: 'stretch',
    id,
    from: recorded(from),
    to: recorded(to),
    what: { kind: 'layout', layout: which },
  })

  it('is kept in the order in which it is seen, and those at one instant as they were put in', () => {
    const edit = applyAll([picture('late', 40), picture('first', 10), picture('second', 10)])
    expect(edit.inserts.map((i) => [i.id, i.at, insertLength(i.what)])).toEqual([
      ['first', 10, 5],
      ['second', 10, 5],
      ['late', 40, 5],
    ])
    expect(editTimeMap(edit).length).toBe(75)
  })

  it('is changed by another command of the same id, and takes its length from what it is', () => {
    const video = {
      do: 'insert',
      id: 'i',
      at: recorded(20),
      what: { kind: 'video', file: 'calving.mp4', from: recorded(3), to: recorded(11.5) },
    } as const satisfies EditCommand
    const edit = applyAll([picture('i', 10), video])
    expect(edit.inserts).toEqual([{ id: 'i', at: 20, order: 0, what: video.what }])
    expect(editTimeMap(edit).length).toBe(68.5)
  })

  it('lies in the order in which it was made, snaps to frames, and ends with the recording', () => {
    const edit = applyAll([mask('under', 1.03, 8), mask('over', 2, 99)])
    expect(edit.stretches.map((s) => [s.id, s.from, s.to])).toEqual([
      ['under', expect.closeTo(1.04, 9), 8],
      ['over', 2, 60],
    ])
  })

  it('changes the layout for its time only, the later stretch deciding', () => {
    const state = applyAll([layout('a', 10, 30, 'camera'), layout('b', 20, 25, 'screen'), mask('m', 0, 60)])
    expect([5, 10, 19.9, 20, 25, 30].map((t) => layoutAt(state, t))).toEqual([
      'inset',
      'camera',
      'camera',
      'screen',
      'camera',
      'inset',
    ])
  })

  it('is dropped by its id, whichever of the two it is', () => {
    const edit = applyAll([picture('i', 10), mask('m', 2, 4), { do: 'drop', id: 'i' }, { do: 'drop', id: 'm' }])
    expect([edit.inserts, edit.stretches]).toEqual([[], []])
  })

  it('goes with a return to the original, and so do fades and sound', () => {
    const edit = applyAll([
      picture('i', 10),
      mask('m', 2, 4),
      { do: 'fade', seconds: 0.5 },
      { do: 'sound', treatment: { noise: 'reduce', loudness: -16, truePeak: -1 } },
      { do: 'restore-all' },
    ])
    expect(edit).toEqual(start)
  })

  it.each<[string, EditCommand, RegExp]>([
    ['a stretch that ends before it begins', mask('m', 9, 8), /end of a stretch/],
    [
      'a video whose end comes first',
      {
        do: 'insert',
        id: 'v',
        at: recorded(1),
        what: { kind: 'video', file: 'a.mp4', from: recorded(5), to: recorded(5) },
      },
      /end of the video/,
    ],
    ['dropping what is not there', { do: 'drop', id: 'nobody' }, /not there any more/],
  ])('refuses %s', (_, bad, says) => {
    expect(() => apply(start, bad)).toThrow(InvalidEdit)
    expect(() => apply(start, bad)).toThrow(says)
  })

  it('says each command in one line', () => {
    const said = [
      picture('i', 10),
      mask('m', 2, 4),
      layout('l', 61, 75.5, 'camera'),
      { do: 'fade', seconds: 0.5 },
      { do: 'fade', seconds: 0 },
      { do: 'sound', treatment: { noise: 'keep', loudness: -16, truePeak: -1 } },
      { do: 'sound', treatment: { noise: 'keep', loudness: null, truePeak: -1 } },
    ] as EditCommand[]
    expect(said.map((c) => say(c))).toEqual([
      'Put in a picture at 0:10.0',
      'Masked 0:02.0 – 0:04.0',
      'Camera alone 1:01.0 – 1:15.5',
      'Fades of 0.5 s at seams',
      'No fades at seams',
      'Treated the sound',
      'Sound as recorded',
    ])
  })
})

describe('pieces', () => {
  const cut = apply(newEdit(at(100), 25), { do: 'remove', id: 'r', from: at(20), to: at(30) })
  const split = (edit: EditDocument, t: number) => apply(edit, { do: 'split', id: `s${t}`, at: at(t) })

  it('run from one cut, split or end to the next', () => {
    const edit = split(split(cut, 10), 50)
    expect(pieceAt(edit, 4)).toEqual({ from: 0, to: 10 })
    expect(pieceAt(edit, 10)).toEqual({ from: 10, to: 20 })
    expect(pieceAt(edit, 30)).toEqual({ from: 30, to: 50 })
    expect(pieceAt(edit, 100)).toEqual({ from: 50, to: 100 })
    expect(pieceAt(edit, 25)).toBeNull()
    expect(pieceAt(edit, 20)).toBeNull()
  })
  it('are dropped and put back whole, and the others stay', () => {
    const edit = split(cut, 10)
    const piece = pieceAt(edit, 15)!
    const dropped = apply(edit, { do: 'remove', id: 'd', ...piece })
    expect(editTimeMap(dropped).kept.map((k) => [k.from, k.to])).toEqual([
      [0, 10],
      [30, 100],
    ])
    expect(pieceAt(apply(dropped, { do: 'restore', id: 'd' }), 15)).toEqual(piece)
  })
  it('cannot be split where one begins, or where nothing is', () => {
    expect(() => split(cut, 25)).toThrow(InvalidEdit)
    expect(() => split(cut, 0)).toThrow('begins here already')
    expect(() => split(split(cut, 50), 50)).toThrow('begins here already')
  })
  it('are joined again by dropping the split, which changes nothing that is seen', () => {
    const edit = split(cut, 50)
    expect(isTidied(split(newEdit(at(100), 25), 50))).toBe(false)
    expect(editTimeMap(edit)).toEqual(editTimeMap(cut))
    expect(apply(edit, { do: 'drop', id: 's50' }).splits).toEqual([])
  })
})

describe('a mark over the whole lecture', () => {
  const watermark = { file: 'crest', box: { x: 0.9, y: 0, width: 0.1, height: 0.1 }, opacity: 0.5 }
  it('is put, taken off, and taken off with all else', () => {
    const edit = apply(newEdit(at(100), 25), { do: 'watermark', watermark })
    expect(edit.watermark).toEqual(watermark)
    expect(isTidied(edit)).toBe(true)
    expect('watermark' in apply(edit, { do: 'watermark', watermark: null })).toBe(false)
    expect('watermark' in apply(edit, { do: 'restore-all' })).toBe(false)
    expect(checkEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit)
  })
})

describe('reading an edit document', () => {
  it('takes its own output', () => {
    fc.assert(
      fc.property(fc.array(command, { maxLength: 10 }), (commands) => {
        const edit = applyAll(commands)
        expect(readEdit(JSON.parse(JSON.stringify(edit)))).toEqual(edit)
      }),
    )
  })
  it('takes what is put in and laid over in the order in which it is listed, where no order is given', () => {
    const what = { kind: 'mask', box: { x: 0, y: 0, width: 0.5, height: 0.5 }, how: 'blur' }
    const stretches = [
      { id: 'under', from: 1.03, to: 8, what },
      { id: 'over', from: 0, to: 99, what },
    ]
    const edit = readEdit({ ...start, stretches })
    expect(edit.stretches.map((s) => [s.id, s.from, s.to])).toEqual([
      ['under', expect.closeTo(1.04, 9), 8],
      ['over', 0, 60],
    ])
  })
  const old = { format: 'thaw-edit', version: 2, duration: 60, frameRate: 25, commands: [] as unknown[], applied: 0 }
  const cut = { id: 'a', from: 1, to: 2 }
  it.each([
    ['another version', { ...start, version: 4 }],
    ['more applied than done', { ...old, applied: 1 }],
    ['a command that cannot follow', { ...old, commands: [{ do: 'restore', id: 'a' }], applied: 1 }],
    ['an unknown command', { ...old, commands: [{ do: 'explode' }], applied: 1 }],
    ['a field nobody knows', { ...start, owner: 'me' }],
    ['one id twice', { ...start, removed: [cut, cut] }],
    ['a part that ends before it begins', { ...start, removed: [{ ...cut, to: 1 }] }],
    ['a part behind the end', { ...start, removed: [{ id: 'a', from: 61, to: 65 }] }],
    ['no object', 7],
  ])('refuses %s with a sentence', (_, data) => {
    expect(() => readEdit(data)).toThrow(InvalidDocument)
    expect(() => readEdit(data)).toThrow(/^This edit document cannot be used: .+\.$/)
  })
})

describe('an edit of version 2', () => {
  it('opens as what its applied commands came to, with a step for every command', () => {
    fc.assert(
      fc.property(fc.array(command, { maxLength: 15 }), fc.nat(15), (commands, n) => {
        const done: EditCommand[] = []
        const states = [start]
        for (const c of commands) {
          try {
            states.push(apply(states.at(-1)!, c))
            done.push(c)
          } catch (error) {
            if (!(error instanceof InvalidEdit)) throw error
          }
        }
        const applied = Math.min(n, done.length)
        const old = { format: 'thaw-edit', version: 2, duration: 60, frameRate: 25, commands: done, applied }
        expect(readEdit(old)).toEqual(states[applied])
        const read = readSteps(old)
        expect([read?.start, ...(read?.steps.map((s) => s.edit) ?? [])]).toEqual(states)
        expect(read?.steps.map((s) => s.says)).toEqual(done.map((c) => say(c)))
      }),
    )
    expect(readSteps(start)).toBeNull()
  })
})

describe('an edit of version 1', () => {
  /** What version 1 made of its commands: cuts that touch become one, under the id of the later. */
  function asItWas(commands: readonly EditCommand[]): string {
    let cuts: { id: string; from: number; to: number }[] = []
    const add = (added: (typeof cuts)[number], others: typeof cuts) => {
      const met = others.filter((c) => c.to >= added.from && c.from <= added.to)
      cuts = [
        ...others.filter((c) => !met.includes(c)),
        {
          id: added.id,
          from: Math.min(added.from, ...met.map((c) => c.from)),
          to: Math.max(added.to, ...met.map((c) => c.to)),
        },
      ]
    }
    for (const c of commands) {
      if (c.do === 'remove') add({ id: c.id, from: c.from, to: Math.min(60, c.to) }, cuts)
      if (c.do === 'move-edge') {
        const range = cuts.find((r) => r.id === c.id)!
        add(
          { ...range, [c.edge]: Math.min(60, c.at) },
          cuts.filter((r) => r !== range),
        )
      }
      if (c.do === 'restore') cuts = cuts.filter((r) => r.id !== c.id)
      if (c.do === 'restore-all') cuts = []
    }
    return JSON.stringify(cuts.map(({ from, to }) => [from, to]).sort((a, b) => a[0]! - b[0]!))
  }
  const version1 = (commands: EditCommand[]) => ({
    format: 'thaw-edit',
    version: 1,
    duration: 60,
    frameRate: 25,
    commands,
    applied: commands.length,
  })
  it('opens with every state of its history as it was', () => {
    fc.assert(
      fc.property(fc.array(command, { maxLength: 25 }), (commands) => {
        // Only what version 1 itself would have taken.
        const old: EditCommand[] = []
        for (const c of commands) {
          if (c.do === 'remove' && (c.to <= c.from || c.from >= 60)) continue
          // Every cut was given an id of its own.
          if (c.do === 'remove' && old.some((o) => o.do === 'remove' && o.id === c.id)) continue
          const known = JSON.parse(asItWas(old)) as number[][]
          if (c.do === 'move-edge' || c.do === 'restore') {
            const standing = readEdit(version1(old))
            const range = standing.removed.find((r) => r.id === c.id)
            if (!range || known.length === 0) continue
            if (c.do === 'move-edge' && !(c.edge === 'from' ? c.at < range.to : Math.min(60, c.at) > range.from))
              continue
          }
          if (c.do !== 'remove' && c.do !== 'move-edge' && c.do !== 'restore' && c.do !== 'restore-all') continue
          old.push(c)
        }
        const read = readSteps(version1(old))
        for (const [n, edit] of [read!.start, ...read!.steps.map((s) => s.edit)].entries())
          expect(JSON.stringify(editTimeMap(edit).removed.map(({ from, to }) => [from, to]))).toBe(
            asItWas(old.slice(0, n)),
          )
      }),
    )
  })
})

it('what is behind a speaker can be put there, said, and taken away', () => {
  const background = { on: 'camera', how: { kind: 'blur' as const } }
  const set = apply(start, { do: 'background', background })
  expect(checkEdit(set)).toEqual(set)
  expect([isTidied(start), isTidied(set)]).toEqual([false, true])
  expect(say({ do: 'background', background })).toBe('Background blurred')
  expect(apply(set, { do: 'background', background: null })).toEqual(start)
  expect(apply(set, { do: 'restore-all' })).toEqual(start)
})

describe('an excerpt', () => {
  const at = recorded
  const card = (id: string, where: number, seconds: number): EditCommand => ({
    ...{ do: 'insert', id, at: at(where) },
    what: { kind: 'card', title: id, text: '', seconds, ink: '#ffffff', ground: '#000000' },
  })
  const made = [
    { do: 'remove', id: 'r', from: at(10), to: at(20) } as EditCommand,
    card('first', 0, 4),
    card('middle', 30, 5),
    { do: 'sound', treatment: { noise: 'reduce', loudness: -16, truePeak: -1 } } as EditCommand,
  ].reduce(apply, newEdit(at(60), 25))
  // first 0–4, recorded 0–10 at 4–14, recorded 20–30 at 14–24, middle 24–29, recorded 30–60 at 29–59.
  it.each([
    [0, 59, 59, ['first', 'middle']],
    [0, 4, 4, ['first']],
    [6, 20, 14, []],
    [10, 34, 24, ['middle']],
    [10, 26, 14, []],
    [29, 59, 30, []],
  ])('from %d to %d of the result is %d s long', (from, to, length, ids) => {
    const part = excerpt(made, { from: result(from), to: result(to) })
    expect(editTimeMap(part).length).toBeCloseTo(length, 6)
    expect(part.inserts.map((i) => i.id)).toEqual(ids)
    expect(part.sound.noise).toBe('keep')
    expect(checkEdit(part)).toEqual(part)
  })
})
