/** Word lists of courses, and what recognisers are told of a lecture's course. */
import { learnWord } from '#core/captions/word-list'
import type { Lecture } from '#core/schema/lecture'
import type { CourseWord } from '#core/schema/words'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { newId } from './ids'

export const wordsOf = async (courseId: string): Promise<CourseWord[]> => (await db.words.get(courseId))?.words ?? []

/** Changes a course's list, whatever another tab has made of it meanwhile. */
export const changeWords = (
  courseId: string,
  change: (words: readonly CourseWord[]) => readonly CourseWord[],
): Promise<void> =>
  storing(() =>
    db.transaction('rw', db.words, async () => {
      await db.words.put({ courseId, words: [...change(await wordsOf(courseId))] })
    }),
  )

/** Keeps a word, with what it was heard as. */
export const keepWord = (courseId: string, text: string, heard: readonly string[]): Promise<void> =>
  changeWords(courseId, (words) => learnWord(words, text, heard, newId))

/**
 * The text that is the course's own: its word list, the titles of its lectures and of this one's slides. Words of the list
 * stand in it twice, as they are surely said.
 */
export async function vocabularyOf({ id, courseId }: Lecture): Promise<string[]> {
  const [words, lectures, takes] = await Promise.all([
    wordsOf(courseId),
    db.lectures.where('courseId').equals(courseId).toArray(),
    db.takes.where('lectureId').equals(id).toArray(),
  ])
  const terms = words.map((w) => w.text)
  const titles = [...lectures.map((l) => l.title), ...takes.flatMap((t) => (t.slides ?? []).map((s) => s.title))]
  return [...terms, ...terms, ...new Set(titles)].filter((line) => line.trim() !== '').map((line) => line.slice(0, 300))
}
