/** Word lists of courses, and what recognisers are told of a lecture's course. */
import { max } from 'd3-array'
import { sayTrack } from '#core/captions/languages'
import { findReplacements, type Wanted } from '#core/captions/replace'
import { comparable } from '#core/captions/text'
import { learnWord } from '#core/captions/word-list'
import type { Lecture } from '#core/schema/lecture'
import type { CourseWord } from '#core/schema/words'
import { db } from '~/db/database'
import { storing } from '~/db/files'
import { newId } from './ids'
import { lookInto, type FoundIn } from './replacing'

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

/** What a word of the list was heard as, and where captions of the course still say so. */
export interface Misheard {
  wanted: Wanted
  found: FoundIn[]
  /** How sure the recogniser was of it at most (0–1); null where no recogniser heard it. */
  sure: number | null
}

export async function misheardIn(courseId: string, words: readonly CourseWord[]): Promise<Misheard[]> {
  const wanted: Wanted[] = words.flatMap(({ text, heard }) =>
    heard.map((find) => ({
      ...{ find, replace: text, wholeWords: true },
      matchCase: find.toLowerCase() === text.toLowerCase(),
    })),
  )
  const all = await lookInto({ courseId }, ({ track, ...of }) =>
    wanted.flatMap((one) => {
      const found = findReplacements(track, one)
      if (found.length === 0) return []
      const cues = new Set(found.map((f) => f.cueId))
      const [first = ''] = one.find.split(' ').map(comparable)
      const sure = track.cues
        .filter((c) => cues.has(c.id))
        .flatMap((c) => (c.words ?? []).filter((w) => comparable(w.text) === first).map((w) => w.confidence))
      return [{ one, found: { ...of, says: sayTrack(track), found }, sure: max(sure) ?? null }]
    }),
  )
  return wanted.flatMap((one) => {
    const of = all.filter((a) => a.one === one)
    return of.length > 0 ? [{ wanted: one, found: of.map((a) => a.found), sure: max(of, (a) => a.sure) ?? null }] : []
  })
}
