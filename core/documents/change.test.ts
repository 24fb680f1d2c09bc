import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { newTrack } from '../captions/track'
import { apply, editTimeMap, newEdit } from '../edit/edit'
import { newCheckpoint, newQuestionSet } from '../questions/set'
import type { EditCommand } from '../schema/edit-command'
import { recorded } from '../time/units'
import { applyChange, changeBetween, compose, isEmpty, joinDocuments, reverse } from './change'
import { emptyHistory, goTo, HISTORY_LENGTH, withStep, type History } from './history'
import { kinds } from './kinds'

interface Doc {
  items: { id: string; text: string }[]
  title: string
  note?: string
}
const lists = { items: (a: { id: string }, b: { id: string }) => a.id.localeCompare(b.id) }
const words = fc.constantFrom('ice', 'snow', 'water')
const doc: fc.Arbitrary<Doc> = fc
  .record(
    {
      items: fc.uniqueArray(
        fc.record({ id: fc.constantFrom('a', 'b', 'c', 'd', 'e'), text: words }, { noNullPrototype: true }),
        { selector: (i) => i.id },
      ),
      title: words,
      note: fc.option(words, { nil: undefined }),
    },
    { noNullPrototype: true },
  )
  .map(({ items, note, ...rest }) => ({
    ...rest,
    ...(note && { note }),
    items: [...items].sort((a, b) => a.id.localeCompare(b.id)),
  }))

describe('a change', () => {
  it('leads from one state to the other, and back', () => {
    fc.assert(
      fc.property(doc, doc, (before, after) => {
        const change = changeBetween(lists, before, after)
        expect(applyChange(lists, before, change)).toEqual({ document: after, conflicts: [] })
        expect(applyChange(lists, after, reverse(change))).toEqual({ document: before, conflicts: [] })
        expect(isEmpty(changeBetween(lists, before, structuredClone(before)))).toBe(true)
      }),
    )
  })
  it('of two after each other is one, which also leads there', () => {
    fc.assert(
      fc.property(doc, doc, doc, (a, b, c) => {
        const change = compose(changeBetween(lists, a, b), changeBetween(lists, b, c))
        expect(applyChange(lists, a, change).document).toEqual(c)
        expect(isEmpty(compose(change, reverse(change)))).toBe(true)
      }),
    )
  })
})

describe('joining two changes', () => {
  it('of one side alone is that side, and with itself itself', () => {
    fc.assert(
      fc.property(doc, doc, (base, mine) => {
        expect(joinDocuments(lists, base, mine, base)).toEqual({ document: mine, conflicts: [] })
        expect(joinDocuments(lists, base, base, mine)).toEqual({ document: mine, conflicts: [] })
        expect(joinDocuments(lists, base, mine, mine)).toEqual({ document: mine, conflicts: [] })
      }),
    )
  })
  it('does not ask who is who', () => {
    fc.assert(
      fc.property(fc.option(doc), doc, doc, (base, mine, theirs) => {
        const [one, other] = [joinDocuments(lists, base, mine, theirs), joinDocuments(lists, base, theirs, mine)]
        expect(one.document).toEqual(other.document)
        const sorted = (list: typeof one.conflicts) => [...list].sort((a, b) => a.id.localeCompare(b.id))
        expect(sorted(one.conflicts)).toEqual(sorted(other.conflicts))
      }),
    )
  })
  it('loses nothing that either side wrote: it stands, or is shown to a person', () => {
    fc.assert(
      fc.property(doc, doc, doc, (base, mine, theirs) => {
        const shown = JSON.stringify(joinDocuments(lists, base, mine, theirs))
        for (const side of [mine, theirs]) {
          for (const item of side.items)
            if (!base.items.some((b) => b.id === item.id && b.text === item.text))
              expect(shown).toContain(JSON.stringify(item))
          if (side.title !== base.title) expect(shown).toContain(JSON.stringify(side.title))
        }
      }),
    )
  })
  it('brings nothing back that one side deleted and the other left alone', () => {
    const base = {
      items: [
        { id: 'a', text: 'ice' },
        { id: 'b', text: 'snow' },
      ],
      title: '',
    }
    const mine = { ...base, items: base.items.slice(1) }
    expect(joinDocuments(lists, base, mine, { ...base, items: [base.items[0]!, { id: 'b', text: 'water' }] })).toEqual({
      document: { title: '', items: [{ id: 'b', text: 'water' }] },
      conflicts: [],
    })
    const firn = { id: 'a', text: 'firn' }
    expect(joinDocuments(lists, base, mine, { ...base, items: [firn, base.items[1]!] }).conflicts).toEqual([
      { list: 'items', id: 'a', sides: [firn, null] },
    ])
  })
})

