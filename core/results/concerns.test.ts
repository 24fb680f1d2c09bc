import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER } from '../course/people'
import { sayConcern, studentConcerns } from './concerns'
import type { StudentResult } from './results'
import type { StudentWatching } from './watching'

const student = (subject: string) => ({ issuer: FIRST_ISSUER, subject, name: subject.toUpperCase() })
const result = (subject: string, percent: number | null, unanswered = 0): StudentResult => ({
  student: student(subject),
  ...{ right: percent === null ? 0 : 4, partly: 0, wrong: 0, unmarked: 0, unanswered, unreleased: 0, excused: 0 },
  ...{ points: 0, possible: 4, percent: percent ?? 0, attempts: percent === null ? 0 : 1 },
  lastAnswerAt: percent === null ? null : '2026-11-23T10:00:00.000Z',
})
const watched = (subject: string, share: number): StudentWatching => ({
  student: student(subject),
  ...{ seconds: 100 * share, share, total: 100 * share, sittings: 1, lastAt: '2026-11-23T10:00:00.000Z', once: [] },
})
const said = (students: StudentResult[], watching: StudentWatching[] | null) =>
  studentConcerns(students, watching).map((c) => [c.student.subject, ...c.concerns.map((one) => one.kind)])

describe('who may need a word', () => {
  it('has not come, once half of the class has', () => {
    expect(said([result('a', 90), result('b', null), result('c', null)], null)).toEqual([])
    expect(said([result('a', 90), result('b', 80), result('c', null)], null)).toEqual([['c', 'absent']])
    const onlyWatched = [watched('c', 0.9)]
    expect(said([result('a', 90), result('b', 80), result('c', null)], onlyWatched)).toEqual([])
  })
  it('watched far less than most', () => {
    const class4 = ['a', 'b', 'c', 'd'].map((id) => result(id, 80))
    const most = [watched('a', 1), watched('b', 0.9), watched('c', 0.95)]
    expect(said(class4, [...most, watched('d', 0.3)])).toEqual([['d', 'little']])
    // All of them stopped early.
    expect(
      said(
        class4,
        ['a', 'b', 'c', 'd'].map((id) => watched(id, 0.3)),
      ),
    ).toEqual([])
  })
  it('watched all, and left most of the questions', () => {
    expect(said([result('a', 0, 6)], [watched('a', 0.9)])).toEqual([['a', 'unanswered']])
  })
  it('has less than half of the points where most have far more, and whoever has most to be said of stands first', () => {
    const students = [result('a', 90), result('b', 85), result('c', 20), result('d', 30)]
    const watching = [watched('a', 1), watched('b', 1), watched('c', 1), watched('d', 0.2)]
    expect(said(students, watching)).toEqual([
      ['d', 'little', 'low'],
      ['c', 'low'],
    ])
    // A set that was hard for all.
    expect(said([result('a', 40), result('b', 35), result('c', 30)], null)).toEqual([])
  })
  it('is said in words', () => {
    expect(sayConcern({ kind: 'little', share: 0.304 })).toBe('watched 30 %, far less than most')
    expect(sayConcern({ kind: 'unanswered', open: 1 })).toBe('watched it, and left one question open')
  })
})
