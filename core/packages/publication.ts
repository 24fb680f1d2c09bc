/**
 * What goes out when a lecture is published: manifest, captions as WebVTT and checkpoints in result time, the
 * keys apart. Whatever the edit removed stays behind and is reported.
 */
import { PART_SIZE, type PublicationKeys, type PublicationManifest, type PublishedCheckpoint, type PublishedFile } from '../schema/publication'
import type { CaptionTrack } from '../schema/captions'
import type { Checkpoint, QuestionSet } from '../schema/questions'
import { InvalidDocument } from '../schema/validate'
import { projectCues, type LostCaption } from '../captions/track'
import { writeVtt } from '../captions/vtt'
import { checkpointProblems } from '../questions/grade'
import { projectInstants, type TimeMap } from '../time/time-map'

export interface ProjectedLecture {
  /** WebVTT in result time, or null while captions are not on. */
  captions: string | null
  checkpoints: PublishedCheckpoint[]
  keys: PublicationKeys['keys']
  lost: { captions: LostCaption[]; checkpoints: Checkpoint[]; unfinished: Checkpoint[] }
}

/** Projects captions and questions through the edit. Captions go out only when their track is on. */
export function projectLecture(map: TimeMap, captions: CaptionTrack | null, questions: QuestionSet | null): ProjectedLecture {
  const on = captions?.state === 'on' ? captions : null
  const cues = on ? projectCues(map, on.cues) : { cues: [], lost: [] }
  const all = questions?.checkpoints ?? []
  const complete = all.filter((c) => checkpointProblems(c).length === 0)
  const placed = projectInstants(map, complete, (c) => c.at)
  return {
    captions: on && cues.cues.length > 0 ? writeVtt({ ...on, cues: cues.cues }) : null,
    checkpoints: placed.visible.map(({ item, at }) => ({ id: item.id, at, question: item.question })).sort((a, b) => a.at - b.at),
    keys: placed.visible.map(({ item }) => item.key),
    lost: { captions: cues.lost, checkpoints: placed.lost.map((l) => l.item), unfinished: all.filter((c) => !complete.includes(c)) },
  }
}

/** Number of parts that a file of `size` bytes is sent in, and the size of part `index`. */
export const partCount = (size: number): number => Math.ceil(size / PART_SIZE)
export const partSize = (size: number, index: number): number => Math.min(PART_SIZE, size - index * PART_SIZE)

/**
 * Checks what the schema cannot: part counts fit sizes, names and ids are unique, keys fit questions.
 * @throws {InvalidDocument}
 */
export function checkPublication(manifest: PublicationManifest, keys: PublicationKeys): void {
  const problems: string[] = []
  const names = manifest.files.map((f: PublishedFile) => f.name)
  if (!names.includes('media.mp4')) problems.push('media.mp4 is missing')
  if (new Set(names).size < names.length) problems.push('a file is named twice')
  for (const file of manifest.files) {
    if (file.parts.length !== partCount(file.size)) problems.push(`${file.name} has ${file.parts.length} parts for ${file.size} bytes`)
    if ((file.name === 'captions.vtt') !== (file.type === 'text/vtt')) problems.push(`${file.name} cannot be ${file.type}`)
  }
  if (keys.publicationId !== manifest.id) problems.push('the keys belong to another publication')
  const questionIds = manifest.checkpoints.map((c) => c.question.id)
  if (new Set(questionIds).size < questionIds.length) problems.push('a question stands twice')
  for (const { at, question } of manifest.checkpoints) {
    if (at > manifest.duration) problems.push(`question ${question.id} lies behind the end`)
    const key = keys.keys.find((k) => k.questionId === question.id)
    if (!key) problems.push(`question ${question.id} has no key`)
    else if (!question.choices.some((c) => c.id === key.right)) problems.push(`the key of question ${question.id} names no choice`)
  }
  for (const key of keys.keys) if (!questionIds.includes(key.questionId)) problems.push(`a key has no question (${key.questionId})`)
  if (problems.length) throw new InvalidDocument('publication', problems)
}
