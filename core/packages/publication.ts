/**
 * What goes out when a lecture is published: captions as WebVTT, chapters, link cards and checkpoints in result time,
 * the keys apart. Whatever the edit removed stays behind and is reported.
 */
import {
  PART_SIZE,
  type PublicationManifest,
  type PublishedChapter,
  type PublishedLink,
  type PublishedTrack,
  type SetUpload,
  type UploadStart,
} from '../schema/publication'
import type { CaptionTrack } from '../schema/captions'
import type { Documents } from '../documents/kinds'
import type { Chapter, LinkCard } from '../schema/marks'
import type { Checkpoint, OpenQuestion, QuestionKey, QuestionSet } from '../schema/questions'
import { InvalidDocument } from '../schema/validate'
import { projectCues, type LostCaption, type ResultCue } from '../captions/track'
import { CaptionFileError, readVtt, writeVtt } from '../captions/vtt'
import { projectChapters } from '../marks/chapters'
import { kindOfQuestion } from '../questions/kinds'
import { checkpointProblems, questionProblems } from '../questions/set'
import { projectInstants, projectRange, toResult, type TimeMap } from '../time/time-map'
import { recorded } from '../time/units'

/** Caption tracks that are on, in result time. */
export interface ProjectedCaptions {
  tracks: PublishedTrack[]
  /** Cues of them that the edit took out, whole or in part. */
  lost: LostCaption[]
}

export interface ProjectedLecture {
  chapters: PublishedChapter[]
  links: PublishedLink[]
  lost: {
    chapters: Chapter[]
    /** Those of which nothing is seen, or that lead to where nothing is. */
    links: LinkCard[]
  }
}

/**
 * Notes in captions are between those who make them (WebVTT §4.1, comment blocks); styles and regions go out, before
 * the first cue.
 */
function withStyles(track: CaptionTrack, cues: readonly ResultCue[]): ResultCue[] {
  const styles = track.cues.flatMap((c) => c.before ?? []).filter((block) => !/^NOTE\b/.test(block))
  return cues.map(({ before: _, ...cue }, i) => (i === 0 ? { ...cue, before: styles } : cue))
}

/** The documents of a lecture that go out with its pictures and sound. */
export type Outgoing = { [K in 'chapters' | 'links']: Documents[K] | null }

/** A track as WebVTT in result time; null where nothing is left of it. */
export function projectTrack(map: TimeMap, track: CaptionTrack): { text: string | null; lost: LostCaption[] } {
  const { cues, lost } = projectCues(map, track.cues)
  const text = cues.length > 0 ? writeVtt({ ...track, cues: withStyles(track, cues), header: '', after: [] }) : null
  return { text, lost }
}

/** Projects the caption tracks that go out: those that are on. */
export function projectCaptions(map: TimeMap, tracks: readonly CaptionTrack[]): ProjectedCaptions {
  const all = tracks.filter((t) => t.state === 'on').map((track) => ({ track, ...projectTrack(map, track) }))
  return {
    tracks: all.flatMap(({ track: { language, role = 'captions' }, text }) => (text ? [{ language, role, text }] : [])),
    lost: all.flatMap((t) => t.lost),
  }
}

/** A link card is seen in each piece that the edit leaves of it, and an instant it leads to is that of the result. */
function projectLinks(
  map: TimeMap,
  links: readonly LinkCard[],
  chapters: readonly PublishedChapter[],
): { visible: PublishedLink[]; lost: LinkCard[] } {
  /** Where a card leads in the result; null for what is not there. */
  function led(target: LinkCard['target']): PublishedLink['target'] | null {
    if ('url' in target) return target
    if ('chapter' in target) {
      const chapter = chapters.find((c) => c.id === target.chapter)
      return chapter ? { at: chapter.at } : null
    }
    const { kind, at } = toResult(map, recorded(target.at))
    return kind === 'kept' ? { at } : null
  }
  const visible = links.flatMap(({ id, from, to, target: wanted, ...same }) => {
    const target = led(wanted)
    if (!target) return []
    return projectRange(map, { from: recorded(from), to: recorded(to) }).pieces.map((piece, i) => ({
      ...same,
      ...piece,
      id: i === 0 ? id : `${id}-${i}`,
      target,
    }))
  })
  return { visible, lost: links.filter(({ id }) => !visible.some((v) => v.id === id)) }
}

