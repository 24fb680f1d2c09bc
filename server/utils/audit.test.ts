import { describe, expect, it } from 'vitest'
import { DEFAULT_POLICY } from '#core/questions/policy'
import type { GradingEntry } from '#core/schema/grading'
import { changedRules, sayGrading } from './audit'

describe('what the activity log says', () => {
  it('names the sets whose rules are others, and none that is new or only worded anew', () => {
    const before = [
      { id: 'a', policy: DEFAULT_POLICY },
      { id: 'b', policy: DEFAULT_POLICY },
    ]
    const now = [
      { id: 'a', title: 'First', policy: { ...DEFAULT_POLICY, changes: !DEFAULT_POLICY.changes } },
      { id: 'b', title: 'Second', policy: { ...DEFAULT_POLICY } },
      { id: 'c', title: 'Third', policy: DEFAULT_POLICY },
    ]
    expect(changedRules(before, now)).toEqual(['First'])
  })
  it('counts students, and tells what was taken back', () => {
    const one = (kind: string, subject: string, more: object = {}) =>
      ({ kind, student: { issuer: 'i', subject }, ...more }) as GradingEntry
    expect(
      sayGrading([
        ...[one('mark', 's1'), one('mark', 's1'), one('mark', 's2'), one('release', 's1', { released: true })],
        ...[one('release', 's2', { released: false }), one('excuse', 's2', { excused: false })],
      ]),
    ).toBe('marked 2 students, released marks to 1 student, took back marks of 1 student, no longer excused 1 student')
  })
})
