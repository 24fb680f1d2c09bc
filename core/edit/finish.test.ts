import { describe, expect, it } from 'vitest'
import { newTrack } from '../captions/track'
import { newCheckpoint, newQuestionSet } from '../questions/set'
import type { Finish } from '../schema/finish'
import type { ProposedCut } from '../sound/silence'
import { recorded } from '../time/units'
import { apply, checkEdit, editTimeMap, newEdit } from './edit'
import { fieldsOf, fillFields, newFinish, putFinish, readFinish, type FieldValues, type FinishSubject } from './finish'

const at = recorded
const fields: FieldValues = {
  title: 'How ice flows',
  course: 'PS 201 Glaciers',
  week: 'Week 3',
  lecturer: 'I. Fjeld',
  date: '9 November 2026',
  rights: '© 2026 Norrhaven Polar College',
}
const plain: Finish = {
  ...newFinish('f', 'Plain'),
  opening: null,
  closing: null,
  sound: null,
  trims: { ends: false, pauses: false, words: false },
  chapters: false,
}
const cut = (from: number, to: number, reason: ProposedCut['reason']): ProposedCut => ({
  ...{ from: at(from), to: at(to), reason },
  says: '',
})
const subject = (changes: Partial<FinishSubject> = {}): FinishSubject => ({
  fields,
  edit: newEdit(at(100), 25),
  chapters: null,
  others: {},
  proposals: [],
  slides: [],
  hasSound: true,
  clipped: 0,
  ...changes,
})
let n = 0
const newId = () => `n${n++}`
const put = (finish: Finish, on = subject()) => putFinish(finish, on, newId)
const cards = ({ inserts }: { inserts: ReturnType<typeof newEdit>['inserts'] }) =>
  inserts.map(({ id, at: where, what }) => [id, where, what.kind === 'card' ? [what.title, what.text] : what.kind])

describe('fields of a card', () => {
  it.each([
    ['{title}', 'How ice flows', []],
    ['{lecturer} · {date}', 'I. Fjeld · 9 November 2026', []],
    ['no field', 'no field', []],
  ])('%s', (text, filled, missing) => {
    expect(fillFields(text, fields)).toEqual({ text: filled, missing, unknown: [] })
  })
  it.each([
    ['{lecturer}\n{title}', 'How ice flows'],
    ['{lecturer} · {date}', '9 November 2026'],
    ['{date} · {lecturer}', '9 November 2026'],
    ['{course} · {lecturer} · {date}', 'PS 201 Glaciers · 9 November 2026'],
    ['by {lecturer}', 'by'],
    ['{lecturer}', ''],
  ])('without a lecturer, %j says %j', (text, filled) => {
    const found = fillFields(text, { ...fields, lecturer: '' })
    expect(found).toEqual({ text: filled, missing: ['lecturer'], unknown: [] })
  })
  it('that there are not stay, and are told', () => {
    expect(fillFields('{titel} {constructor}', fields)).toMatchObject({
      text: '{titel} {constructor}',
      unknown: ['titel', 'constructor'],
    })
  })
  it('what a title says is no field', () => {
    expect(fillFields('{title}', { ...fields, title: '{rights} $& $1' }).text).toBe('{rights} $& $1')
  })
  it('come from the particulars', () => {
    const lecture = { title: 'Ice', week: 2, lecturer: ' I. Fjeld ' }
    expect(fieldsOf(lecture, { code: 'PS 1', title: 'Snow' }, '')).toEqual({
      ...{ title: 'Ice', course: 'PS 1 Snow', week: 'Week 2', lecturer: 'I. Fjeld', date: '', rights: '' },
    })
    const rights = { owner: 'Norrhaven', year: 2026, licence: 'CC BY 4.0', attribution: '' }
    expect(fieldsOf({ ...lecture, rights }, null, '').rights).toMatch(/^© 2026 Norrhaven\nCC BY 4\.0 · /)
  })
})