/** Projects what goes out with the films through the edit. */
export function projectLecture(map: TimeMap, { chapters, links }: Outgoing): ProjectedLecture {
  const begun = projectChapters(chapters?.chapters ?? [], map)
  const shown = begun.visible.map(({ item, at }) => ({ ...item, at }))
  const led = projectLinks(map, links?.links ?? [], shown)
  return {
    chapters: shown,
    links: led.visible,
    lost: {
      chapters: begun.lost.map((l) => l.item),
      links: led.lost,
    },
  }
}

export interface ProjectedSet extends SetUpload {
  lost: {
    /** Those that the edit took out. */
    removed: Checkpoint[]
    /** Those of which at least one question is not finished, and so is not asked. */
    unfinished: Checkpoint[]
  }
}

/** Projects a set of questions through the edit; what gives the answers away goes apart. */
export function projectSet(
  map: TimeMap,
  { id, publicationId, questions }: { id: string; publicationId: string; questions: QuestionSet },
): ProjectedSet {
  const { title, policy, checkpoints } = questions
  const complete = checkpoints
    .map((c) => ({ ...c, questions: c.questions.filter((q) => questionProblems(q).length === 0) }))
    .filter((c) => c.questions.length > 0)
  const { visible, lost } = projectInstants(map, complete, (c) => c.at)
  const asked = visible.flatMap(({ item }) => item.questions)
  return {
    set: {
      format: 'thaw-published-set',
      version: 4,
      id,
      publicationId,
      title,
      policy,
      checkpoints: visible
        .map(({ item, at }) => ({ id: item.id, at, questions: item.questions.map((q) => publishedOpen(q.open)) }))
        .sort((a, b) => a.at - b.at),
    },
    keys: { format: 'thaw-keys', version: 2, publicationId, keys: asked.map(({ key }) => projectedKey(map, key)) },
    lost: {
      removed: lost.map((l) => l.item),
      unfinished: checkpoints.filter((c) => checkpointProblems(c).length > 0),
    },
  }
}

/** What an author wrote in the right order leaves in one that says nothing. */
const publishedOpen = (open: OpenQuestion): OpenQuestion =>
  open.kind === 'order' ? { ...open, choices: [...open.choices].sort((a, b) => (a.id < b.id ? -1 : 1)) } : open

/** A place to look again in the result; none where it was taken out. */
function projectedKey(map: TimeMap, key: QuestionKey): QuestionKey {
  if (key.lookAt === null) return key
  const at = toResult(map, recorded(key.lookAt))
  return { ...key, lookAt: at.kind === 'kept' ? at.at : null }
}

/** Number of parts that a file of `size` bytes is sent in, and the size of part `index`. */
export const partCount = (size: number): number => Math.ceil(size / PART_SIZE)
export const partSize = (size: number, index: number): number => Math.min(PART_SIZE, size - index * PART_SIZE)

/**
 * Checks what the schema cannot: part counts fit sizes, names and ids are unique, what is named is there, keys fit
 * questions.
 * @throws {InvalidDocument}
 */
export function checkPublication({ manifest, captions, sets }: UploadStart): void {
  const problems = [...manifestProblems(manifest), ...captionProblems(captions), ...setProblems(manifest, sets)]
  if (problems.length) throw new InvalidDocument('publication', problems)
}

/**
 * Checks sets that are published for a version of a publication.
 * @throws {InvalidDocument}
 */
export function checkSets(manifest: PublicationManifest, sets: readonly SetUpload[]): void {
  const problems = setProblems(manifest, sets)
  if (problems.length) throw new InvalidDocument('question set', problems)
}

/**
 * Checks caption tracks that are published for a version of a publication.
 * @throws {InvalidDocument}
 */
export function checkCaptions(captions: readonly PublishedTrack[]): void {
  const problems = captionProblems(captions)
  if (problems.length) throw new InvalidDocument('captions', problems)
}

