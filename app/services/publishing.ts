/**
 * Publishing: render, hash, send in parts, commit, place. Until the commit, what students see does not change. Where only
 * captions or questions were changed, they alone are sent.
 */
import { proxy } from 'comlink'
import { db, type PlaceRow } from '~/db/database'
import { readFile } from '~/db/files'
import type { JobContext, useJobs } from '~/stores/jobs'
import { authorFetch, Refused } from '~/utils/author'
import { editTimeMap, feedsInSlots } from '#core/edit/edit'
import type { TimeMap } from '#core/time/time-map'
import { documentId } from '#core/documents/kinds'
import {
  partCount,
  projectCaptions,
  projectLecture,
  projectSet,
  type ProjectedLecture,
  type ProjectedSet,
} from '#core/packages/publication'
import { onlySetId } from '#core/packages/upgrade'
import { picturesPublished } from '#core/questions/pictures'
import { newQuestionSet } from '#core/questions/set'
import type { Size } from '#core/picture/layout'
import { planStills, type StillGrid } from '#core/picture/still-sheet'
import { shownFeeds, type Recording } from '#core/record/recording'
import { arrangements, partsOf, writeScript, type Arrangement, type Part, type ScriptAssets } from '#core/render/script'
import { RemovedVersions } from '#core/schema/answers'
import type { EditDocument, Watermark } from '#core/schema/edit'
import {
  PART_SIZE,
  PublishedVersions,
  type Place,
  type PublicationManifest,
  type PublishedFile,
  type PublishedMark,
} from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { toHex } from '#core/text/hex'
import { assetsFor, readAssets } from './assets'
import { backdropsFor } from './backdrops'
import { changeLecture, type LectureParts } from './cards'
import { documentOf, documentsOf, fingerprints } from './fingerprint'
import { languageOf, loadCheckedParts } from './lectures'
import { nowInstant } from './ids'
import { pullResults } from './results'
import { keepPublished, partsAsOf } from './revisions'
import type { RenderFeed } from '#media/render/render'

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

function planFilms(edit: EditDocument, recording: Recording, assets: ScriptAssets): Plan {
  const feeds = shownFeeds(recording, feedsInSlots(edit))
  const script = writeScript(edit, feeds, assets)
  const parts = partsOf(script, feeds)
  const films = (parts.length > 0 ? parts : [null]).map((part) => ({
    id: part?.feed ?? 'screen',
    file: `${part?.feed ?? (script.frame ? 'screen' : 'sound')}.mp4`,
    part,
    size: part ? writeScript(edit, feeds, assets, part).frame : script.frame,
  }))
  return { films, frame: script.frame, layout: arrangements(script, feeds) }
}

type RenderContext = Pick<JobContext, 'engine' | 'scratch' | 'progress'>

