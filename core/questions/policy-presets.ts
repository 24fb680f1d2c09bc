/** Policies for what a set of questions is for, and what speaks against one. */
import type { SetPolicy } from '../schema/questions'
import { DEFAULT_POLICY as base } from './policy'

/** A policy without its welcome, which belongs to one set. */
export type PolicyRules = Omit<SetPolicy, 'welcome'>
const rulesOf = ({ welcome: _, ...rules }: SetPolicy): PolicyRules => rules

/** Policies by what they are for. */
export const policyPresets: readonly { id: string; name: string; says: string; rules: PolicyRules }[] = [
  {
    id: 'while-watching',
    name: 'Keep up while watching',
    says: 'Each question once; right or wrong is told at once.',
    rules: rulesOf(base),
  },
  {
    id: 'practice',
    name: 'Practise as often as you like',
    says: 'As many attempts as one likes, the best counts; everything is told at once.',
    rules: rulesOf({ ...base, attempts: { most: null, counts: 'best' } }),
  },
  {
    id: 'graded',
    name: 'Graded exercise',
    says: 'Two attempts, answers may be changed until handed in; points are told then, what is right is not.',
    rules: rulesOf({
      ...base,
      changes: true,
      attempts: { most: 2, counts: 'best' },
      ...{ feedback: 'handed-in', score: 'handed-in', solutions: 'never' },
    }),
  },
  {
    id: 'examination',
    name: 'Examination',
    says: 'One attempt in the order of the lecture, without jumping ahead; everything is told after marking.',
    rules: rulesOf({
      ...base,
      changes: true,
      ahead: false,
      ...{ feedback: 'marked', score: 'marked', solutions: 'marked' },
    }),
  },
  {
    id: 'reading-guide',
    name: 'Guide to think along',
    says: 'The questions may be read and printed before; answers may be changed, and are discussed in class.',
    rules: rulesOf({ ...base, readBefore: true, changes: true, feedback: 'never', score: 'never', solutions: 'never' }),
  },
]

/** What does not go together in a policy, as sentences. */
export function policyProblems({ changes, attempts, feedback, score, solutions }: SetPolicy): string[] {
  const several = attempts.most === null || attempts.most > 1
  const early = [feedback, score, solutions].includes('answered')
  return [
    ...(changes && early
      ? ['Answers may be changed until they are handed in, so nothing is told before: “at once” means then.']
      : []),
    ...(several && solutions !== 'never' && typeof solutions === 'string' && solutions !== 'marked'
      ? ['Students are told what is right before their next attempt.']
      : []),
    ...(solutions !== 'never' && feedback === 'never'
      ? ['Students are told what is right, but not whether they are.']
      : []),
  ]
}
