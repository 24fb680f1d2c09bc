/**
 * The kinds of document that a lecture may have on its time line. Whatever keeps, checks, joins, publishes or deletes
 * documents goes through this registry; a new kind is one entry here (docs/architecture.md, “A new kind of document”).
 */
import type { TSchema } from '@sinclair/typebox'
import { giveWay } from '../captions/times'
import { deleteCue, projectCues, readTrack } from '../captions/track'
import { byTimes } from '../captions/vtt'
import { plainText } from '../captions/text'
import { editLists, onFrames, sayEdited, sayInsert, sayStretch, type EditedItem } from '../edit/edit'
import { readEdit } from '../edit/upgrade'
import { byInstant, chapterProblems, newChapterList, projectChapters, readChapters } from '../marks/chapters'
import { byStart, linkProblems, newLinkList, readLinks } from '../marks/links'
import {
  byCheckpoint,
  checkpointProblems,
  copyCheckpoint,
  nameCheckpoint,
  newQuestionSet,
  readQuestionSet,
  sayCheckpoint,
} from '../questions/set'
import { CaptionTrack, type Cue } from '../schema/captions'
import { EditDocument } from '../schema/edit'
import { ChapterList, LinkList, type Chapter, type LinkCard } from '../schema/marks'
import { QuestionSet, type Checkpoint } from '../schema/questions'
import { projectInstants, projectRange, sayInstant, type TimeMap } from '../time/time-map'
import type { RecordedRange, RecordedTime } from '../time/units'
import type { Item, Lists } from './change'
import type { Timed } from './items'

export interface Documents {
  edit: EditDocument
  captions: CaptionTrack
  chapters: ChapterList
  links: LinkList
  questions: QuestionSet
}
export type Kind = keyof Documents

/**
 * What a document is called in its lecture: by its kind, and what there may be several of by something behind it
 * (`captions-translation-fr`). The first of a kind is called by the kind alone.
 */
export type DocumentName<K extends Kind = Kind> = K | `${K}-${string}`

export const kindOf = <K extends Kind>(name: DocumentName<K>): K => name.split('-', 1)[0] as K

/** The id of a lecture’s document: two tabs that begin one at once begin the same. */
export const documentId = (lectureId: string, name: DocumentName): string => `${lectureId}-${name}`

/** Whether a document of a lecture is of a kind, by its id alone: what it says need not be read for that. */
export const isOfKind = (id: string, lectureId: string, kind: Kind): boolean =>
  kindOf(documentName({ id, lectureId })) === kind

/** What a document is called, by its id. */
export const documentName = ({ id, lectureId }: { id: string; lectureId: string }): DocumentName =>
  id.slice(lectureId.length + 1) as DocumentName

export interface DocumentKind<D> {
  schema: TSchema
  /** The lists of it, whose items have ids; everything else of it is a field. */
  lists: Lists
  /**
   * Reads one of any version from outside.
   * @throws {InvalidDocument}
   */
  read(data: unknown): D
  /**
   * An item of it, or a field (`list` is then empty), as a person can tell it from another.
   * @param value as it is kept; never null
   * @param map of the edit that the lecture has now
   */
  say(list: string, id: string, value: unknown, map: TimeMap): string
  /** An item of it in a few words. */
  name(item: Timed): string
  /** What keeps it from being finished, as sentences for a person. */
  problems(document: D): string[]
  /** What follows from items having been placed elsewhere: times on frames, neighbours that give way. */
  placed?(before: D, after: D, ids: ReadonlySet<string>): D
  /** It without some items of a list, where they leave something behind; otherwise they just go. */
  drop?(document: D, list: string, ids: ReadonlySet<string>): D
  /** Its items in the result, and those that the edit took out, whole or in part. */
  project(document: D, map: TimeMap): { visible: readonly unknown[]; lost: readonly unknown[] }
}

/** Ranges in the result, in as many pieces as the edit makes of them. */
function projectRanges<R extends RecordedRange & { id: string }>(ranges: readonly R[], map: TimeMap) {
  const projected = ranges.map((item) => ({ item, ...projectRange(map, item) }))
  return {
    visible: projected.flatMap(({ item, pieces }) => pieces.map((piece) => ({ item, ...piece }))),
    lost: projected.filter(({ lost }) => lost > 1e-6),
  }
}

