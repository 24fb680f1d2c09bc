/** Grading of one answer. The key is an argument of its own: only the server and the author's browser have one. */
import { kindOfQuestion, type Answer, type OpenQuestion, type QuestionKey, type QuestionKindName } from './kinds'

export interface Grade {
  /** 0…1 of the points; null until a person has marked it, and where nothing is graded. */
  share: number | null
  /** Rounded to hundredths; null like the share. */
  points: number | null
}

export function grade(open: OpenQuestion, key: QuestionKey, answer: Answer): Grade {
  const share = kindOfQuestion(open).share(open, key, answer)
  return { share, points: share === null ? null : Math.round(100 * share * open.points) / 100 }
}

/** Whether somebody can get points for it at all. */
export const isGradedKind = (kind: QuestionKindName): boolean => kind !== 'note' && kind !== 'thought'
export const isGraded = ({ kind }: Pick<OpenQuestion, 'kind'>): boolean => isGradedKind(kind)
