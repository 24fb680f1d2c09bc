/**
 * Pictures and videos that edits put in or lay over: kept once by what is in them, however many lectures have them. One
 * stays while a lecture that it was brought into is there, as undoing or an earlier revision may want it again.
 */
import { db, type AssetRow } from '~/db/database'
import { readFile, removeFile, storeFile, storing } from '~/db/files'
import { assetsOf } from '#core/render/script'
import type { EditDocument } from '#core/schema/edit'
import type { JobContext, useJobs } from '~/stores/jobs'

export const assetsFor = (lectureId: string): Promise<AssetRow[]> =>
  db.assets.where('lectureIds').equals(lectureId).toArray()

type Found = Omit<AssetRow, 'hash' | 'name' | 'size' | 'lectureIds'>

async function look(file: File, engine: JobContext['engine']): Promise<Found> {
  if (file.type.startsWith('image/')) {
    const image = await createImageBitmap(file).catch(() => null)
    if (!image) throw new Error(`“${file.name}” cannot be read. PNG, JPEG, WebP, AVIF and GIF can be.`)
    const { width, height } = image
    image.close()
    return { kind: 'picture', width, height, duration: 0, sound: false }
  }
  const { picture, sound, duration } = await engine.probe(file, file.name)
  if (!picture) throw new Error(`There is no picture in “${file.name}”; only pictures and videos can be put in.`)
  return { kind: 'video', width: picture.width, height: picture.height, duration, sound: sound !== null }
}

/** Has a lecture have it, if it is kept already. */
const share = (hash: string, lectureId: string): Promise<AssetRow | null> =>
  db.transaction('rw', [db.assets, db.files], async () => {
    const known = (await db.files.get(hash)) && (await db.assets.get(hash))
    if (!known) return null
    const row = { ...known, lectureIds: [...new Set([...known.lectureIds, lectureId])] }
    await db.assets.put(row)
    return row
  })

/** Has a lecture have files that another one has. @throws {Error} when one is not there any more */
export async function shareAssets(hashes: readonly string[], lectureId: string): Promise<void> {
  for (const hash of new Set(hashes))
    if (!(await share(hash, lectureId))) throw new Error('A file that this shows is not in this browser any more.')
}

/**
 * Brings a picture or video into a lecture, or a finish, by its id.
 * @throws {Error} with a sentence, or JobCancelled; nothing is kept of the file then
 */
export function addAsset(file: File, lectureId: string, jobs: ReturnType<typeof useJobs>): Promise<AssetRow> {
  return jobs.start('import', lectureId, `Bringing in “${file.name}”`, async ({ engine, progress, holds }) => {
    const found = await look(file, engine)
    const hash = await engine.digest(file)
    const known = await share(hash, lectureId)
    if (known) return known
    await holds([hash])
    const { name, size } = file
    await storeFile({ id: hash, type: file.type, name, size }, file, progress)
    const row: AssetRow = { ...found, hash, name, size, lectureIds: [lectureId] }
    // Another tab may have brought in the same meanwhile, or let go of it.
    return storing(() =>
      db.transaction('rw', [db.assets, db.files, db.lectures, db.finishes], async () => {
        const isThere = (await db.lectures.get(lectureId)) ?? (await db.finishes.get(lectureId))
        if (!isThere) throw new Error('What this was brought into is not there any more.')
        if (!(await db.files.get(hash))) throw new Error(`“${name}” could not be kept; try again.`)
        const other = (await db.assets.get(hash))?.lectureIds ?? []
        const shared = { ...row, lectureIds: [...new Set([...other, lectureId])] }
        await db.assets.put(shared)
        return shared
      }),
    )
  })
}

/** Gives a copy of a lecture what the lecture has. To be called inside a change of the copy. */
export async function copyAssets(from: string, to: string): Promise<void> {
  for (const row of await assetsFor(from))
    await db.assets.put({ ...row, lectureIds: [...new Set([...row.lectureIds, to])] })
}

/** Lets go of all that a lecture has, and removes what no other one does. To be called inside a change of it. */
export async function releaseAssets(lectureId: string): Promise<void> {
  for (const row of await assetsFor(lectureId)) {
    const lectureIds = row.lectureIds.filter((id) => id !== lectureId)
    if (lectureIds.length > 0) {
      await db.assets.put({ ...row, lectureIds })
      continue
    }
    await db.assets.delete(row.hash)
    await removeFile(row.hash)
  }
}

/** The files that an edit uses, as the renderer takes them; those that are not there are left out. */
export async function readAssets(edit: EditDocument): Promise<{ name: string; blob: Blob }[]> {
  const found = await Promise.all(assetsOf(edit).map(async (name) => ({ name, blob: await readFile(name) })))
  return found.flatMap(({ name, blob }) => (blob ? [{ name, blob }] : []))
}
