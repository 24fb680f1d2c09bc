import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { oneRight } from '../../../test/questions'
import { parseAs } from '../../schema/validate'
import { lineOf, richOf } from '../../text/rich-text'
import { grade } from '../grade'
import { asKind, copyQuestion, newQuestion, questionProblems, sayQuestion } from '../set'
import { shuffledFor } from '../shuffle'
import type { Question } from '../../schema/questions'
import {
  kindNames,
  kindOfQuestion,
  type Answer,
  type AnswerOf,
  type KeyOf,
  type OpenOf,
  type QuestionKindName,
} from './index'
import { Answer as AnswerSchema, OpenQuestion, QuestionKey } from './schemas'
import { readNumber } from './number'
import { acceptedAs } from './words'

let n = 0
const newId = () => `i${++n}`
const fresh = <K extends QuestionKindName>(kind: K) => newQuestion(kind, newId) as { open: OpenOf<K>; key: KeyOf<K> }
const share = <K extends QuestionKindName>(
  { open, key }: { open: OpenOf<K>; key: KeyOf<K> },
  answer: Omit<AnswerOf<K>, 'kind'>,
) => grade(open, key, { kind: open.kind, ...answer } as Answer).share
const choices = (...ids: string[]) => ids.map((id) => ({ id, text: richOf(id) }))

describe('every kind', () => {
  it.each(kindNames)('%s begins unwritten, fits its schemas, and is copied under ids of its own', (name) => {
    const question = newQuestion(name, newId)
    expect(parseAs(OpenQuestion, question.open, 'question')).toEqual(question.open)
    expect(parseAs(QuestionKey, question.key, 'key')).toEqual(question.key)
    expect(questionProblems(question)[0]).toMatch(/^Write the /)
    const copy = copyQuestion(question, newId)
    expect([copy.open.kind, copy.key.kind, copy.key.questionId]).toEqual([name, name, copy.open.id])
    expect(copy.open.id).not.toBe(question.open.id)
    const ids = (q: Question) => ('choices' in q.open ? q.open.choices.map((c) => c.id) : [])
    expect(ids(copy).filter((id) => ids(question).includes(id))).toEqual([])
    expect(JSON.stringify(copy.key)).not.toMatch(new RegExp(`"(${ids(question).join('|') || 'none'})"`))
  })
  it('becomes any other one, and what both have in common stays', () => {
    const written = oneRight('q', { a: 'ice', b: 'snow' }, { explanation: 'so', hint: 'h', points: 3 })
    for (const name of kindNames) {
      const other = asKind(written, name, newId)
      expect([other.open.kind, other.key.kind, lineOf(other.open.prompt), lineOf(other.key.explanation)]).toEqual([
        ...[name, name, 'q?', 'so'],
      ])
      expect(other.open.points).toBe(name === 'note' || name === 'thought' ? 0 : 3)
      const back = asKind(other, 'one-right', newId)
      if ('choices' in other.open) expect(questionProblems(back)).toEqual([])
    }
  })
  it('names the field that is wrong, of its own kind', () => {
    const { open } = fresh('number')
    expect(() => parseAs(OpenQuestion, { ...open, units: 'm' }, 'question')).toThrow(/units must be array/)
    expect(() => parseAs(AnswerSchema, { kind: 'number', value: 'x', unit: 0 }, 'answer')).toThrow(/value must be/)
    expect(() => parseAs(AnswerSchema, { kind: 'none' }, 'answer')).toThrow(/answer/)
  })
})

describe('several right', () => {
  const question = fresh('several-right')
  question.open.choices = choices('a', 'b', 'c', 'd')
  question.key.right = ['a', 'b']
  const by = (grading: OpenOf<'several-right'>['grading']) => ({ ...question, open: { ...question.open, grading } })
  it.each([
    [['a', 'b'], 1, 1, 1],
    [['a'], 0, 0.75, 0.5],
    [['a', 'c'], 0, 0.5, 0],
    [['a', 'b', 'c', 'd'], 0, 0.5, 0],
    [['c', 'd'], 0, 0, 0],
    [[], 0, 0.5, 0],
  ])('%j earns %d of all, %d by parts, %d with a penalty', (chosen, all, parts, penalty) => {
    expect(share(by('all'), { choices: chosen })).toBe(all)
    expect(share(by('parts'), { choices: chosen })).toBe(parts)
    expect(share(by('penalty'), { choices: chosen })).toBe(penalty)
  })
  it('is never less than nothing and never more than all, whatever is right and chosen', () => {
    const some = fc.subarray(['a', 'b', 'c', 'd'])
    fc.assert(
      fc.property(some, some, (right, chosen) => {
        for (const grading of ['all', 'parts', 'penalty'] as const) {
          const earned = share({ open: by(grading).open, key: { ...question.key, right } }, { choices: chosen })!
          expect(earned).toBeGreaterThanOrEqual(0)
          expect(earned).toBeLessThanOrEqual(1)
          if (grading !== 'penalty' || right.length > 0)
            expect(earned === 1).toBe(JSON.stringify(right) === JSON.stringify(chosen))
        }
      }),
    )
  })
  it('needs a right one', () => {
    expect(
      questionProblems({ open: { ...question.open, prompt: richOf('?') }, key: { ...question.key, right: [] } }),
    ).toEqual(['Mark at least one right choice.'])
  })
})

