/** A course's word list: words of its subject, as they are written, and what recognisers make of them. */
import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, Line } from './parts'

export const CourseWord = Type.Object(
  {
    id: Id,
    /** As it is to be written; several words may belong together. */
    text: Type.String({ minLength: 1, maxLength: 100 }),
    /** What was written in its stead and corrected. */
    heard: Type.Array(Line(100), { maxItems: 20 }),
  },
  closed,
)
export type CourseWord = Static<typeof CourseWord>

export const WordList = Type.Object(
  { courseId: Id, words: Type.Array(CourseWord, { maxItems: 5000 }) },
  { ...closed, $id: 'thaw-words-1' },
)
export type WordList = Static<typeof WordList>
