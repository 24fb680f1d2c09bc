/** Every document that leaves or enters, by the name of its schema file in docs/schemas. */
import type { TSchema } from '@sinclair/typebox'
import { LectureArchive } from './archive'
import { StoredEvent, AttemptEvents } from './attempt'
import { CaptionOrder, OrderStanding, ServiceAccount } from './captioning'
import { CaptionTrack, Word } from './captions'
import { CourseItem, Enrolment, SiteCourse } from './course-site'
import { DemoTerm } from './demo'
import { EditDocument } from './edit'
import { Finish } from './finish'
import { StoredGrading } from './grading'
import { WatchStatement } from './watching'
import { Lecture, Take } from './lecture'
import { Announcement } from './live'
import { ChapterList, LinkList } from './marks'
import { Place, PublicationKeys, PublicationManifest, PublishedSet } from './publication'
import { QuestionSet } from './questions'
import { RichTextSchema } from './rich-text'

/** A schema with what it refers to. */
export const standalone = (schema: TSchema): TSchema =>
  JSON.stringify(schema).includes('"$ref":"thaw-rich-text"')
    ? { ...schema, $defs: { 'rich-text': RichTextSchema } }
    : schema

export const documents: Record<string, TSchema> = {
  'edit-document': EditDocument,
  'caption-track': CaptionTrack,
  'recognised-word': Word,
  'service-account': ServiceAccount,
  'caption-order': CaptionOrder,
  'order-standing': OrderStanding,
  'question-set': QuestionSet,
  'chapter-list': ChapterList,
  'link-list': LinkList,
  'publication-manifest': PublicationManifest,
  'published-set': PublishedSet,
  'publication-keys': PublicationKeys,
  place: Place,
  announcement: Announcement,
  'course-item': CourseItem,
  'site-course': SiteCourse,
  enrolment: Enrolment,
  'attempt-events': AttemptEvents,
  response: StoredEvent,
  grading: StoredGrading,
  'watch-statement': WatchStatement,
  lecture: Lecture,
  'lecture-archive': LectureArchive,
  finish: Finish,
  take: Take,
  'demo-term': DemoTerm,
}
