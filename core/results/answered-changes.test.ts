import { describe, expect, it } from 'vitest'
import { FIRST_ISSUER } from '../course/people'
import { DEFAULT_POLICY } from '../questions/policy'
import type { StoredEvent } from '../schema/attempt'
import type { GradedSet, SetUpload } from '../schema/publication'
import { oneRight } from '../../test/questions'
import { answeredChanges, sayAnsweredChange } from './answered-changes'

type Made = ReturnType<typeof oneRight>
const version = (name: string, questions: Made[]): GradedSet => ({
  ...{ version: name, id: 'set', title: 'Questions', publishedAt: '2026-11-20T10:00:00.000Z', policy: DEFAULT_POLICY },
  checkpoints: [{ id: 'c', at: 5, questions: questions.map((q) => q.open) }],
  keys: questions.map((q) => q.key),
})
const next = (questions: Made[]): SetUpload => {
  const { id, title, policy, checkpoints, keys } = version('', questions)
  return {
    set: { format: 'thaw-published-set', version: 4, publicationId: 'p', id, title, policy, checkpoints },
    keys: { format: 'thaw-keys', version: 2, publicationId: 'p', keys },
  }
}
let seq = 0
const answered = (subject: string, questionId: string, of: string): StoredEvent => ({
  ...{ seq: ++seq, receivedAt: '2026-11-23T10:00:00.000Z', placeId: 'p', student: { issuer: FIRST_ISSUER, subject } },
  event: {
    ...{ id: `e${seq}`, kind: 'answer', at: '2026-11-23T10:00:00.000Z', version: of, questionId },
    answer: { kind: 'one-right', choice: 'a' },
  },
})
const [q1, q2] = [oneRight('q1'), oneRight('q2')]
const otherKey = oneRight('q1', undefined, { right: 'b' })
const all = [answered('s1', 'q1', 'v1'), answered('s1', 'q1', 'v1'), answered('s2', 'q1', 'v2')]

describe('what publishing does to answers', () => {
  it('is nothing where they are asked as they were', () => {
    expect(answeredChanges(all.slice(0, 2), [version('v1', [q1, q2])], [next([q2, q1])])).toEqual([])
  })
  it('is told of a changed question, also where only its key changed, and of those alone who saw it otherwise', () => {
    const versions = [version('v1', [q1]), version('v2', [otherKey])]
    const [change, ...more] = answeredChanges(all, versions, [next([otherKey])])
    expect([change?.how, change?.people, more]).toEqual(['changed', 1, []])
    expect(change && sayAnsweredChange(change)).toMatch(/is changed, and 1 person has answered it as it was/)
  })
  it('is told of a question that goes', () => {
    const changes = answeredChanges(all, [version('v1', [q1]), version('v2', [q1])], [next([q2])])
    expect(changes.map((c) => [c.questionId, c.how, c.people])).toEqual([['q1', 'gone', 2]])
    expect(changes[0] && sayAnsweredChange(changes[0])).toMatch(
      /2 people have answered it: the answers and their points/,
    )
  })
})