describe('a history', () => {
  const act = fc.oneof(
    { weight: 3, arbitrary: doc.map((next) => ({ do: 'change' as const, next })) },
    fc.constantFrom({ do: 'undo' as const }, { do: 'redo' as const }),
  )
  it('has every state that a person saw, whatever is done, undone and done instead', () => {
    fc.assert(
      fc.property(doc, fc.array(act, { maxLength: 30 }), (start, acts) => {
        let [now, history]: [Doc, History] = [start, emptyHistory]
        let seen = [start]
        let at = 0
        for (const one of acts) {
          if (one.do === 'change') {
            const change = changeBetween(lists, now, one.next)
            if (!isEmpty(change)) seen = [...seen.slice(0, ++at), one.next]
            history = withStep(history, { says: 'Changed', doneAt: '', change })
            now = one.next
          } else {
            at = Math.min(seen.length - 1, Math.max(0, at + (one.do === 'undo' ? -1 : 1)))
            const gone = goTo(lists, now, history, history.applied + (one.do === 'undo' ? -1 : 1))
            expect(gone.conflicts).toEqual([])
            now = gone.document
            history = gone.history
          }
          expect(now).toEqual(seen[at])
          expect([history.applied, history.steps.length]).toEqual([at, seen.length - 1])
        }
        // And any point of it, from any other.
        for (const [n, state] of seen.entries()) expect(goTo(lists, now, history, n).document).toEqual(state)
      }),
    )
  })
  const at = (seconds: number) => new Date(Date.UTC(2026, 10, 26) + 1000 * seconds).toISOString()
  const typed = (text: string, seconds: number, before: Doc, field = 'note') => ({
    says: 'Wrote',
    doneAt: at(seconds),
    field,
    change: changeBetween(lists, before, { ...before, note: text }),
  })
  it('takes what is written on into one field as one step, for a while, and another field as another', () => {
    const empty: Doc = { items: [], title: '' }
    let history = withStep(emptyHistory, typed('i', 0, empty))
    history = withStep(history, typed('ice', 5, { ...empty, note: 'i' }))
    expect(history.steps).toHaveLength(1)
    expect(goTo(lists, { ...empty, note: 'ice' }, history, 0).document).toEqual(empty)
    expect(withStep(history, typed('ice!', 40, { ...empty, note: 'ice' })).steps).toHaveLength(2)
    expect(withStep(history, typed('x', 6, { ...empty, note: 'ice' }, 'title')).steps).toHaveLength(2)
    const back = { ...typed('', 6, empty), change: changeBetween(lists, { ...empty, note: 'ice' }, empty) }
    expect(withStep(history, back).steps).toHaveLength(0)
  })
  it('undoes its own step although another hand changed something else since, and shows both where it was the same', () => {
    const base: Doc = { items: [{ id: 'a', text: 'ice' }], title: 'snow' }
    const mine: Doc = { ...base, items: [{ id: 'a', text: 'water' }] }
    const history = withStep(emptyHistory, { says: '', doneAt: '', change: changeBetween(lists, base, mine) })
    expect(goTo(lists, { ...mine, title: 'water' }, history, 0)).toMatchObject({
      document: { items: base.items, title: 'water' },
      conflicts: [],
    })
    const firn = { id: 'a', text: 'firn' }
    expect(goTo(lists, { ...mine, items: [firn] }, history, 0).conflicts).toEqual([
      { list: 'items', id: 'a', sides: [firn, base.items[0]] },
    ])
  })
  it('keeps so many steps', () => {
    let history = emptyHistory
    for (let n = 0; n < HISTORY_LENGTH + 5; n++)
      history = withStep(history, {
        says: `${n}`,
        doneAt: '',
        change: { items: [], fields: [{ field: 'n', before: n, after: n + 1 }] },
      })
    expect([history.steps.length, history.applied, history.steps[0]?.says]).toEqual([
      HISTORY_LENGTH,
      HISTORY_LENGTH,
      '5',
    ])
  })
})

