import { describe, expect, it, vi } from 'vitest'
import { DEFAULT_POLICY } from '#core/questions/policy'
import type { GradingEntry } from '#core/schema/grading'
import type { H3Event } from 'h3'
import type { Store } from '../store/store'
import { changedRules, logActivity, sayGrading } from './audit'
import { setStore } from './storage'

describe('what cannot be logged', () => {
  const event = { node: { req: { headers: {}, socket: { remoteAddress: '192.0.2.7' } } } } as unknown as H3Event
  const failing = (code: string) =>
    setStore({
      journals: () => ({ append: () => Promise.reject(Object.assign(new Error(code), { code })) }),
    } as unknown as Store)
  it('is printed on a full disk, on which the author can sign in and make room', async () => {
    failing('ENOSPC')
    const printed = vi.spyOn(console, 'error').mockImplementation(() => undefined)
    await logActivity(event, { action: 'signed-in' })
    expect(printed.mock.calls.join()).toMatch(/The disk is full.*"signed-in".*192\.0\.2\.7|192\.0\.2\.7.*signed-in/)
    printed.mockRestore()
  })
  it('fails whatever it was for any other reason', async () => {
    failing('EIO')
    await expect(logActivity(event, { action: 'signed-in' })).rejects.toThrow('EIO')
  })
})

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
