/** What earlier versions kept, made what this one keeps. What cannot be read stays as it is, and is named when opened. */
import type { Transaction } from 'dexie'
import { changeBetween } from '#core/documents/change'
import { documentId, kinds, type Documents, type Kind } from '#core/documents/kinds'
import { readSteps } from '#core/edit/upgrade'
import { joinTakes, shownFeeds, withIds, type Recording } from '#core/record/recording'
import type { CaptionTrack } from '#core/schema/captions'
import type { Lecture, Take } from '#core/schema/lecture'
import { InvalidDocument } from '#core/schema/validate'
import { upgradeGradedSet, upgradePlace } from '#core/packages/upgrade'
import { newQuestionSet } from '#core/questions/set'
import { upgradeAnswer, upgradeCheckpoint, upgradePolicy } from '#core/questions/upgrade'
import { upgradeStudent } from '#core/course/people'
import { upgradeCourse, type EarlierCourse } from '#core/course/upgrade'
import type { StoredEvent, Student } from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { canonicalJson } from '#core/text/canonical-json'
import { documentOf, filmsMadeFrom, fingerprints, sha256Text, type Published } from '~/services/fingerprint'
import type { DocumentRow, JobRow, PlaceRow, ReleaseRow, SentBackRow, SetRow, StepRow } from './database'
import { addSent } from './sent-back'

/** A release as it was kept until version 9, with its only place. */
interface OldRelease {
  lectureId: string
  place: Place
  publishedAt: string
  fingerprint: string
}

/** What takes made, whose feeds had no ids until version 12. */
function recordingOf(takes: readonly Take[]): Recording | null {
  const kept = takes.filter((t) => t.state !== 'discarded')
  return joinTakes(kept.map((t) => ({ ...t, feeds: withIds(t.feeds) })))
}

interface OldConflict {
  id: string
  sides: [unknown, unknown]
}

/** Until version 5, each lecture had a row in a table for each of three kinds, and an edit was its own history. */
export async function upgradeDocuments(all: Transaction, now: string): Promise<void> {
  const add = (
    lectureId: string,
    kind: Kind,
    document: unknown,
    list = '',
    conflicts: OldConflict[] = [],
    applied = 0,
  ) => {
    const unreadable = problemOf(kind, document)
    return all.table<DocumentRow>('documents').put({
      id: documentId(lectureId, kind),
      lectureId,
      kind,
      document: document as Documents[Kind],
      applied,
      conflicts: conflicts.map((c) => ({ ...c, list })),
      ...(unreadable && { unreadable }),
    })
  }
  for (const { lectureId, edit } of await all.table<{ lectureId: string; edit: unknown }>('edits').toArray()) {
    const old = stepsOf(edit)
    const edits = old ? [old.start, ...old.steps.map((s) => s.edit)] : []
    await add(lectureId, 'edit', old ? edits[old.applied] : edit, '', [], old?.applied)
    const steps = (old?.steps ?? []).map(({ says, edit: after }, seq) => ({
      documentId: documentId(lectureId, 'edit'),
      seq,
      says,
      doneAt: now,
      change: changeBetween(kinds.edit.lists, edits[seq] ?? null, after),
    }))
    await all.table<StepRow>('steps').bulkPut(steps)
  }
  const tracks = all.table<{ lectureId: string; track: unknown; conflicts?: OldConflict[] }>('captions')
  for (const { lectureId, track, conflicts } of await tracks.toArray())
    await add(lectureId, 'captions', track, 'cues', conflicts)
  const sets = all.table<{ lectureId: string; set: unknown; conflicts?: OldConflict[] }>('questions')
  for (const { lectureId, set, conflicts } of await sets.toArray())
    await add(lectureId, 'questions', set, 'checkpoints', conflicts)
  await keepFingerprints(all)
  await all
    .table<JobRow & { again?: JobRow['restart'] }>('jobs')
    .toCollection()
    .modify((job) => {
      if (job.again) job.restart = job.again
      delete job.again
    })
}

/**
 * Whether a publication is what the desk shows is told by a fingerprint over the documents as they are kept. Where it was
 * so before, it stays so.
 */