describe('a finish', () => {
  it('puts its cards before and after all else, once, however often it is put on', () => {
    const what = { kind: 'picture' as const, file: 'x.png', seconds: 5 }
    let edit = apply(newEdit(at(100), 25), { do: 'insert', id: 'own', at: at(0), what })
    edit = apply(edit, { do: 'insert', id: 'last', at: at(100), what })
    const finish = newFinish('f', 'Usual')
    const once = put(finish, subject({ edit }))
    const twice = put({ ...finish, closing: null }, subject({ edit: once.edit }))
    expect(cards(once.edit)).toEqual([
      ['finish-opening', 0, ['How ice flows', 'I. Fjeld\nPS 201 Glaciers · 9 November 2026']],
      ['own', 0, 'picture'],
      ['last', 100, 'picture'],
      ['finish-closing', 100, ['', '© 2026 Norrhaven Polar College']],
    ])
    expect(cards(twice.edit).map(([id]) => id)).toEqual(['finish-opening', 'own', 'last'])
    expect(editTimeMap(once.edit).inserts.map((i) => i.id)).toEqual(['finish-opening', 'own', 'last', 'finish-closing'])
    expect(checkEdit(once.edit)).toEqual(once.edit)
    expect(once.look).toEqual([
      'Something else was put in at the start; the opening card is before it.',
      'Something else was put in at the end; the closing card is after it.',
      'No slides were found, so that there are no chapters.',
    ])
  })
  it('tells what its cards lack', () => {
    const on = subject({ fields: { ...fields, rights: '', lecturer: '' } })
    const { edit, look } = put({ ...newFinish('f', 'Usual'), chapters: false }, on)
    expect(edit.inserts.map((i) => i.id)).toEqual(['finish-opening'])
    expect(look).toEqual([
      'The opening card lacks the lecturer.',
      'The closing card lacks the copyright notice.',
      'The closing card was left out, as it would be empty.',
    ])
  })
  it('takes the proposals that are wanted, and no others', () => {
    const proposals = [cut(0, 4, 'start'), cut(20, 24, 'pause'), cut(95, 100, 'end')]
    const removed = (trims: Partial<Finish['trims']>) =>
      put({ ...plain, trims: { ...plain.trims, ...trims } }, subject({ proposals })).edit.removed.map((r) => [
        r.from,
        r.to,
      ])
    expect(removed({})).toEqual([])
    expect(removed({ ends: true })).toEqual([
      [0, 4],
      [95, 100],
    ])
    expect(removed({ pauses: true })).toEqual([[20, 24]])
  })
  it('takes none that was taken before', () => {
    const trims = { ends: true, pauses: true, words: true }
    const on = subject({ proposals: [cut(0, 4, 'start')] })
    const once = put({ ...plain, trims }, on)
    expect(put({ ...plain, trims }, { ...on, edit: once.edit }).did).toEqual([])
  })
  it('tells what fell out, and when it was much', () => {
    const set = { ...newQuestionSet('x'), checkpoints: [newCheckpoint(at(2), newId), newCheckpoint(at(50), newId)] }
    const cue = (id: string, from: number) => ({ id, from: at(from), to: at(from + 2), text: 'ice' })
    const captions = newTrack({ cues: [cue('a', 1), cue('b', 3.5), cue('c', 60)] }, 'person')
    const trims = { ends: true, pauses: true, words: false }
    const proposals = [cut(0, 4, 'false-start'), cut(20, 44, 'pause')]
    const { did, look } = put(
      { ...plain, trims },
      subject({ proposals, others: { questions: set, captions }, clipped: 2 }),
    )
    expect(did).toEqual(['2 parts taken out, 28 s.'])
    expect(look).toEqual([
      '28 % of it was taken out.',
      'A false start was taken out: hear how it begins.',
      '2 captions lie, whole or in part, in what was taken out.',
      '1 question lies, whole or in part, in what was taken out.',
      'Its sound is clipped in 2 places.',
    ])
  })
  it('makes chapters of slides that are seen, where there is none yet', () => {
    const slides = [
      { at: at(0), title: 'Gain' },
      { at: at(10), title: 'Never seen' },
      { at: at(12), title: 'Loss' },
      { at: at(40), title: 'Slide 4' },
    ]
    let edit = apply(newEdit(at(100), 25), { do: 'remove', id: 'a', from: at(0), to: at(5) })
    edit = apply(edit, { do: 'remove', id: 'b', from: at(9), to: at(14) })
    const own = {
      format: 'thaw-chapters' as const,
      version: 1 as const,
      chapters: [{ id: 'x', at: at(41), title: 'Mine' }],
    }
    const { chapters, look } = put({ ...plain, chapters: true }, subject({ slides, edit, chapters: own }))
    expect(chapters?.chapters.map((c) => [c.at, c.title])).toEqual([
      [5, 'Gain'],
      [14, 'Loss'],
      [41, 'Mine'],
    ])
    expect(look).toEqual([])
    expect(put({ ...plain, chapters: true }, subject({ slides })).look).toEqual([
      'Chapters are numbered, as slides do not say their titles.',
    ])
  })
  it('changes nothing that it says nothing of', () => {
    const watermark = { file: 'x', box: { x: 0, y: 0, width: 0.1, height: 0.1 }, opacity: 1 }
    const edit = {
      ...newEdit(at(100), 25),
      watermark,
      sound: { noise: 'reduce' as const, loudness: -18, truePeak: -1 },
    }
    const { edit: after, did } = put(plain, subject({ edit }))
    expect(after).toEqual(edit)
    expect(did).toEqual([])
  })
  it('is refused with a sentence when it is none', () => {
    expect(readFinish(JSON.parse(JSON.stringify(newFinish('f', 'Usual'))))).toEqual(newFinish('f', 'Usual'))
    expect(() => readFinish({ ...plain, trims: {} })).toThrow('This finish cannot be used')
    expect(() => readFinish({ ...plain, name: 'a\nb' })).toThrow('/name')
  })
})
