/** Every document that leaves or enters, by the name of its schema file in docs/schemas. */
import type { TSchema } from '@sinclair/typebox'
import { StoredEvent, AttemptEvents } from './attempt'
import { CaptionTrack } from './captions'
import { DemoTerm } from './demo'
import { EditDocument } from './edit'
import { Lecture, Take } from './lecture'
import { Announcement } from './live'
import { Place, PublicationKeys, PublicationManifest } from './publication'
import { QuestionSet } from './questions'

export const documents: Record<string, TSchema> = {
  'edit-document': EditDocument,
  'caption-track': CaptionTrack,
  'question-set': QuestionSet,
  'publication-manifest': PublicationManifest,
  'publication-keys': PublicationKeys,
  place: Place,
  announcement: Announcement,
  'attempt-events': AttemptEvents,
  response: StoredEvent,
  lecture: Lecture,
  take: Take,
  'demo-term': DemoTerm,
}