async function keepFingerprints(all: Transaction): Promise<void> {
  for (const release of await all.table<OldRelease>('releases').toArray()) {
    const lecture = await all.table<Lecture>('lectures').get(release.lectureId)
    if (!lecture) continue
    const of = <T>(table: string) => all.table<T & { lectureId: string }>(table).get(release.lectureId)
    const takes = await all.table<Take>('takes').where('lectureId').equals(release.lectureId).sortBy('startedAt')
    const recording = recordingOf(takes)
    const edit = (await of<{ edit: { commands: unknown[]; applied: number } }>('edits'))?.edit
    const track = (await of<{ track: CaptionTrack }>('captions'))?.track
    const before = [
      lecture.title,
      lecture.description,
      recording &&
        shownFeeds(recording)
          .map((f) => f.fileId)
          .join(' '),
      edit ? edit.commands.slice(0, edit.applied) : null,
      track?.state === 'on' ? track.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null,
      (await of<{ set: unknown }>('questions'))?.set ?? null,
    ]
    if (sha256Text(JSON.stringify(before)) !== release.fingerprint) continue
    const rows = await all.table<DocumentRow>('documents').where('lectureId').equals(lecture.id).toArray()
    const now = sha256Text(wholeText({ lecture, recording, rows }))
    await all.table<OldRelease>('releases').update(release.lectureId, { fingerprint: now })
  }
}

/** What a fingerprint was made from until version 9: films and questions together. */
function wholeText(published: Published): string {
  const { lecture, recording } = published
  const captions = documentOf(published, 'captions')
  const marks = [documentOf(published, 'chapters'), documentOf(published, 'links')]
  return canonicalJson([
    lecture.title,
    lecture.description,
    recording &&
      shownFeeds(recording)
        .map((f) => f.fileId)
        .join(' '),
    documentOf(published, 'edit'),
    captions?.state === 'on' ? captions.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null,
    documentOf(published, 'questions'),
    ...(marks.some(Boolean) ? marks : []),
  ])
}

/** Until version 14, the fingerprint of a publication's films was of its captions too. Where they were current, they stay so. */
export async function partFingerprints(all: Transaction): Promise<void> {
  for (const release of await all.table<Partial<ReleaseRow>>('releases').toArray()) {
    const { lectureId = '' } = release
    // Made just now, by what upgrades from further back.
    if (release.captions !== undefined) continue
    const lecture = await all.table<Lecture>('lectures').get(lectureId)
    const takes = await all.table<Take>('takes').where('lectureId').equals(lectureId).sortBy('startedAt')
    const rows = await all.table<DocumentRow>('documents').where('lectureId').equals(lectureId).sortBy('id')
    const published = lecture && { lecture, recording: recordingOf(takes), rows }
    const captions = published && documentOf(published, 'captions')
    const parts = published ? filmsMadeFrom(published) : []
    const on = captions?.state === 'on' ? captions.cues.map((c) => [c.from, c.to, c.text, c.settings]) : null
    const before = sha256Text(canonicalJson([...parts.slice(0, 4), on, ...parts.slice(4)]))
    const now = published && before === release.films ? fingerprints(published) : { films: '', captions: '' }
    await all.table('releases').update(lectureId, { films: now.films, captions: now.captions })
  }
}

/**
 * Until version 9, a lecture had one place, which stood in its release, and one set of questions, which was a part of
 * its publication's version. Questions had no policy.
 */