/** What the renderer needs, read from the lecture's recording; a background that is to be replaced is replaced first. */
export async function renderFeeds(
  edit: EditDocument,
  recording: Recording,
  context: RenderContext,
): Promise<RenderFeed[]> {
  const films = await backdropsFor(edit, recording, context)
  const feeds: RenderFeed[] = []
  for (const { id, kind, offset, fileId } of shownFeeds(recording, feedsInSlots(edit))) {
    const blob = films.get(fileId) ?? (await readFile(fileId))
    if (blob) feeds.push({ id, kind, offset, blob })
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

/** The id of a lecture's publication: of what was published, or announced, or will be. */
export async function publicationIdOf({ lecture, release }: LectureParts): Promise<string> {
  // Named by its lecture, so that trying again after a failure goes on with what is there.
  return release?.publicationId ?? (await db.broadcasts.get(lecture.id))?.place.publicationId ?? lecture.id
}

/** The sets of a lecture as they go out; one that was published and is deleted goes out empty, and asks nothing more. */
export function projectSets(parts: LectureParts, publicationId: string, map: TimeMap): ProjectedSet[] {
  const sets = documentsOf(parts, 'questions')
  // What a publication of earlier versions called its only set is the first one here.
  const first = documentId(parts.lecture.id, 'questions')
  const own = (id: string) => (id === onlySetId(publicationId) ? first : id)
  const gone = Object.keys(parts.release?.asked ?? {}).filter((id) => !sets.some((s) => s.id === own(id)))
  return [
    ...sets.map(({ id, document }) => projectSet(map, { id, publicationId, questions: document })),
    ...gone.map((id) => projectSet(map, { id, publicationId, questions: newQuestionSet('') })),
  ]
}

/** The films of a lecture, and how it is put together of them. */
export interface MadeFilms {
  /** Small stills along it, in one picture; null where there are none to be had. */
  stills: { grid: StillGrid; data: Blob } | null
  films: { name: string; type: 'video/mp4'; data: Blob }[]
  /** What the player shows over them all the time. */
  mark: (Omit<PublishedMark, 'file'> & { data: Blob }) | null
  plan: Plan
  map: TimeMap
  marks: ProjectedLecture
  /** What a person should know of how they came out; mostly nothing. */
  note: string
}

/** An edit whose films can be copied where they are only cut, and the mark that the player shows over them. */
function withoutMark(edit: EditDocument): { edit: EditDocument; watermark: Watermark | null } {
  const { watermark, ...rest } = edit
  return watermark && !watermark.burnt ? { edit: rest, watermark } : { edit, watermark: null }
}

/** Most that a mark's picture needs across, px: twice a tenth of a large frame and more. */
const MARK_WIDTH = 800

/** A mark as it goes out, whatever kind of picture it was brought in as. */
async function markPicture({ file, box, opacity }: Watermark): Promise<NonNullable<MadeFilms['mark']>> {
  const blob = await readFile(file)
  if (!blob)
    throw new Error('The picture of the mark is not in this browser any more: take the mark off, or put it anew.')
  const whole = await createImageBitmap(blob)
  const scale = Math.min(1, MARK_WIDTH / whole.width)
  const canvas = new OffscreenCanvas(Math.ceil(whole.width * scale), Math.ceil(whole.height * scale))
  canvas.getContext('2d')?.drawImage(whole, 0, 0, canvas.width, canvas.height)
  whole.close()
  return { box, opacity, data: await canvas.convertToBlob({ type: 'image/png' }) }
}

/** Makes the films. Their bytes are in the job's scratch file, and gone with the job. */
export async function makeFilms(parts: LectureParts, { engine, scratch, progress }: RenderContext): Promise<MadeFilms> {
  const { lecture, recording } = parts
  const whole = documentOf(parts, 'edit')
  if (!recording || !whole) throw new Error('This lecture has no recording yet.')
  const { edit, watermark } = withoutMark(whole)
  const map = editTimeMap(edit)
  const marks = projectLecture(map, { chapters: documentOf(parts, 'chapters'), links: documentOf(parts, 'links') })
  const known = await assetsFor(lecture.id)
  const plan = planFilms(edit, recording, new Map(known.map((a) => [a.hash, a])))
  const assets = await readAssets(edit)
  const feeds = await renderFeeds(edit, recording, { engine, scratch, progress: (s, says) => progress(0.75 * s, says) })
  progress(0, 'Rendering')
  // Side by side: while one encodes at a seam, the other copies. Where one fails the job does, and its worker ends.
  const shares = plan.films.map(() => 0)
  const films = await Promise.all(
    plan.films.map(async ({ file, part }, i) => {
      const to = `${scratch}~${i}`
      const { files, note } = await engine.render(
        { edit, feeds, assets, format: 'mp4', part, captions: null },
        { kind: 'scratch', name: to },
        proxy((share: number) => {
          shares[i] = share
          progress((0.75 * shares.reduce((sum, s) => sum + s, 0)) / shares.length)
        }),
      )
      return { name: file, type: 'video/mp4' as const, data: await engine.readScratch(to, files[0] ?? ''), note }
    }),
  )
  const notes = new Set(films.flatMap(({ note }) => note || []))
  const mark = watermark && (await markPicture(watermark))
  const made = { films, mark, plan, map, marks, note: [...notes].join(' ') }
  return { ...made, stills: await makeStills(made, engine) }
}

async function makeStills(
  { films, plan, map }: Omit<MadeFilms, 'stills'>,
  engine: RenderContext['engine'],
): Promise<MadeFilms['stills']> {
  if (!plan.frame) return null
  const grid = planStills(map.length, plan.frame)
  const shown = plan.films.flatMap(({ id, size }, i) => {
    const blob = films[i]?.data
    return size && blob ? [{ id, blob, ...size }] : []
  })
  const data = await engine.stillSheet(shown, plan.layout, map.length, grid)
  return data && { grid, data }
}

/** Where the frames of a lecture's films stand: its size (px), its feeds and their arrangements. */
export const framesOf = ({ plan }: MadeFilms) => ({
  width: plan.frame?.width ?? 0,
  height: plan.frame?.height ?? 0,
  feeds: plan.films.map(({ id, file, size }) => ({ id, file, width: size?.width ?? 0, height: size?.height ?? 0 })),
  layout: plan.layout,
})

/** Where the stills and the mark stand in a publication. */
const [STILLS, MARK] = ['stills.jpg', 'mark.png']

const filesOf = ({ films, stills, mark }: MadeFilms): { name: string; type: PublishedFile['type']; data: Blob }[] => [
  ...films,
  ...(stills ? [{ name: STILLS, type: 'image/jpeg' as const, data: stills.data }] : []),
  ...(mark ? [{ name: MARK, type: 'image/png' as const, data: mark.data }] : []),
]

/** Makes the films and what goes with them. */
async function makeAll(
  parts: LectureParts,
  id: string,
  context: RenderContext,
): Promise<{ manifest: PublicationManifest; made: MadeFilms }> {
  const { lecture } = parts
  const made = await makeFilms(parts, context)
  const { map, marks, mark, stills } = made
  const described: PublishedFile[] = []
  for (const { name, type, data } of filesOf(made)) {
    const hashes = await hashParts(data, (s) => context.progress(0.8 + 0.05 * s, 'Checking'))
    described.push({ name, type, size: data.size, parts: hashes })
  }
  const manifest: PublicationManifest = {
    format: 'thaw-publication',
    version: 2,
    id,
    title: lecture.title,
    description: lecture.description,
    language: await languageOf(lecture),
    duration: map.length,
    ...framesOf(made),
    madeAt: nowInstant(),
    files: described,
    captions: [],
    chapters: marks.chapters,
    links: marks.links,
    ...(stills && { stills: { file: STILLS, ...stills.grid } }),
    ...(mark && { watermark: { file: MARK, box: mark.box, opacity: mark.opacity } }),
    kept: map.kept.map(({ from, to, at }) => ({ from, to, at })),
  }
  return { manifest, made }
}

const forServer = ({ set, keys }: ProjectedSet) => ({ set, keys })

/** Sends the pictures that sets show, as far as they are not there. */
async function sendPictures(id: string, sets: readonly ProjectedSet[]): Promise<void> {
  for (const hash of new Set(sets.flatMap(picturesPublished))) {
    const url = `/api/publications/${id}/pictures/${hash}`
    if (((await (await authorFetch(url)).json()) as { there: boolean }).there) continue
    const body = await readFile(hash)
    if (!body)
      throw new Error('A picture of a question is not in this browser any more: take it out, or bring it in again.')
    await authorFetch(url, { method: 'PUT', body })
  }
}

/** Makes, sends and commits all of a lecture. @returns what counts then */
async function sendAll(
  parts: LectureParts,
  id: string,
  context: JobContext,
): Promise<{ versions: PublishedVersions; sets: ProjectedSet[]; note: string }> {
  const { progress, signal, noReturn } = context
  const { manifest, made } = await makeAll(parts, id, context)
  const { map, note } = made
  const sets = projectSets(parts, id, map)
  await sendPictures(id, sets)
  const start = json('POST', {
    ...{ manifest, captions: captionsOf(parts, map) },
    ...{ sets: sets.map(forServer), known: parts.release?.asked },
  })
  const opened = await authorFetch(`/api/publications/${id}/uploads`, { ...start, signal })
  const versions = parseAs(PublishedVersions, await opened.json(), 'answer of the server')
  try {
    for (const { name, data } of filesOf(made))
      await send(id, versions.version, name, data, signal, (s) => progress(0.85 + 0.13 * s, 'Sending'))
    // What students see changes now: from here on it is carried through.
    noReturn()
    await authorFetch(`/api/publications/${id}/uploads/${versions.version}/commit`, { method: 'POST' })
  } catch (error) {
    if (!(await isPublished(id, versions.version))) throw error
  }
  return { versions, sets, note }
}

/** Caption tracks of a lecture that are on, in the time of what is published. */
export const captionsOf = (parts: LectureParts, map: TimeMap) =>
  projectCaptions(
    map,
    documentsOf(parts, 'captions').map(({ document }) => document),
  ).tracks

/**
 * Sends the captions and questions of a lecture whose films are out as they are; all of it, where another version is out
 * than this browser knows of. @returns what counts then
 */
async function sendApart(
  parts: LectureParts,
  id: string,
  context: JobContext,
): Promise<{ versions: PublishedVersions; sets: ProjectedSet[]; note: string }> {
  const edit = documentOf(parts, 'edit')
  if (!edit || !parts.release) throw new Error('This lecture has no recording yet.')
  const map = editTimeMap(edit)
  const sets = projectSets(parts, id, map)
  const { version, asked } = parts.release
  const start = json('POST', { version, sets: sets.map(forServer), known: asked })
  try {
    const captions = captionsOf(parts, map)
    await authorFetch(`/api/publications/${id}/captions`, json('POST', { version, captions }))
    await sendPictures(id, sets)
    const answer = await authorFetch(`/api/publications/${id}/sets`, start)
    return { versions: parseAs(PublishedVersions, await answer.json(), 'answer of the server'), sets, note: '' }
  } catch (error) {
    if (!(error instanceof Refused && error.status === 409)) throw error
    const sent = await sendAll(parts, id, context)
    return { ...sent, note: `It replaced what another browser or tab had published. ${sent.note}`.trim() }
  }
}

/**
 * Has captions follow what is out, without anything else of what the desk shows: in the time of the edit that was published,
 * whatever has become of it since.
 * @throws {Error} with a sentence; what students see stays as it was then
 */
export async function sendCaptions(lectureId: string): Promise<void> {
  const parts = await loadCheckedParts(lectureId)
  if (!parts?.release) throw new Error('This lecture is not published yet.')
  const { release } = parts
  const isSame = release.films === fingerprints(parts).films
  const kept = release.revisionId && (await db.revisions.get(release.revisionId))
  const out = kept ? await partsAsOf(parts, kept.id) : isSame ? parts : null
  const edit = out && documentOf(out, 'edit')
  if (!edit) throw new Error('What was published is not known any more. Publish the lecture again, with its captions.')
  const captions = captionsOf(parts, editTimeMap(edit))
  const version = release.version || (await versionOut(release.publicationId))
  await authorFetch(`/api/publications/${release.publicationId}/captions`, json('POST', { version, captions }))
  await changeLecture(lectureId, async () => {
    // Published anew meanwhile, it has its own.
    if ((await db.releases.get(lectureId))?.version === release.version)
      await db.releases.update(lectureId, { version, captions: fingerprints(parts).captions })
  })
}

/** Keeps which sets count, once a person is told that they are not those of this browser: published again, they replace those. */
async function learnAsked(lectureId: string, publicationId: string): Promise<void> {
  const answer = await authorFetch(`/api/publications/${publicationId}`)
  const { sets } = parseAs(PublishedVersions, await answer.json(), 'answer of the server')
  await changeLecture(lectureId, async () => {
    const asked = (await db.releases.get(lectureId))?.asked ?? {}
    // Sets of another browser that this one does not have are left to it.
    const known = Object.entries(asked).map(([id, version]) => [id, sets[id] ?? version])
    await db.releases.update(lectureId, { asked: Object.fromEntries(known) as typeof asked })
  })
}

/** The version that is out, of what an earlier version of Thaw, or the demo, does not know it of. */
async function versionOut(publicationId: string): Promise<string> {
  const answer = await authorFetch(`/api/publications/${publicationId}`)
  return parseAs(PublishedVersions, await answer.json(), 'answer of the server').version
}

/**
 * Takes away at once what was replaced of what is out, for everybody.
 * @returns of how many earlier versions something was there still
 */
export async function removeEarlier(publicationId: string): Promise<number> {
  const answer = await authorFetch(`/api/publications/${publicationId}/earlier`, { method: 'DELETE' })
  return parseAs(RemovedVersions, await answer.json(), 'answer of the server').removed
}

/** Whether what is out differs in its captions and questions at most, so that no film has to be made. */
export function filmsAreOut(parts: LectureParts): boolean {
  const { release } = parts
  return Boolean(release?.version) && release?.films === fingerprints(parts).films
}

/**
 * Publishes a lecture, in the stead of the job `replaces` that was cut off. What went out is kept as a revision.
 * @param first where it is to stand, when it stands nowhere yet
 * @param options.revisionId a revision to publish rather than what the desk holds
 * @throws {Error} with a sentence, or JobCancelled; what was published before stays as it was
 */
export async function publish(
  present: LectureParts,
  first: Place | null,
  jobs: ReturnType<typeof useJobs>,
  { replaces, revisionId }: { replaces?: string; revisionId?: string } = {},
): Promise<void> {
  const parts = revisionId ? await partsAsOf(present, revisionId) : present
  const { lecture } = parts
  const id = await publicationIdOf(parts)
  const mark = fingerprints(parts)
  const alone = filmsAreOut(parts)
  await jobs.start(
    'publish',
    lecture.id,
    alone ? 'Sending' : 'Rendering',
    async (context) => {
      const { versions, sets, note } = await (alone ? sendApart : sendAll)(parts, id, context).catch(
        async (error: unknown) => {
          if (error instanceof Refused && error.status === 412) await learnAsked(lecture.id, id)
          throw error
        },
      )
      const publishedAt = nowInstant()
      const graded = sets.map(({ set, keys }) => ({
        version: versions.sets[set.id] ?? '',
        id: set.id,
        title: set.title,
        publishedAt,
        policy: set.policy,
        checkpoints: set.checkpoints,
        keys: keys.keys,
      }))
      await changeLecture(
        lecture.id,
        async () => {
          const { version, sets: asked } = versions
          const kept = await keepPublished(parts)
          const out = { publicationId: id, version, asked, publishedAt, revisionId: kept }
          await db.releases.put({ lectureId: lecture.id, ...out, ...mark })
          // By these answers are graded from now on.
          await db.sets.bulkPut(graded.map((set) => ({ ...set, publicationId: id })))
        },
        [db.sets, db.revisions, db.contents],
      )
      const known = (await db.places.where('lectureId').equals(lecture.id).toArray()).filter((p) => !p.removed)
      // What students are told of it stands there too; a place that could not be told before is told now.
      for (const { place } of known) await tellPlace(lecture.id, place)
      if (first && !known.some((p) => p.id === first.id)) await tellPlace(lecture.id, first)
      await changeLecture(lecture.id, () => db.broadcasts.delete(lecture.id))
      context.progress(1, note || 'Published')
    },
    { restart: { do: 'publish', place: first, ...(revisionId && { revisionId }) }, awaited: true, replaces },
  )
}

/** A place whose sets are named as they are now: the only set of a publication of earlier versions had a name of its own. */
export function withOwnSets(lectureId: string, place: Place): Place {
  const own = (id: string) => (id === onlySetId(place.publicationId) ? documentId(lectureId, 'questions') : id)
  return { ...place, sets: [...new Set(place.sets.map(own))] }
}

/**
 * Tells the server where a lecture stands, and keeps that.
 * @throws {Error} with a sentence; what was there before stays then
 */
async function tellPlace(lectureId: string, given: Place): Promise<void> {
  const place = withOwnSets(lectureId, given)
  await authorFetch(`/api/places/${place.id}`, json('PUT', place))
  await changeLecture(lectureId, async () => {
    const published = (await db.releases.get(lectureId))?.asked ?? {}
    const asked = place.sets.flatMap((id) => published[id] ?? [])
    await db.places.put({ id: place.id, lectureId, place, asked, removed: false })
  })
}

/** Changes where and when, or adds a place, without making or sending anything else. */
export async function savePlace({ lecture, release }: LectureParts, place: Place): Promise<void> {
  if (!release) throw new Error('Publish the lecture first.')
  await tellPlace(lecture.id, place)
}

/** Takes a lecture off a course page; what students sent back there is fetched before, and stays. */
export async function removePlace(row: PlaceRow): Promise<void> {
  await pullResults(row)
  await authorFetch(`/api/places/${row.id}`, { method: 'DELETE' })
  await changeLecture(row.lectureId, () => db.places.update(row.id, { removed: true }))
}