describe('the kinds', () => {
  const cue = (id: string, from: number, text: string) => ({ id, from: recorded(from), to: recorded(from + 2), text })
  const track = (...cues: ReturnType<typeof cue>[]) => newTrack({ cues }, 'recogniser')
  it('captions changed in two places are joined cue by cue', () => {
    const base = track(cue('a', 0, 'one'), cue('b', 3, 'two'))
    const mine = track(cue('a', 0, 'ONE'), cue('c', 1, 'mine'), cue('b', 3, 'two'))
    const theirs = {
      ...track(cue('a', 0, 'one'), cue('b', 3, 'TWO'), cue('d', 9, 'theirs')),
      state: 'checked' as const,
    }
    const { document, conflicts } = joinDocuments(kinds.captions.lists, base, mine, theirs)
    expect(document.cues.map((c) => [c.id, c.text])).toEqual([
      ['a', 'ONE'],
      ['c', 'mine'],
      ['b', 'TWO'],
      ['d', 'theirs'],
    ])
    expect([document.state, conflicts]).toEqual(['checked', []])
    const both = joinDocuments(kinds.captions.lists, null, track(cue('a', 0, 'x')), track(cue('b', 3, 'y')))
    expect(both.document.cues).toHaveLength(2)
  })
  it('questions asked in two places are all there, in the order of time', () => {
    let n = 0
    const ask = (at: number) => newCheckpoint(recorded(at), () => `i${++n}`)
    const base = { ...newQuestionSet('x'), checkpoints: [ask(5)] }
    const [mine, theirs] = [ask(9), ask(2)]
    const { document } = joinDocuments(
      kinds.questions.lists,
      base,
      { ...base, checkpoints: [...base.checkpoints, mine] },
      { ...base, checkpoints: [theirs, ...base.checkpoints] },
    )
    expect(document.checkpoints.map((c) => c.at)).toEqual([2, 5, 9])
  })
  const start = newEdit(recorded(60), 25)
  const cut = (id: string, from: number): EditCommand => ({
    do: 'remove',
    id,
    from: recorded(from),
    to: recorded(from + 1),
  })
  it('an edit changed in two places has what was done in both, and not what either undid', () => {
    const base = [cut('a', 1), cut('b', 10)].reduce(apply, start)
    const mine = [{ do: 'restore', id: 'b' } as EditCommand, cut('mine', 20)].reduce(apply, base)
    const { document, conflicts } = joinDocuments(kinds.edit.lists, base, mine, apply(base, cut('theirs', 30)))
    expect([document.removed.map((r) => r.id), conflicts]).toEqual([['a', 'mine', 'theirs'], []])
  })
  it('a part that one side moved and the other put back is shown to a person', () => {
    const base = apply(start, cut('a', 1))
    const moved = apply(base, { do: 'move-edge', id: 'a', edge: 'to', at: recorded(5) })
    const { conflicts } = joinDocuments(kinds.edit.lists, base, moved, apply(base, { do: 'restore', id: 'a' }))
    expect(conflicts).toEqual([{ list: 'removed', id: 'a', sides: [{ id: 'a', from: 1, to: 5 }, null] }])
    expect(kinds.edit.say('removed', 'a', conflicts[0]!.sides[0], editTimeMap(base))).toBe(
      'Took out 0:01.0 – 0:05.0 of the recording',
    )
  })
  it('an edit of a recording that has grown keeps its length', () => {
    const longer = apply({ ...start, duration: recorded(90) }, { ...cut('pause', 70), reason: 'pause' } as EditCommand)
    const { document } = joinDocuments(kinds.edit.lists, start, apply(start, cut('mine', 10)), longer)
    expect([document.duration, document.removed.map((r) => r.id)]).toEqual([90, ['mine', 'pause']])
  })
})
