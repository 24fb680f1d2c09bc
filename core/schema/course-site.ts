/** What Thaw and a course site say to one another: which courses there are, who is in them, and what stands on their pages. */
import { Type, type Static } from '@sinclair/typebox'
import { Student } from './attempt'
import { closed, Id, Instant, Line } from './parts'

/** Something on a course page. */
export const CourseItem = Type.Object(
  {
    courseId: Id,
    week: Type.Integer({ minimum: 1, maximum: 60 }),
    title: Line(),
    from: Instant,
    until: Type.Union([Instant, Type.Null()]),
    /** When it is to be watched live; without it there is a recording. */
    liveAt: Type.Optional(Instant),
    /** How it stands live; without it, it has not begun. */
    live: Type.Optional(Type.Union([Type.Literal('on'), Type.Literal('ended')])),
  },
  closed,
)
export type CourseItem = Static<typeof CourseItem>

/** A course as its site shows it. */
export const SiteCourse = Type.Object({ code: Line(), title: Line() }, closed)
export type SiteCourse = Static<typeof SiteCourse>

/** Who is in a course. */
export const Roster = Type.Array(Student, { maxItems: 10_000 })

/** By whom a course is to be attended: subjects of people of the site. */
export const Enrolment = Type.Object(
  { subjects: Type.Array(Type.String({ minLength: 1, maxLength: 255 }), { maxItems: 1000, uniqueItems: true }) },
  closed,
)
export type Enrolment = Static<typeof Enrolment>