/** What a published track is called, in addresses and beside others. */
export const trackKey = ({ role, language }: Pick<PublishedTrack, 'role' | 'language'>): string => `${role}-${language}`

function captionProblems(captions: readonly PublishedTrack[]): string[] {
  const problems: string[] = []
  const keys = captions.map(trackKey)
  for (const key of keys) if (keys.indexOf(key) !== keys.lastIndexOf(key)) problems.push(`${key} stands twice`)
  for (const track of captions) {
    let n = 0
    try {
      readVtt(track.text, () => `c${++n}`)
    } catch (error) {
      if (!(error instanceof CaptionFileError)) throw error
      problems.push(`${trackKey(track)}: ${error.message}`)
    }
  }
  return [...new Set(problems)]
}

function manifestProblems({
  files,
  feeds,
  layout,
  captions,
  duration,
  chapters,
  links,
  stills,
  watermark,
}: PublicationManifest): string[] {
  const problems: string[] = []
  const twice = (what: string, ids: readonly string[]) => {
    if (new Set(ids).size < ids.length) problems.push(`${what} stands twice`)
  }
  const users = {
    ...{ 'video/mp4': feeds, 'text/vtt': captions },
    ...{ 'image/jpeg': stills ? [stills] : [], 'image/png': watermark ? [watermark] : [] },
  }
  const endings = { 'video/mp4': '.mp4', 'text/vtt': '.vtt', 'image/jpeg': '.jpg', 'image/png': '.png' }
  const used = Object.values(users).flat()
  twice(
    'a file',
    used.map((u) => u.file),
  )
  twice(
    'a file',
    files.map((f) => f.name),
  )
  twice(
    'a feed',
    feeds.map((f) => f.id),
  )
  for (const file of files) {
    if (file.parts.length !== partCount(file.size))
      problems.push(`${file.name} has ${file.parts.length} parts for ${file.size} bytes`)
    if (!users[file.type].some((u) => u.file === file.name)) problems.push(`nothing says what ${file.name} is for`)
    if (!file.name.endsWith(endings[file.type])) problems.push(`${file.name} cannot be ${file.type}`)
  }
  for (const { file } of used) if (!files.some((f) => f.name === file)) problems.push(`${file} is missing`)
  if (layout.some((l, i) => (i === 0 ? l.at !== 0 : l.at <= (layout[i - 1]?.at ?? 0))))
    problems.push('the arrangements of the pictures are out of order')
  if (layout.some((l) => l.slots.some((s) => !feeds.some((f) => f.id === s.feed && f.width > 0))))
    problems.push('a picture is arranged that is not there')
  if ([...chapters.map((c) => c.at), ...links.map((l) => l.from)].some((at) => at > duration))
    problems.push('a chapter or a link lies behind the end')
  return problems
}

function setProblems({ id, duration }: PublicationManifest, sets: readonly SetUpload[]): string[] {
  const problems: string[] = []
  if (new Set(sets.map(({ set }) => set.id)).size < sets.length) problems.push('a set of questions stands twice')
  // Over all sets: an answer names its question alone.
  const asked = sets.flatMap(({ set }) => set.checkpoints.flatMap((c) => c.questions.map((q) => q.id)))
  if (new Set(asked).size < asked.length) problems.push('a question stands twice')
  for (const { set, keys } of sets) {
    if (set.publicationId !== id) problems.push('the questions belong to another publication')
    if (keys.publicationId !== id) problems.push('the keys belong to another publication')
    for (const { at, questions } of set.checkpoints)
      for (const question of questions) {
        if (at > duration) problems.push(`question ${question.id} lies behind the end`)
        const key = keys.keys.find((k) => k.questionId === question.id)
        if (!key) problems.push(`question ${question.id} has no key`)
        else if (key.kind !== question.kind) problems.push(`the key of question ${question.id} is of another kind`)
        else
          problems.push(
            ...kindOfQuestion(question)
              .problems(question, key)
              .map((why) => `question ${question.id}: ${why}`),
          )
      }
    for (const key of keys.keys)
      if (!set.checkpoints.some((c) => c.questions.some((q) => q.id === key.questionId)))
        problems.push(`a key has no question (${key.questionId})`)
  }
  return problems
}
