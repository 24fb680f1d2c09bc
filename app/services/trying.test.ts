import { describe, expect, it } from 'vitest'
import type { WatchView } from '#core/packages/watch-view'
import { DEFAULT_POLICY } from '#core/questions/policy'
import type { KeyedSet } from '#core/questions/standing'
import type { AttemptEvent } from '#core/schema/attempt'
import type { SetPolicy } from '#core/schema/questions'
import { viewAfter } from '#player/gateway'
import { oneRight } from '../../test/questions'
import { trialGateway, type Tried } from './trying'

const NOW = '2026-11-23T10:00:00.000Z'
const { open, key } = oneRight('q', { a: 'ice', b: 'snow' }, { explanation: 'because' })
const set = (policy: Partial<SetPolicy>): KeyedSet => ({
  ...{ version: 'set', id: 'set', title: 'Set' },
  policy: { ...DEFAULT_POLICY, ...policy },
  checkpoints: [{ id: 'c', at: 3, questions: [open] }],
  keys: [key],
})
const tried = (policy: Partial<SetPolicy>): Tried => ({
  view: { kind: 'recording', version: 'trial' } as Tried['view'],
  sets: [set(policy)],
  captions: ['WEBVTT'],
  pictures: new Map([['abc', 'blob:x']]),
})
const answer = (id: string, choice: string, attempt = 1): AttemptEvent => ({
  ...{ id, kind: 'answer', questionId: 'q', answer: { kind: 'one-right', choice }, at: NOW, version: 'set', attempt },
})
const report = (view: WatchView) => view.checkpoints[0]?.questions[0]?.report

describe('a lecture that is tried', () => {
  it('answers as the server would: what is told, what is refused, and further attempts', async () => {
    const gateway = trialGateway(tried({ attempts: { most: 2, counts: 'best' } }), () => ({ later: false }))
    const before = (await gateway.load()) as WatchView
    expect(JSON.stringify(before)).not.toMatch(/because|"right"/)
    const wrong = await gateway.send([answer('1', 'b'), answer('2', 'z')], before)
    expect(report(viewAfter(before, wrong))).toMatchObject({ feedback: { share: 0 }, score: { points: 0 } })
    expect(wrong.refused).toEqual([{ id: '2', why: expect.stringMatching(/no such choice/) }])
    expect(viewAfter(before, wrong).sets[0]).toMatchObject({ canBegin: true })
    const again = { id: '3', kind: 'begin' as const, at: NOW, version: 'set', attempt: 2 }
    const view = viewAfter(before, await gateway.send([again, answer('4', 'a', 2)], before))
    expect(view.sets[0]).toMatchObject({ counted: 1, canBegin: false, attempts: [{ points: 0 }, { points: 1 }] })
    expect(await gateway.captions('0')).toBe('WEBVTT')
    expect(gateway.pictureUrl(view, 'abc')).toBe('blob:x')
  })
  it('shows what is told only later, when that is wished, and keeps nothing for another trial', async () => {
    let later = false
    const late = { feedback: 'marked', score: { date: '2030-01-01T00:00:00.000Z' }, solutions: 'marked' } as const
    const gateway = trialGateway(tried({ ...late, changes: true }), () => ({ later }))
    const start = (await gateway.load()) as WatchView
    const handIn = { id: '2', kind: 'hand-in' as const, at: NOW, version: 'set', attempt: 1 }
    const view = viewAfter(start, await gateway.send([answer('1', 'b'), handIn], start))
    expect(report(view)).toMatchObject({ final: true, score: null })
    later = true
    expect(report((await gateway.load()) as WatchView)).toMatchObject({
      score: { points: 0 },
      solution: { right: 'a' },
    })
    const other = trialGateway(tried(late), () => ({ later }))
    expect(report((await other.load()) as WatchView)).toEqual({ kind: 'unanswered', score: null })
  })
})
