/** Publishing: render, hash, send in parts, commit, place. Until the commit, what students see does not change. */
import { proxy } from 'comlink'
import { Type } from '@sinclair/typebox'
import { db } from '~/db/database'
import { readFile } from '~/db/files'
import type { useJobs } from '~/stores/jobs'
import { authorFetch } from '~/utils/author'
import { editTimeMap } from '#core/edit/edit'
import { partCount, projectLecture } from '#core/packages/publication'
import type { Size } from '#core/picture/layout'
import { shownFeeds, type Recording } from '#core/record/recording'
import { arrangements, partsOf, writeScript, type Arrangement, type Part } from '#core/render/script'
import type { EditDocument } from '#core/schema/edit'
import {
  PART_SIZE,
  type Place,
  type PublicationKeys,
  type PublicationManifest,
  type PublishedFile,
  type PublishedSet,
} from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { toHex } from '#core/text/hex'
import { changeLecture, type LectureParts } from './cards'
import { documentOf, fingerprint } from './fingerprint'
import { nowInstant } from './ids'
import { keepPublishedSet } from './results'
import type { RenderFeed } from '#media/render/render'

const Opened = Type.Object({ upload: Type.String() })

async function hashParts(data: Blob, onProgress: (share: number) => void): Promise<string[]> {
  const hashes: string[] = []
  for (let i = 0; i < partCount(data.size); i++) {
    const digest = await crypto.subtle.digest(
      'SHA-256',
      await data.slice(i * PART_SIZE, (i + 1) * PART_SIZE).arrayBuffer(),
    )
    hashes.push(toHex(digest))
    onProgress((i + 1) / partCount(data.size))
  }
  return hashes
}

/** What is rendered of a lecture: a film for each picture that is seen of it, and how they stand together. */
interface Plan {
  /** The first has the sound; `part` is null when no picture of the recording is seen. `size` in px. */
  films: { id: string; file: string; part: Part | null; size: Size | null }[]
  frame: Size | null
  layout: Arrangement[]
}

function planFilms(edit: EditDocument, recording: Recording): Plan {
  const feeds = shownFeeds(recording)
  const script = writeScript(edit, feeds, new Map())
  const parts = partsOf(script, feeds)
  const films = (parts.length > 0 ? parts : [null]).map((part) => ({
    id: part?.feed ?? 'screen',
    file: `${part?.feed ?? (script.frame ? 'screen' : 'sound')}.mp4`,
    part,
    size: part ? writeScript(edit, feeds, new Map(), part).frame : script.frame,
  }))
  return { films, frame: script.frame, layout: arrangements(script, feeds) }
}

/** What the renderer needs, read from the lecture's recording. */
async function renderFeeds(recording: Recording): Promise<RenderFeed[]> {
  const feeds: RenderFeed[] = []
  for (const { kind, offset, fileId } of shownFeeds(recording)) {
    const blob = await readFile(fileId)
    if (blob) feeds.push({ kind, offset, blob })
  }
  return feeds
}

async function send(
  id: string,
  upload: string,
  name: string,
  data: Blob,
  signal: AbortSignal,
  onProgress: (share: number) => void,
): Promise<void> {
  const parts = partCount(data.size)
  for (let i = 0; i < parts; i++) {
    const body = data.slice(i * PART_SIZE, (i + 1) * PART_SIZE)
    await authorFetch(`/api/publications/${id}/uploads/${upload}/parts/${name}/${i}`, { method: 'PUT', body, signal })
    onProgress((i + 1) / parts)
  }
}

const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(body),
})

/**
 * Gives a half-sent version up, unless it counts already: the answer to its commit may have been lost. If the server
 * cannot be asked either, it gives the version up itself within the hour.
 */
async function isPublished(id: string, upload: string): Promise<boolean> {
  try {
    return (await fetch(`/api/publications/${id}/uploads/${upload}`, { method: 'DELETE' })).status === 409
  } catch (error) {
    console.warn('could not give the upload up', error)
    return false
  }
}

/**
 * Publishes a lecture at a place, in the stead of the job `replaces` that was cut off.
 * @throws {Error} with a sentence, or JobCancelled; what was published before stays as it was
 */
