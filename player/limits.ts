/** How far one may jump ahead, by what holds for the questions. */
import { max } from 'd3-array'
import type { WatchView } from '#core/packages/watch-view'

export interface Limit {
  /** s */
  at: number
  /** Why, as a sentence. */
  why: string
}

/**
 * @param reached the farthest instant that was watched, s
 * @param isDone whether all that a checkpoint asks is answered
 * @returns null where one may jump anywhere
 */
export function jumpLimit(
  { sets, checkpoints }: Pick<WatchView, 'sets' | 'checkpoints'>,
  reached: number,
  isDone: (checkpoint: WatchView['checkpoints'][number]) => boolean,
): Limit | null {
  const limits: Limit[] = []
  const asks = ({ version }: WatchView['sets'][number]) => checkpoints.some((c) => c.set === version)
  if (sets.some((s) => !s.policy.ahead && asks(s) && !isOver(s))) {
    // What was answered was reached, perhaps on another device.
    const answered = checkpoints.filter(isDone).map((c) => c.at)
    limits.push({
      at: Math.max(reached, max(answered) ?? reached),
      why: 'You can jump ahead where you have watched already.',
    })
  }
  const open = checkpoints.find(
    (c) => !isDone(c) && sets.some((s) => s.version === c.set && !s.policy.putOff && !isOver(s)),
  )
  if (open) limits.push({ at: open.at, why: 'This question is answered before the lecture goes on.' })
  return limits.reduce<Limit | null>((least, l) => (least && least.at <= l.at ? least : l), null)
}

const isOver = ({ attempts }: WatchView['sets'][number]) => attempts.at(-1)?.handedInAt !== null