describe('a number', () => {
  const question = fresh('number')
  question.open.units = ['m', 'km', 's']
  Object.assign(question.key, { value: 917, tolerance: 1, factors: [1, 1000, 0] })
  it.each([
    [917, 0, 1],
    [918, 0, 1],
    [918.001, 0, 0],
    [0.9175, 1, 1],
    [917, 2, 0],
  ])('of %d in unit %d earns %d', (value, unit, earned) => expect(share(question, { value, unit })).toBe(earned))
  it('may be off by the tolerance itself, also where decimals cannot be written exactly', () => {
    const of = (value: number, tolerance: number, toleranceIn: 'unit' | 'percent' = 'unit') => ({
      open: { ...question.open, units: [] },
      key: { ...question.key, value, tolerance, toleranceIn, factors: [] },
    })
    expect(share(of(0.3, 0.1), { value: 0.2, unit: 0 })).toBe(1)
    expect(share(of(200, 5, 'percent'), { value: 210, unit: 0 })).toBe(1)
    expect(share(of(200, 5, 'percent'), { value: 210.1, unit: 0 })).toBe(0)
    expect(share(of(-40, 10, 'percent'), { value: -44, unit: 0 })).toBe(1)
    expect(share(of(0, 0), { value: 0, unit: 0 })).toBe(1)
  })
  it.each([
    ['1,5', 1.5],
    ['1.5', 1.5],
    ['−3', -3],
    ['12 000', 12_000],
    ['12 000,5', 12_000.5],
    ['3 × 10^8', 3e8],
    ['3·10^-2', 0.03],
    ['1e3', 1000],
    ['.5', 0.5],
    [' 7 ', 7],
    ['1,2,3', null],
    ['ten', null],
    ['', null],
    ['1e', null],
    ['12 00', null],
  ])('%j is read as %j', (text, value) => expect(readNumber(text)).toBe(value))
  it('reads back whatever number it may be', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e15, max: 1e15, noNaN: true }), (x) => {
        expect(readNumber(String(x))! + 0).toBe(x + 0)
      }),
    )
  })
})

describe('a word or two', () => {
  const { key } = fresh('words')
  const accepts = (text: string, more: Partial<KeyOf<'words'>> = {}) =>
    acceptedAs({ ...key, accepted: ['névé', 'firn line', "l'hôpital"], ...more }, text) >= 0
  it('may be written in capitals, without accents, and with a slip', () => {
    for (const text of ['névé', 'NEVE', ' Firn  line. ', 'firn lime', 'L’HOPITAL'])
      expect(accepts(text), text).toBe(true)
    for (const text of ['', 'snow', 'nvee', 'line']) expect(accepts(text), text).toBe(false)
  })
  it('counts capitals, accents and letters where it says so', () => {
    expect(accepts('neve', { accentsCount: true, slips: 0 })).toBe(false)
    expect(accepts('Névé', { caseCounts: true, slips: 0 })).toBe(false)
    expect(accepts('ne\u0301ve\u0301', { accentsCount: true, caseCounts: true, slips: 0 })).toBe(true)
    expect(accepts('firn lime', { slips: 0 })).toBe(false)
  })
  it('forgives no slip in a short word', () => {
    expect(accepts('ire', { accepted: ['ice'], slips: 3 })).toBe(false)
    expect(accepts('icee', { accepted: ['ice'], slips: 3 })).toBe(false)
  })
})