export async function publish(
  parts: LectureParts,
  where: Pick<Place, 'courseId' | 'week' | 'from' | 'until'>,
  jobs: ReturnType<typeof useJobs>,
  replaces?: string,
): Promise<void> {
  const { lecture, release } = parts
  // What was watched live has its place already: there its recording is found.
  const known = release?.place ?? (await db.broadcasts.get(lecture.id))?.place
  // Named by its lecture, so that trying again after a failure goes on with what is there.
  const id = known?.publicationId ?? lecture.id
  const place: Place = { id: known?.id ?? lecture.id, publicationId: id, ...where }
  const mark = fingerprint(parts)
  await jobs.start(
    'publish',
    lecture.id,
    'Rendering',
    async ({ engine, scratch, progress, signal, noReturn }) => {
      const { recording } = parts
      const edit = documentOf(parts, 'edit')
      if (!recording || !edit) throw new Error('This lecture has no recording yet.')
      const map = editTimeMap(edit)
      const captions = documentOf(parts, 'captions')
      const projected = projectLecture(map, {
        captions,
        chapters: documentOf(parts, 'chapters'),
        links: documentOf(parts, 'links'),
        questions: documentOf(parts, 'questions'),
      })
      const plan = planFilms(edit, recording)
      const feeds = await renderFeeds(recording)
      const files: { name: string; type: PublishedFile['type']; data: Blob }[] = []
      const notes = new Set<string>()
      for (const [i, { file, part }] of plan.films.entries()) {
        const to = `${scratch}~${i}`
        const rendered = await engine.render(
          { edit, feeds, assets: [], format: 'mp4', part, captions: null },
          { kind: 'scratch', name: to },
          proxy((share: number) => progress((0.8 * (i + share)) / plan.films.length)),
        )
        files.push({ name: file, type: 'video/mp4', data: await engine.readScratch(to, rendered.files[0] ?? '') })
        if (rendered.note) notes.add(rendered.note)
      }
      if (projected.captions)
        files.push({ name: 'captions.vtt', type: 'text/vtt', data: new Blob([projected.captions]) })
      const described: PublishedFile[] = []
      for (const { name, type, data } of files)
        described.push({
          name,
          type,
          size: data.size,
          parts: await hashParts(data, (s) => progress(0.8 + 0.05 * s, 'Checking')),
        })
      const language = captions?.language ?? 'en'
      const manifest: PublicationManifest = {
        format: 'thaw-publication',
        version: 2,
        id,
        title: lecture.title,
        description: lecture.description,
        language,
        duration: map.length,
        width: plan.frame?.width ?? 0,
        height: plan.frame?.height ?? 0,
        madeAt: nowInstant(),
        files: described,
        feeds: plan.films.map(({ id: feed, file, size }) => ({
          id: feed,
          file,
          width: size?.width ?? 0,
          height: size?.height ?? 0,
        })),
        layout: plan.layout,
        captions: projected.captions ? [{ language, file: 'captions.vtt' }] : [],
        chapters: projected.chapters,
        links: projected.links,
        kept: map.kept.map(({ from, to, at }) => ({ from, to, at })),
      }
      const set: PublishedSet = {
        format: 'thaw-published-set',
        version: 1,
        publicationId: id,
        checkpoints: projected.checkpoints,
      }
      const keys: PublicationKeys = { format: 'thaw-keys', version: 1, publicationId: id, keys: projected.keys }
      const opened = await authorFetch(`/api/publications/${id}/uploads`, {
        ...json('POST', { manifest, set, keys }),
        signal,
      })
      const { upload } = parseAs(Opened, await opened.json(), 'answer of the server')
      try {
        for (const { name, data } of files)
          await send(id, upload, name, data, signal, (s) => progress(0.85 + 0.13 * s, 'Sending'))
        // What students see changes now: from here on it is carried through.
        noReturn()
        await authorFetch(`/api/publications/${id}/uploads/${upload}/commit`, { method: 'POST' })
      } catch (error) {
        if (!(await isPublished(id, upload))) throw error
      }
      await keepPublishedSet(id, {
        version: upload,
        madeAt: manifest.madeAt,
        checkpoints: set.checkpoints,
        keys: keys.keys,
      })
      await authorFetch(`/api/places/${place.id}`, json('PUT', place))
      progress(1, [...notes].join(' ') || 'Published')
      await changeLecture(lecture.id, async () => {
        await db.releases.put({ lectureId: lecture.id, place, publishedAt: nowInstant(), fingerprint: mark })
        await db.broadcasts.delete(lecture.id)
      })
    },
    { restart: { do: 'publish', where }, awaited: true, replaces },
  )
}

/** Changes only where and when, without rendering anew. */
export async function replace(
  parts: LectureParts,
  where: Pick<Place, 'courseId' | 'week' | 'from' | 'until'>,
): Promise<void> {
  const { release } = parts
  if (!release) throw new Error('Publish the lecture first.')
  const place: Place = { ...release.place, ...where }
  await authorFetch(`/api/places/${place.id}`, json('PUT', place))
  await changeLecture(release.lectureId, () => db.releases.put({ ...release, place }))
}
