/** The demo as one file: its term, courses and lectures, each with what has been done to it so far. */
import { Type, type Static } from '@sinclair/typebox'
import { CaptionTrack } from './captions'
import { EditDocument } from './edit'
import { Course, Feed, Lecture } from './lecture'
import { ChapterList, LinkList } from './marks'
import { closed, Id, Instant } from './parts'
import { Place } from './publication'
import { QuestionSet } from './questions'
import { College, Term } from './term'

/** The Monday of the week that the demo term's dates were written for; they are moved to the present one. */
export const DEMO_ANCHOR = '2026-11-23'

export const DemoLecture = Type.Object(
  {
    lecture: Lecture,
    /** Media below /demo/media; absent for a lecture that is only planned. */
    take: Type.Optional(
      Type.Object(
        {
          duration: Type.Number({ minimum: 0 }),
          startedAt: Instant,
          feeds: Type.Array(
            Type.Composite(
              [Type.Omit(Feed, ['fileId']), Type.Object({ file: Type.String({ pattern: '^[a-z-]+\\.mp4$' }) })],
              closed,
            ),
          ),
        },
        closed,
      ),
    ),
    edit: Type.Optional(EditDocument),
    captions: Type.Optional(CaptionTrack),
    chapters: Type.Optional(ChapterList),
    links: Type.Optional(LinkList),
    release: Type.Optional(Type.Object({ publicationId: Id, places: Type.Array(Place), publishedAt: Instant }, closed)),
  },
  closed,
)

/** Question sets by lecture. They hold their keys, so that they are given to the author alone, apart from the term. */
export const DemoQuestions = Type.Record(Id, QuestionSet)
export type DemoQuestions = Static<typeof DemoQuestions>

export const DemoTerm = Type.Object(
  {
    format: Type.Literal('thaw-demo-term'),
    version: Type.Literal(2),
    college: College,
    terms: Type.Array(Term),
    courses: Type.Array(Course),
    lectures: Type.Array(DemoLecture),
  },
  closed,
)
export type DemoTerm = Static<typeof DemoTerm>