export async function upgradeReleases(all: Transaction): Promise<void> {
  const rowsOf = (lectureId: string) =>
    all.table<DocumentRow>('documents').where('lectureId').equals(lectureId).sortBy('id')
  const releases = await all.table<OldRelease>('releases').toArray()
  const current = new Set<string>()
  const published = async (lectureId: string): Promise<Published | null> => {
    const lecture = await all.table<Lecture>('lectures').get(lectureId)
    const takes = await all.table<Take>('takes').where('lectureId').equals(lectureId).sortBy('startedAt')
    const recording = recordingOf(takes)
    return lecture ? { lecture, recording, rows: await rowsOf(lectureId) } : null
  }
  for (const { lectureId, fingerprint } of releases) {
    const whole = await published(lectureId)
    if (whole && sha256Text(wholeText(whole)) === fingerprint) current.add(lectureId)
  }
  await all
    .table<DocumentRow>('documents')
    .filter((row) => row.kind === 'questions' && !row.unreadable)
    .modify((row) => {
      row.document = kinds.questions.read(row.document)
    })
  const sets = all.table<SetRow & { madeAt?: string; current?: boolean }>('sets')
  for (const { lectureId, place: old, publishedAt } of releases) {
    const place = upgradePlace(old) as Place
    const { publicationId } = place
    const [id = ''] = place.sets
    const asked = (await sets.where('publicationId').equals(publicationId).toArray()).find((s) => s.current)?.version
    const now = current.has(lectureId) ? await published(lectureId) : null
    await all.table<ReleaseRow>('releases').put({
      lectureId,
      publicationId,
      version: asked ?? '',
      asked: asked ? { [id]: asked } : {},
      publishedAt,
      ...(now ? fingerprints(now) : { films: '', captions: '', sets: '' }),
    })
    await all
      .table<PlaceRow>('places')
      .put({ id: place.id, lectureId, place, asked: asked ? [asked] : [], removed: false })
    await sets
      .where('publicationId')
      .equals(publicationId)
      .modify((row) => {
        row.publishedAt = row.madeAt ?? publishedAt
        row.id = id
        row.title = ''
        delete row.madeAt
        delete row.current
      })
  }
  await all
    .table<{ place: unknown }>('broadcasts')
    .toCollection()
    .modify((row) => {
      row.place = upgradePlace(row.place)
    })
  // One that was cut off in an earlier version is restarted where it was to go.
  await all
    .table<JobRow>('jobs')
    .filter((job) => job.restart?.do === 'publish')
    .modify((job) => {
      const { where } = job.restart as unknown as { where?: Partial<Place> }
      const { lectureId } = job
      const known = releases.find((r) => r.lectureId === lectureId)?.place
      const place = { id: known?.id ?? lectureId, publicationId: known?.publicationId ?? lectureId, ...where }
      job.restart = { do: 'publish', place: where ? (upgradePlace(place) as Place) : null }
    })
  // What a card is computed from has changed.
  await all.table('cards').clear()
}

/** Responses were kept by publication. */
export async function upgradeAnswers(all: Transaction): Promise<void> {
  const kept = await all.table<StoredEvent & { publicationId?: string }>('responses').toArray()
  await all.table<StoredEvent>('answers').bulkPut(kept.map(({ publicationId: _, ...event }) => event))
}

/** Feeds were told by their kind and order alone. */
export async function nameFeeds(all: Transaction): Promise<void> {
  await all
    .table<Take>('takes')
    .toCollection()
    .modify((take) => {
      take.feeds = withIds(take.feeds)
    })
}

/** Students had an id and a name, as all came from one site. */
export async function nameIssuers(all: Transaction): Promise<void> {
  await all
    .table<StoredEvent>('answers')
    .toCollection()
    .modify((event) => {
      event.student = upgradeStudent(event.student) as Student
    })
  await all
    .table<{ students: Student[] }>('rosters')
    .toCollection()
    .modify((row) => {
      row.students = row.students.map((s) => upgradeStudent(s) as Student)
    })
}

/** Why a document cannot be read, as a sentence; empty when it can. */
function problemOf(kind: Kind, document: unknown): string {
  try {
    kinds[kind].read(document)
    return ''
  } catch (error) {
    if (error instanceof InvalidDocument) return error.message
    throw error
  }
}

function stepsOf(edit: unknown): ReturnType<typeof readSteps> {
  try {
    return readSteps(edit)
  } catch (error) {
    if (error instanceof InvalidDocument) return null
    throw error
  }
}

/**
 * Until version 12, the step that began a document also made its fields; undone, it left what nothing can read. The
 * fields are no longer a part of such steps, and stand again in what was left so.
 */