describe('things in order', () => {
  const question = fresh('order')
  question.open.choices = choices('a', 'b', 'c', 'd')
  question.key.right = ['a', 'b', 'c', 'd']
  it('earn by neighbours, or all or nothing', () => {
    expect(share(question, { order: ['a', 'b', 'c', 'd'] })).toBe(1)
    expect(share(question, { order: ['d', 'a', 'b', 'c'] })).toBeCloseTo(2 / 3)
    expect(share(question, { order: ['d', 'c', 'b', 'a'] })).toBe(0)
    const all = { ...question, open: { ...question.open, grading: 'all' as const } }
    expect(share(all, { order: ['d', 'a', 'b', 'c'] })).toBe(0)
    expect(share(all, { order: ['a', 'b', 'c', 'd'] })).toBe(1)
  })
  it('name each once', () => {
    const { answerProblem } = kindOfQuestion(question.open)
    expect(answerProblem(question.open, { kind: 'order', order: ['a', 'b', 'c', 'd'] })).toBeNull()
    for (const order of [
      ['a', 'b', 'c'],
      ['a', 'b', 'c', 'x'],
      ['a', 'a', 'b', 'c'],
    ])
      expect(answerProblem(question.open, { kind: 'order', order })).toMatch(/each thing once/)
  })
})

describe('true or false, longer answers, thoughts and notes', () => {
  it('are right or not, marked by a person, or not graded', () => {
    expect(share(fresh('true-false'), { value: true })).toBe(1)
    expect(share(fresh('true-false'), { value: false })).toBe(0)
    expect(share(fresh('longer'), { text: 'much' })).toBeNull()
    expect(share(fresh('thought'), { text: 'mine' })).toBeNull()
    expect(share(fresh('note'), {})).toBeNull()
  })
  it('a rubric comes to the points of the question', () => {
    const { open, key } = fresh('longer')
    const rubric = [
      { id: 'x', text: 'Names the process', points: 2 },
      { id: 'y', text: '', points: 1 },
    ]
    expect(questionProblems({ open: { ...open, prompt: richOf('Why?'), points: 4 }, key: { ...key, rubric } })).toEqual(
      ['Say what each line of the rubric looks for.', 'The rubric has 3 points, and the question 4.'],
    )
  })
})

describe('answers are counted', () => {
  it('by choice, also those nobody gave', () => {
    const { open, key } = oneRight('q', { a: 'ice', b: 'snow' })
    const given: Answer[] = [{ kind: 'one-right', choice: 'b' }]
    expect(kindOfQuestion(open).tally(open, key, given)).toEqual([
      { id: 'a', text: 'ice', right: true, count: 0 },
      { id: 'b', text: 'snow', right: false, count: 1 },
    ])
  })
  it('under the accepted word that they are, and by what was written otherwise', () => {
    const question = fresh('words')
    question.key.accepted = ['firn']
    const given = ['FIRN', 'firn.', 'Snow', 'snow', 'ice'].map((text): Answer => ({ kind: 'words', text }))
    expect(kindOfQuestion(question.open).tally(question.open, question.key, given)).toEqual([
      { id: 'firn', text: 'firn', right: true, count: 2 },
      { id: 'snow', text: 'snow', right: false, count: 2 },
      { id: 'ice', text: 'ice', right: false, count: 1 },
    ])
  })
})

describe('choices in an order of each student’s own', () => {
  const many = Object.fromEntries(Array.from({ length: 8 }, (_, i) => [`c${i}`, `${i}`]))
  const { open } = oneRight('q', many)
  const shuffled = { ...open, shuffled: true }
  const order = (who: string) => (shuffledFor(shuffled, who) as typeof open).choices.map((c) => c.id).join()
  it('is the same whenever they come back, another for others, and has them all', () => {
    expect(order('p s1')).toBe(order('p s1'))
    expect(new Set(Array.from({ length: 20 }, (_, i) => order(`p s${i}`))).size).toBeGreaterThan(15)
    expect(order('p s1').split(',').sort()).toEqual(Object.keys(many))
    expect(shuffledFor(open, 'p s1')).toBe(open)
  })
  it('puts each choice at each place about as often', () => {
    const first = Array.from({ length: 4000 }, (_, i) => order(`p s${i}`).split(',')[0])
    for (const id of Object.keys(many)) {
      const share = first.filter((f) => f === id).length / first.length
      expect(Math.abs(share - 1 / 8)).toBeLessThan(0.03)
    }
  })
})

describe('a question in words', () => {
  it('has its choices, the right ones marked, or what is right', () => {
    expect(sayQuestion(oneRight('q', { a: 'ice', b: 'snow' }))).toBe('q?\n✓ ice\n– snow')
    const { open, key } = fresh('number')
    expect(
      sayQuestion({
        open: { ...open, prompt: richOf('How dense?'), units: ['kg/m³'] },
        key: { ...key, value: 917, tolerance: 1 },
      }),
    ).toBe('How dense?\n✓ 917 kg/m³ ± 1 kg/m³')
    expect(sayQuestion(fresh('note'))).toBe('A question without words yet')
  })
})
