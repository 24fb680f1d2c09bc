/** Publishing: render, hash, send in parts, commit, place. Until the commit, what students see does not change. */
import { proxy } from 'comlink'
import { Type } from '@sinclair/typebox'
import { db } from '~/db/database'
import { readFile } from '~/db/files'
import type { useJobs } from '~/stores/jobs'
import { authorFetch } from '~/utils/author'
import { editTimeMap } from '#core/edit/edit'
import { shownFeeds } from '#core/record/recording'
import { partCount, projectLecture } from '#core/packages/publication'
import { PART_SIZE, type Place, type PublicationKeys, type PublicationManifest, type PublishedFile } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { fingerprint, type LectureParts } from './lectures'
import { newId, nowInstant } from './ids'
import type { RenderJob } from '#media/render/render'

const Opened = Type.Object({ upload: Type.String() })

async function hashParts(data: Blob, onProgress: (share: number) => void): Promise<string[]> {
  const hashes: string[] = []
  for (let i = 0; i < partCount(data.size); i++) {
    const digest = await crypto.subtle.digest('SHA-256', await data.slice(i * PART_SIZE, (i + 1) * PART_SIZE).arrayBuffer())
    hashes.push(Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join(''))
    onProgress((i + 1) / partCount(data.size))
  }
  return hashes
}

/** What the renderer needs, read from the lecture's recording. */
async function renderJob(parts: LectureParts): Promise<RenderJob> {
  const { recording, edit } = parts
  if (!recording || !edit) throw new Error('This lecture has no recording yet.')
  const feeds: RenderJob['feeds'][number][] = []
  for (const { kind, offset, fileId } of shownFeeds(recording)) {
    const blob = await readFile(fileId)
    if (blob) feeds.push({ kind, offset, blob })
  }
  return { edit, feeds, assets: [], format: 'mp4', captions: null }
}

async function send(id: string, upload: string, name: string, data: Blob, signal: AbortSignal, onProgress: (share: number) => void): Promise<void> {
  const parts = partCount(data.size)
  for (let i = 0; i < parts; i++) {
    const body = data.slice(i * PART_SIZE, (i + 1) * PART_SIZE)
    await authorFetch(`/api/publications/${id}/uploads/${upload}/parts/${name}/${i}`, { method: 'PUT', body, signal })
    onProgress((i + 1) / parts)
  }
}

const json = (method: string, body: unknown): RequestInit => ({ method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })

/**
 * Publishes a lecture at a place.
 * @throws {Error} with a sentence, or JobCancelled; what was published before stays as it was
 */
export async function publish(parts: LectureParts, where: Pick<Place, 'courseId' | 'week' | 'from' | 'until'>, jobs: ReturnType<typeof useJobs>): Promise<void> {
  const { lecture, captions, questions, release } = parts
  // What was watched live has its place already: there its recording is found.
  const known = release?.place ?? (await db.broadcasts.get(lecture.id))?.place
  const id = known?.publicationId ?? newId()
  const place: Place = { id: known?.id ?? newId(), publicationId: id, ...where }
  const mark = await fingerprint(parts)
  await jobs.start('publish', lecture.id, 'Rendering', async ({ engine, scratch, progress, signal }) => {
    const job = await renderJob(parts)
    const map = editTimeMap(job.edit)
    const projected = projectLecture(map, captions, questions)
    const rendered = await engine.render(job, { kind: 'scratch', name: scratch }, proxy((share: number) => progress(0.8 * share)))
    const media = await engine.readScratch(scratch, rendered.files[0] ?? '')
    const files: { name: PublishedFile['name']; type: PublishedFile['type']; data: Blob }[] = [{ name: 'media.mp4', type: 'video/mp4', data: media }]
    if (projected.captions) files.push({ name: 'captions.vtt', type: 'text/vtt', data: new Blob([projected.captions]) })
    const described: PublishedFile[] = []
    for (const { name, type, data } of files) described.push({ name, type, size: data.size, parts: await hashParts(data, (s) => progress(0.8 + 0.05 * s, 'Checking')) })
    const manifest: PublicationManifest = {
      format: 'thaw-publication', version: 1, id, title: lecture.title, description: lecture.description, language: captions?.language ?? 'en',
      duration: map.length, width: rendered.width, height: rendered.height, madeAt: nowInstant(), files: described, checkpoints: projected.checkpoints,
    }
    const keys: PublicationKeys = { format: 'thaw-keys', version: 1, publicationId: id, keys: projected.keys }
    const opened = await authorFetch(`/api/publications/${id}/uploads`, { ...json('POST', { manifest, keys }), signal })
    const { upload } = parseAs(Opened, await opened.json(), 'answer of the server')
    try {
      for (const { name, data } of files) await send(id, upload, name, data, signal, (s) => progress(0.85 + 0.13 * s, 'Sending'))
      await authorFetch(`/api/publications/${id}/uploads/${upload}/commit`, { method: 'POST', signal })
    } catch (error) {
      // Give the half-sent version up; if even that fails, the server does so itself within the hour.
      await fetch(`/api/publications/${id}/uploads/${upload}`, { method: 'DELETE' }).catch((e: unknown) => console.warn('could not give the upload up', e))
      throw error
    }
    await authorFetch(`/api/places/${place.id}`, json('PUT', place))
    progress(1, rendered.note || 'Published')
    await db.releases.put({ lectureId: lecture.id, place, publishedAt: nowInstant(), fingerprint: mark })
    await db.broadcasts.delete(lecture.id)
  }, { again: { do: 'publish', where }, awaited: true })
}

/** Changes only where and when, without rendering anew. */
export async function replace(parts: LectureParts, where: Pick<Place, 'courseId' | 'week' | 'from' | 'until'>): Promise<void> {
  const { release } = parts
  if (!release) throw new Error('Publish the lecture first.')
  const place: Place = { ...release.place, ...where }
  await authorFetch(`/api/places/${place.id}`, json('PUT', place))
  await db.releases.put({ ...release, place })
}