const sayAt = (map: TimeMap, time: RecordedTime, words: string) => `${sayInstant(map, time, 1)}  ${words}`
const sayField = (field: string, value: unknown) =>
  `${field}: ${typeof value === 'object' ? JSON.stringify(value) : String(value)}`

export const kinds: { readonly [K in Kind]: DocumentKind<Documents[K]> } = {
  edit: {
    schema: EditDocument,
    lists: editLists,
    read: readEdit,
    say: (list, id, value) => (list ? sayEdited(value as EditedItem) : sayField(id, value)),
    name(item) {
      const edited = item as EditedItem
      if (!('what' in edited)) return 'at' in edited ? 'Split' : 'Removed part'
      return 'at' in edited ? sayInsert(edited.what) : sayStretch(edited.what)
    },
    problems: () => [],
    placed: (_, after) => onFrames(after),
    project: ({ stretches }, map) => projectRanges(stretches, map),
  },
  captions: {
    schema: CaptionTrack,
    lists: { cues: byTimes },
    read: readTrack,
    say(list, id, value, map) {
      if (!list) return sayField(id, value)
      const { from, text } = value as Cue
      return sayAt(map, from, plainText(text))
    },
    name: (item) => plainText((item as Timed & Cue).text),
    problems: () => [],
    drop: (track, _, ids) => [...ids].reduce(deleteCue, track),
    placed: (before, after, ids) => ({ ...after, cues: giveWay(before.cues, after.cues, ids) }),
    project({ cues }, map) {
      const { cues: visible, lost } = projectCues(map, cues)
      return { visible, lost }
    },
  },
  chapters: {
    schema: ChapterList,
    lists: { chapters: byInstant },
    read: readChapters,
    say(list, id, value, map) {
      if (!list) return sayField(id, value)
      const { at, title } = value as Chapter
      return sayAt(map, at, title)
    },
    name: (item) => (item as Timed & Chapter).title || 'Chapter',
    problems: chapterProblems,
    project: ({ chapters }, map) => projectChapters(chapters, map),
  },
  links: {
    schema: LinkList,
    lists: { links: byStart },
    read: readLinks,
    say(list, id, value, map) {
      if (!list) return sayField(id, value)
      const { from, words } = value as LinkCard
      return sayAt(map, from, words)
    },
    name: (item) => (item as Timed & LinkCard).words || 'Link card',
    problems: linkProblems,
    project: ({ links }, map) => projectRanges(links, map),
  },
  questions: {
    schema: QuestionSet,
    lists: { checkpoints: byCheckpoint },
    read: readQuestionSet,
    say: (list, id, value) => (list ? sayCheckpoint(value as Checkpoint) : sayField(id, value)),
    name: (item) => nameCheckpoint(item as Timed & Checkpoint),
    problems: ({ checkpoints }) => checkpoints.flatMap(checkpointProblems),
    project: ({ checkpoints }, map) => projectInstants(map, checkpoints, (c) => c.at),
  },
}

/** A document of which nothing but its fields is left. */
export const emptied = <K extends Kind>(kind: K, document: Documents[K]): Documents[K] => ({
  ...document,
  ...Object.fromEntries(Object.keys(kinds[kind].lists).map((list) => [list, []])),
})

/** A copy of an item under ids of its own. */
export const copyOf = (kind: Kind, item: Timed, newId: () => string): Timed =>
  kind === 'questions' ? copyCheckpoint(item as Item & Checkpoint, newId) : { ...item, id: newId() }

/** A document in which nothing stands yet. The edit and the captions of a lecture come with its recording. */
export function newDocument(kind: Kind, title: string): Documents[Kind] {
  if (kind === 'chapters') return newChapterList()
  if (kind === 'links') return newLinkList()
  if (kind === 'questions') return newQuestionSet(title)
  throw new Error(
    kind === 'captions'
      ? 'There are no captions to put this into yet.'
      : `A lecture without a recording has no ${kind}.`,
  )
}
