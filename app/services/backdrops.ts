/**
 * Cameras' films with another background. Making one takes a while, so that it is made once and kept beside the take;
 * the desk shows it, and what is published is cut from it by copying. The recording stays as it is.
 */
import { proxy } from 'comlink'
import type { Recording } from '#core/record/recording'
import type { Background, EditDocument } from '#core/schema/edit'
import { canonicalJson } from '#core/text/canonical-json'
import { BACKGROUND_FILE } from '#media/background/names'
import { db } from '~/db/database'
import { readFile, storing } from '~/db/files'
import type { JobContext, useJobs } from '~/stores/jobs'

/** Bytes of a piece. */
const PIECE = 8 << 20

/** Names a film and what is to be behind in it. */
export const backdropKey = (fileId: string, how: Background['how']): string => canonicalJson([fileId, how])

/** Films of a recording whose background an edit replaces, by take. */
export const filmsBehind = (edit: Pick<EditDocument, 'background'> | null, recording: Recording | null) => {
  const background = edit?.background
  if (!background || !recording) return []
  return recording.feeds
    .filter((f) => f.id === background.on && f.kind !== 'sound')
    .map(({ takeId, fileId }) => ({ takeId, fileId, key: backdropKey(fileId, background.how) }))
}

/**
 * The films with their background replaced, by the files that they stand for; those that are not there are made first.
 * @throws {Error} with a sentence
 */
export async function backdropsFor(
  edit: EditDocument,
  recording: Recording,
  { engine, scratch, progress }: Pick<JobContext, 'engine' | 'scratch' | 'progress'>,
): Promise<Map<string, Blob>> {
  const wanted = filmsBehind(edit, recording)
  const how = edit.background?.how
  const films = new Map<string, Blob>()
  for (const [i, { takeId, fileId, key }] of wanted.entries()) {
    const known = await db.backdrops.get(takeId)
    if (known?.key === key) {
      films.set(fileId, new Blob(known.parts, { type: 'video/mp4' }))
      continue
    }
    const film = await readFile(fileId)
    const picture = how?.kind === 'picture' ? await readFile(how.file) : null
    if (!film || !how) throw new Error('The camera’s film is not in this browser any more.')
    if (how.kind === 'picture' && !picture)
      throw new Error('The picture that is to be behind the speaker is not in this browser any more.')
    const to = `${scratch}~behind-${i}`
    const says = 'Replacing the background'
    progress(i / wanted.length, says)
    await engine.replaceBackground(
      film,
      how,
      picture,
      to,
      proxy((share: number) => progress((i + share) / wanted.length, says)),
    )
    const made = await engine.readScratch(to, BACKGROUND_FILE)
    // The scratch file goes with the job.
    const parts: Blob[] = []
    for (let at = 0; at < made.size; at += PIECE) parts.push(new Blob([await made.slice(at, at + PIECE).arrayBuffer()]))
    await storing(() =>
      db.transaction('rw', [db.backdrops, db.takes], async () => {
        // Its take may be gone meanwhile.
        if (await db.takes.get(takeId)) await db.backdrops.put({ takeId, key, parts })
      }),
    )
    films.set(fileId, new Blob(parts, { type: 'video/mp4' }))
  }
  return films
}

/** Makes them to be seen at the desk. @throws {Error} with a sentence, or JobCancelled */
export async function replaceBackgrounds(
  edit: EditDocument,
  recording: Recording,
  lectureId: string,
  jobs: ReturnType<typeof useJobs>,
): Promise<void> {
  await navigator.locks.request(`backdrop-${lectureId}`, async () => {
    const rows = await db.backdrops.bulkGet(recording.takes.map((t) => t.id))
    const known = new Set(rows.map((row) => row?.key))
    if (filmsBehind(edit, recording).every((f) => known.has(f.key))) return
    await jobs.start('backdrop', lectureId, 'Replacing the background', async (context) => {
      await backdropsFor(edit, recording, context)
    })
  })
}
