/** What a student should know of a set before beginning, in words. */
import type { SetPolicy, ToldFrom } from '../schema/questions'

const sayFrom = (from: ToldFrom, sayDate: (instant: string) => string): string =>
  typeof from === 'object'
    ? `from ${sayDate(from.date)}`
    : { answered: 'at once', 'handed-in': 'when you have handed in', marked: 'after marking', never: '' }[from]

/** What a student should know before beginning, as sentences; none for what holds where nothing else was chosen. */
export function sayRules(
  { changes, putOff, ahead, attempts, ...told }: SetPolicy,
  sayDate: (instant: string) => string,
): string[] {
  const counts = {
    best: 'The best counts.',
    first: 'The first counts.',
    last: 'The last counts.',
    mean: 'The mean counts.',
  }
  const only = attempts.most === 1
  const from = (what: ToldFrom) => sayFrom(changes && what === 'answered' ? 'handed-in' : what, sayDate)
  const parts = [
    ['whether you are right', from(told.feedback)],
    ['your points', from(told.score)],
    ['what is right', from(told.solutions)],
  ].filter(([, when]) => when)
  const byWhen = new Map<string, string[]>()
  for (const [what = '', when = ''] of parts) byWhen.set(when, [...(byWhen.get(when) ?? []), what])
  const learn = [...byWhen].map(([when, what]) => `${when} ${joined(what)}`)
  return [
    ...(only
      ? []
      : [
          `You have ${attempts.most ?? 'as many'} attempts${attempts.most ? '' : ' as you like'}. ${counts[attempts.counts]}`,
        ]),
    ...(changes ? [`You can change your answers until you hand in${only ? '; you hand in once' : ''}.`] : []),
    ...(putOff ? [] : ['Each question is answered before the lecture goes on.']),
    ...(ahead ? [] : ['You cannot jump ahead of what you have watched.']),
    ...(learn.length === 0
      ? ['You are not told here whether you are right.']
      : changes || learn[0] !== AT_ONCE
        ? [`You are told ${learn.join('; ')}.`]
        : []),
  ]
}
const joined = (list: readonly string[]) =>
  list.length > 1 ? `${list.slice(0, -1).join(', ')} and ${list.at(-1)}` : (list[0] ?? '')
const AT_ONCE = 'at once whether you are right, your points and what is right'