export async function keepBegun(all: Transaction): Promise<void> {
  const documents = all.table<DocumentRow>('documents')
  const steps = all.table<StepRow, [string, number]>('steps')
  const began = await steps
    .filter(({ change }) => change.fields.some((f) => f.field === 'format' && !f.before))
    .toArray()
  for (const step of began) {
    const { fields, items } = step.change
    const row = await documents.get(step.documentId)
    if (row && !('format' in (row.document as object))) {
      const { unreadable: _, ...kept } = row
      const document = { ...Object.fromEntries(fields.map((f) => [f.field, f.after])), ...row.document }
      await documents.put({ ...kept, document: document as unknown as Documents[Kind] })
    }
    await steps.put({ ...step, change: { items, fields: [] } })
  }
}

/** Does what changes documents, and has sets that were out as they are stay so. */
async function keepingSetsOut(all: Transaction, change: () => Promise<void>): Promise<void> {
  const releases = all.table<ReleaseRow>('releases')
  const publishedOf = async (lectureId: string): Promise<Published | null> => {
    const lecture = await all.table<Lecture>('lectures').get(lectureId)
    const rows = await all.table<DocumentRow>('documents').where('lectureId').equals(lectureId).sortBy('id')
    return lecture ? { lecture, recording: null, rows } : null
  }
  const current: string[] = []
  for (const { lectureId, sets } of await releases.toArray()) {
    const published = await publishedOf(lectureId)
    if (published && fingerprints(published).sets === sets) current.push(lectureId)
  }
  await change()
  for (const lectureId of current) {
    const published = await publishedOf(lectureId)
    if (published) await releases.update(lectureId, { sets: fingerprints(published).sets })
  }
}

/**
 * Sets of questions, what was done to them, and what was published and answered, as they are written now. Until version 18,
 * each checkpoint asked one question, of which one choice was right, and all texts were plain; until version 19, a policy said
 * only whether students are told at once.
 */
export const upgradeQuestions = (all: Transaction): Promise<void> =>
  keepingSetsOut(all, async () => {
    const ids: string[] = []
    await all
      .table<DocumentRow>('documents')
      .filter((row) => row.kind === 'questions')
      .modify((row) => {
        ids.push(row.id)
        if (!row.unreadable) row.document = kinds.questions.read(row.document)
        for (const conflict of row.conflicts)
          conflict.sides = conflict.sides.map((side) =>
            conflict.list ? upgradeCheckpoint(side) : conflict.id === 'policy' ? upgradePolicy(side) : side,
          ) as typeof conflict.sides
      })
    await all
      .table<StepRow>('steps')
      .filter((step) => ids.includes(step.documentId))
      .modify((step) => {
        for (const item of step.change.items) {
          item.before = upgradeCheckpoint(item.before) as typeof item.before
          item.after = upgradeCheckpoint(item.after) as typeof item.after
        }
        for (const field of step.change.fields) {
          const upgrade = { policy: upgradePolicy, version: (v: unknown) => v && newQuestionSet('').version }[
            field.field
          ]
          if (!upgrade) continue
          field.before = upgrade(field.before)
          field.after = upgrade(field.after)
        }
      })
    await all
      .table<SetRow>('sets')
      .toCollection()
      .modify((row, ref) => {
        ref.value = upgradeGradedSet(row) as SetRow
      })
    await all
      .table<StoredEvent>('answers')
      .toCollection()
      .modify((row) => {
        row.event = upgradeAnswer(row.event) as StoredEvent['event']
      })
  })

/** Each event was a row. */
export async function gatherAnswers(all: Transaction): Promise<void> {
  const places = new Map<string, Map<string, SentBackRow>>()
  // By place and then in the order of the server, as they are keyed.
  for (const event of await all.table<StoredEvent>('answers').orderBy(':id').toArray()) {
    const rows = places.get(event.placeId) ?? new Map<string, SentBackRow>()
    places.set(event.placeId, rows)
    addSent(rows, event)
  }
  await all.table<SentBackRow>('sentBack').bulkPut([...places.values()].flatMap((rows) => [...rows.values()]))
}

/** Until version 22, each course said when its term begins, and its weeks. */
export async function gatherTerms(all: Transaction): Promise<void> {
  const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
  for (const earlier of await all.table<EarlierCourse>('courses').toArray()) {
    const { course, term } = upgradeCourse(earlier, timeZone)
    await all.table('courses').put(course)
    await all.table('terms').put(term)
  }
}
