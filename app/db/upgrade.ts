/** What earlier versions kept, made what this one keeps. What cannot be read stays as it is, and is named when opened. */
import type { Transaction } from 'dexie'
import { changeBetween } from '#core/documents/change'
import { firstDocumentId, kinds, type Documents, type Kind } from '#core/documents/kinds'
import { readSteps } from '#core/edit/upgrade'
import { joinTakes, shownFeeds } from '#core/record/recording'
import type { CaptionTrack } from '#core/schema/captions'
import type { Lecture, Take } from '#core/schema/lecture'
import { InvalidDocument } from '#core/schema/validate'
import { fingerprint, sha256Text } from '~/services/fingerprint'
import type { DocumentRow, JobRow, ReleaseRow, StepRow } from './database'

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
      id: firstDocumentId(lectureId, kind),
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
      documentId: firstDocumentId(lectureId, 'edit'),
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
  for (const release of await all.table<ReleaseRow>('releases').toArray()) {
    const lecture = await all.table<Lecture>('lectures').get(release.lectureId)
    if (!lecture) continue
    const of = <T>(table: string) => all.table<T & { lectureId: string }>(table).get(release.lectureId)
    const takes = await all.table<Take>('takes').where('lectureId').equals(release.lectureId).sortBy('startedAt')
    const recording = joinTakes(takes.filter((t) => t.state !== 'discarded'))
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
    const now = fingerprint({ lecture, recording, rows })
    await all.table<ReleaseRow>('releases').update(release.lectureId, { fingerprint: now })
  }
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
