/**
 * Publications as stored. A version is written beside the others, part by part, and counts only once the publication's
 * document names it; it never changes. So it is with captions, all tracks together, and with the sets of questions, each of which is a version of its own: they
 * are in the time of one version of the publication. Whatever changes a publication takes its turn and reads again
 * how it stands.
 *
 *     publications/<id>         which version counts, and those before it; which sets were asked in each
 *     versions/<version>        a manifest
 *     captions/<version>        caption tracks
 *     sets/<version>            questions and keys; kept, as answers are graded by them
 *     uploads/<version>         what is being sent, until it is committed or given up
 *     media/<version>/<file>/<part>
 *     pictures/<id>/<hash>      of questions (`pictures.ts`)
 */
import { createHash, randomUUID } from 'node:crypto'
import { Type, type Static } from '@sinclair/typebox'
import equal from 'fast-deep-equal'
import { checkCaptions, checkPublication, checkSets, partSize, trackKey } from '#core/packages/publication'
import { onlySetId, upgradeSetUpload } from '#core/packages/upgrade'
import type { VersionSpan } from '#core/questions/attempt'
import type { KeyedSet } from '#core/questions/standing'
import { errorMessage } from '#core/text/error-message'
import { closed, Id, Instant } from '#core/schema/parts'
import type {
  CaptionsStart,
  GradedSet,
  Place,
  PublicationManifest,
  PublishedFile,
  PublishedTrack,
  PublishedVersions,
  SetsStart,
  SetUpload,
  UploadStart,
} from '#core/schema/publication'
import {
  PART_SIZE,
  PublicationKeys,
  PublicationManifest as ManifestSchema,
  PublishedSet,
  PublishedTracks,
} from '#core/schema/publication'
import { checked, refuse } from './border'
import { requirePictures } from './pictures'
import type { Documents } from '../store/store'
import { useStore } from './storage'

/** An upload nobody has gone on with for this long is given up, ms. */
const STALE = 60 * 60 * 1000
/** Media of a version that was replaced stay for those who watch it, ms. */
const KEPT = 24 * 60 * 60 * 1000
/** Uploads open at one time, of one publication and in all, and the bytes they may come to. */
const MOST_OF_ONE = 2
const MOST_UPLOADS = 64
const MOST_BYTES = 64 * 2 ** 30
/** Bytes handed on at a time: what a client that stopped reading holds of the server's memory. */
const SLICE = 1 << 16

const VersionEntry = Type.Object(
  {
    version: Id,
    committedAt: Instant,
    /** Null for the one that counts. */
    replacedAt: Type.Union([Instant, Type.Null()]),
    /** Whether its media are still there. */
    media: Type.Boolean(),
  },
  closed,
)
/** A version of a set, and the version of the publication that it is asked in. The last one of each set counts. */
const SetEntry = Type.Object({ version: Id, id: Id, of: Id, publishedAt: Instant }, closed)
/** A version of the captions, and the version of the publication that they are in the time of. The last one counts. */
const CaptionsEntry = Type.Object({ version: Id, of: Id, publishedAt: Instant }, closed)
export const Publication = Type.Object(
  {
    current: Id,
    versions: Type.Array(VersionEntry),
    captions: Type.Array(CaptionsEntry),
    sets: Type.Array(SetEntry),
  },
  closed,
)
export const Version = Type.Object({ publicationId: Id, manifest: ManifestSchema }, closed)
export const CaptionsVersion = Type.Object({ publicationId: Id, tracks: PublishedTracks }, closed)
export const SetVersion = Type.Object({ publicationId: Id, set: PublishedSet, keys: PublicationKeys }, closed)
const Upload = Type.Object(
  {
    publicationId: Id,
    startedAt: Instant,
    bytes: Type.Integer({ minimum: 0 }),
    captions: Id,
    /** Versions of its sets, by the sets' ids. */
    sets: Type.Record(Id, Id),
    known: Type.Optional(Type.Record(Id, Id)),
  },
  closed,
)

/** Until sets stood apart, a version had one, by its own id (`upgrade.ts` gives it a document of its own). */
function withSets(data: unknown, id: string): unknown {
  if (typeof data !== 'object' || data === null) return data
  // Before they stood apart, captions were files of their version.
  if (!('captions' in data)) return withSets({ ...data, captions: [] }, id)
  if ('sets' in data) return data
  const { versions } = data as { versions?: { version: string; committedAt: string }[] }
  const sets = versions?.map(({ version, committedAt }) => ({
    version,
    id: onlySetId(id),
    of: version,
    publishedAt: committedAt,
  }))
  return { ...data, sets }
}
function uploadWithSets(data: unknown, id: string): unknown {
  if (typeof data !== 'object' || data === null) return data
  const publicationId = String((data as { publicationId?: unknown }).publicationId)
  return { captions: id, sets: { [onlySetId(publicationId)]: id }, ...data }
}

export const publications = () => useStore().documents('publications', Publication, withSets)
export const versions = () => useStore().documents('versions', Version)
export const captionVersions = () => useStore().documents('captions', CaptionsVersion)
export const setVersions = () => useStore().documents('sets', SetVersion, upgradeSetUpload)
const uploads = () => useStore().documents('uploads', Upload, uploadWithSets)
const exclusively = <T>(id: string, task: () => Promise<T>) => useStore().exclusive(`publication ${id}`, task)
const partPath = (version: string, file: string, index: number) =>
  `media/${version}/${file}/${String(index).padStart(6, '0')}`
const now = () => new Date().toISOString()

/** A version of a set, as it is asked. */
export interface StoredSet extends SetUpload {
  version: string
}

/** A version of a set as it is answered and graded. */
export const keyedSet = ({ version, set, keys }: StoredSet): KeyedSet => ({
  version,
  id: set.id,
  title: set.title,
  policy: set.policy,
  checkpoints: set.checkpoints,
  keys: keys.keys,
})

/** A version of a publication, with the sets that are asked in it. */
export interface StoredPublication {
  version: string
  manifest: PublicationManifest
  /** Null for what was published before captions stood apart. */
  captions: { version: string; tracks: PublishedTrack[] } | null
  sets: StoredSet[]
}

/** Of each set that is asked in a version of the publication, the last version, or the one that is wanted. */
function entriesOf(
  { sets }: Static<typeof Publication>,
  version: string,
  isWanted: (entry: Static<typeof SetEntry>, next: Static<typeof SetEntry> | undefined) => boolean = () => false,
): Static<typeof SetEntry>[] {
  const here = sets.filter((s) => s.of === version)
  const nextOf = (entry: Static<typeof SetEntry>) => here.slice(here.indexOf(entry) + 1).find((s) => s.id === entry.id)
  const chosen = [...here, ...here.filter((s) => isWanted(s, nextOf(s)))]
  return [...new Map(chosen.map((s) => [s.id, s])).values()]
}

const MOST_KNOWN = 50

/** Reads documents that never change: those asked for last are held, however large they are. */
function holding<T>(documents: () => Documents<T>): (id: string) => Promise<T | null> {
  const known = new Map<string, T>()
  return async (id) => {
    const held = known.get(id)
    if (held) return held
    const read = await documents().read(id)
    if (read) {
      known.set(id, read)
      for (const oldest of known.keys()) if (known.size > MOST_KNOWN) known.delete(oldest)
    }
    return read
  }
}
const readManifest = holding(versions)
const readSetVersion = holding(setVersions)
const readCaptionsVersion = holding(captionVersions)

/** Caption tracks of a version; null when there are none. */
export async function readCaptions(version: string): Promise<StoredPublication['captions']> {
  const found = await readCaptionsVersion(version)
  return found && { version, tracks: found.tracks }
}
/**
 * A caption track of a publication as WebVTT, by the version of its captions; null when there is none for whoever began
 * to watch at an instant (ISO 8601 UTC).
 */
export async function readTrackOf(id: string, version: string, key: string, began: string): Promise<string | null> {
  const publication = await publications().read(id)
  const entry = publication?.captions.find((c) => c.version === version)
  const film = publication?.versions.find((v) => v.version === entry?.of)
  if (!publication || !entry || !film || !isFor(film, began)) return null
  const next = nextCaptions(publication, entry)
  if (next && began >= next.publishedAt) return null
  return (await readCaptions(version))?.tracks.find((t) => trackKey(t) === key)?.text ?? null
}
/** Whether a version is shown to whoever began to watch at an instant: the one that counts, or one that counted then. */
const isFor = ({ replacedAt, media }: Static<typeof VersionEntry>, began: string) =>
  replacedAt === null || (media && began < replacedAt)
/** By which captions were replaced. */
const nextCaptions = ({ captions }: Static<typeof Publication>, entry: Static<typeof CaptionsEntry>) =>
  captions.slice(captions.indexOf(entry) + 1).find((c) => c.of === entry.of)
/** The captions of a version of the publication. */
const captionsEntry = ({ captions }: Static<typeof Publication>, of: string) => captions.findLast((c) => c.of === of)

async function readSet(version: string): Promise<StoredSet | null> {
  const found = await readSetVersion(version)
  return found && { version, set: found.set, keys: found.keys }
}

async function readWith(
  publication: Static<typeof Publication>,
  version: string,
  isWanted?: Parameters<typeof entriesOf>[2],
): Promise<StoredPublication | null> {
  const found = await readManifest(version)
  if (!found) return null
  const sets = await Promise.all(entriesOf(publication, version, isWanted).map((entry) => readSet(entry.version)))
  const entry = captionsEntry(publication, version)
  return {
    version,
    manifest: found.manifest,
    captions: entry ? await readCaptions(entry.version) : null,
    sets: sets.filter((set) => set !== null),
  }
}

/** The version that counts, or null. */
export async function readPublication(id: string): Promise<StoredPublication | null> {
  const publication = await publications().read(id)
  return publication && readWith(publication, publication.current)
}

/** A version that counts or counted, whether or not its media are still there; null when there is none. */
export async function readVersionOf(id: string, version: string): Promise<StoredPublication | null> {
  const publication = await publications().read(id)
  return publication?.versions.some((v) => v.version === version) ? readWith(publication, version) : null
}

/**
 * A version for whoever began to watch at an instant (ISO 8601 UTC): null when there is none, or when it was replaced
 * before, or removed.
 * @param sets versions of its sets that were begun with; of the others the last ones are taken
 */
export async function readWatched(
  id: string,
  version: string,
  began: string,
  sets: readonly string[] = [],
): Promise<StoredPublication | null> {
  const publication = await publications().read(id)
  const entry = publication?.versions.find((v) => v.version === version)
  if (!publication || !entry || !isFor(entry, began)) return null
  return readWith(
    publication,
    version,
    (set, next) => sets.includes(set.version) && (!next || began < next.publishedAt),
  )
}

/** A version of a set that is or was asked in a publication; null when there is none. */
export async function readSetOf(id: string, version: string): Promise<StoredSet | null> {
  const publication = await publications().read(id)
  return publication?.sets.some((s) => s.version === version) ? readSet(version) : null
}

const changeable = new Map<string, boolean>()
/** Whether answers to a version of a set may be changed; of a set that cannot be read, not. */
async function isChangeable(version: string): Promise<boolean> {
  const known = changeable.get(version)
  if (known !== undefined) return known
  const changes = (await readSetVersion(version))?.set.policy.changes ?? false
  changeable.set(version, changes)
  return changes
}

/** Every version of a publication's sets, by the sets' ids, in the order in which they were published. */
export async function setSpans(id: string): Promise<Map<string, VersionSpan[]>> {
  const spans = new Map<string, VersionSpan[]>()
  for (const { version, id: set, publishedAt } of (await publications().read(id))?.sets ?? []) {
    const span = { version, since: publishedAt, changes: await isChangeable(version) }
    spans.set(set, [...(spans.get(set) ?? []), span])
  }
  return spans
}

/** Every version of every set that is or was asked in a publication. */
export const setsOf = async (id: string): Promise<{ id: string; version: string }[]> =>
  (await publications().read(id))?.sets ?? []

/** Those of a publication's sets that are asked at a place. */
export const askedAt = ({ sets }: Pick<Place, 'sets'>, publication: StoredPublication): StoredSet[] =>
  publication.sets.filter(({ set }) => sets.includes(set.id))

/** What answers of these versions, and of those that are asked at a place now, are graded by. */
export async function gradedSets(
  place: Pick<Place, 'publicationId' | 'sets'>,
  answered: ReadonlySet<string>,
): Promise<{ sets: GradedSet[]; current: string[] }> {
  const publication = await publications().read(place.publicationId)
  if (!publication) return { sets: [], current: [] }
  const current = entriesOf(publication, publication.current)
    .filter((entry) => place.sets.includes(entry.id))
    .map((entry) => entry.version)
  const spans = await setSpans(place.publicationId)
  const sets: GradedSet[] = []
  for (const { version, publishedAt } of publication.sets) {
    const found = current.includes(version) || answered.has(version) ? await readSet(version) : null
    if (found) {
      const { checkpoints, keys, ...set } = keyedSet(found)
      const versions = spans.get(set.id) ?? []
      sets.push({ ...set, publishedAt, versions, checkpoints: [...checkpoints], keys: [...keys] })
    }
  }
  return { sets, current }
}

/** When something of an upload last came; one that was open before this start counts from the start. */
const touched = new Map<string, number>()
const startedAt = Date.now()

async function isStale(version: string): Promise<boolean> {
  const upload = await uploads().read(version)
  if (!upload) return true
  return Date.now() - Math.max(touched.get(version) ?? startedAt, Date.parse(upload.startedAt)) > STALE
}

/** Opens an upload. @returns the versions that it will be */
export async function startUpload(id: string, start: UploadStart): Promise<PublishedVersions> {
  const { manifest, captions, sets, known } = start
  if (manifest.id !== id) refuse(400, 'The manifest belongs to another publication.')
  checked(() => checkPublication(start))
  await requirePictures(id, sets)
  await refuseUnknown(await publications().read(id), sets, known)
  await giveUpStale()
  await giveUpOthers(id)
  const version = randomUUID()
  const captionsVersion = randomUUID()
  const made = Object.fromEntries(sets.map(({ set }) => [set.id, randomUUID()]))
  // One after the other, so that many at once cannot pass the limit together.
  await useStore().exclusive('uploads', async () => {
    const open = await uploads().ids()
    if (open.length >= MOST_UPLOADS)
      refuse(429, 'Too many lectures are being published at once. Wait until one of them is done, and publish again.')
    let bytes = manifest.files.reduce((sum, f) => sum + f.size, 0)
    for (const other of open) bytes += (await uploads().read(other))?.bytes ?? 0
    if (bytes > MOST_BYTES)
      refuse(413, 'What is being published at once is more than the server takes. Wait until one of them is done.')
    touched.set(version, Date.now())
    await uploads().write(version, {
      publicationId: id,
      startedAt: now(),
      bytes: manifest.files.reduce((sum, f) => sum + f.size, 0),
      captions: captionsVersion,
      sets: made,
      ...(known && { known }),
    })
  })
  await captionVersions().write(captionsVersion, { publicationId: id, tracks: captions })
  for (const { set, keys } of sets) await setVersions().write(made[set.id] ?? '', { publicationId: id, set, keys })
  await versions().write(version, { publicationId: id, manifest })
  return { version, sets: made }
}

/**
 * Refuses sets that would replace what the sender does not know to count: another browser published it. The same again is no
 * replacement.
 */
async function refuseUnknown(
  publication: Static<typeof Publication> | null,
  sets: readonly SetUpload[],
  known: SetsStart['known'],
): Promise<void> {
  if (!publication || !known) return
  const entries = entriesOf(publication, publication.current)
  for (const { set, keys } of sets) {
    const entry = entries.find((e) => e.id === set.id)
    // Of a set that it never published, as one of the demo, it knows nothing.
    if (!entry || !known[set.id] || entry.version === known[set.id]) continue
    const held = await readSet(entry.version)
    if (!held || equal([held.set, held.keys], [set, keys])) continue
    const what = held.set.title ? `The questions “${held.set.title}”` : 'The questions of this lecture'
    refuse(
      412,
      `${what} were published from another browser or tab since this one last published them. To replace them, publish again.`,
    )
  }
}

const REPLACED = 'The lecture was published meanwhile, in another tab or browser. Publish it again.'

/**
 * Publishes captions of the version that counts anew, without its media; what they said before goes. Asking twice changes
 * nothing.
 */
export const publishCaptions = (id: string, { version: of, captions }: CaptionsStart): Promise<void> =>
  exclusively(id, async () => {
    checked(() => checkCaptions(captions))
    const publication = await publications().read(id)
    if (!publication || publication.current !== of) refuse(409, REPLACED)
    const entry = captionsEntry(publication, of)
    if (entry && equal((await readCaptions(entry.version))?.tracks, captions)) return
    const version = randomUUID()
    await captionVersions().write(version, { publicationId: id, tracks: captions })
    await publications().write(id, {
      ...publication,
      captions: [...publication.captions, { version, of, publishedAt: now() }],
    })
  })

/**
 * Publishes sets of the version that counts anew, without its media. One that says what it said before stays as it is,
 * so that asking twice changes nothing.
 * @returns the versions that count then
 */
export const publishSets = (id: string, { version: of, sets, known }: SetsStart): Promise<PublishedVersions> =>
  exclusively(id, async () => {
    const publication = await publications().read(id)
    const found = publication && publication.current === of ? await versions().read(of) : null
    if (!publication || !found)
      refuse(
        409,
        'The lecture was published meanwhile, in another tab or browser. Publish it again, with its questions.',
      )
    await refuseUnknown(publication, sets, known)
    const before = entriesOf(publication, of)
    const others = before.filter((entry) => !sets.some(({ set }) => set.id === entry.id))
    const kept = (await Promise.all(others.map((entry) => readSet(entry.version)))).filter((set) => set !== null)
    checked(() => checkSets(found.manifest, [...sets, ...kept]))
    await requirePictures(id, sets)
    const entries: Static<typeof SetEntry>[] = []
    const counting: PublishedVersions['sets'] = {}
    for (const { set, keys } of sets) {
      const entry = before.find((e) => e.id === set.id)
      const held = entry && (await readSet(entry.version))
      const same = held && equal([held.set, held.keys], [set, keys])
      const version = same ? held.version : randomUUID()
      counting[set.id] = version
      if (same) continue
      await setVersions().write(version, { publicationId: id, set, keys })
      entries.push({ version, id: set.id, of, publishedAt: now() })
    }
    if (entries.length > 0) await publications().write(id, { ...publication, sets: [...publication.sets, ...entries] })
    return { version: of, sets: counting }
  })

const isCommitted = async (id: string, version: string): Promise<boolean> =>
  (await publications().read(id))?.versions.some((v) => v.version === version) ?? false

/** An upload that is still open. Called in turn. */
async function openUpload(
  id: string,
  version: string,
): Promise<Pick<Static<typeof Upload>, 'captions' | 'sets' | 'known'> & { manifest: PublicationManifest }> {
  const upload = await uploads().read(version)
  const found = await versions().read(version)
  if (!upload || !found || upload.publicationId !== id || (await isCommitted(id, version)))
    refuse(404, 'This upload is not open any more. Publish again; what students see has not changed.')
  return { ...upload, manifest: found.manifest }
}

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

/** Takes one part of one file, when its size and hash are what the manifest says. */
export const putPart = (id: string, version: string, name: string, index: number, bytes: Uint8Array): Promise<void> =>
  exclusively(id, async () => {
    const { manifest } = await openUpload(id, version)
    const file = manifest.files.find((f: PublishedFile) => f.name === name)
    const hash = file?.parts[index]
    if (!file || hash === undefined) refuse(404, 'The manifest names no such part.')
    const size = partSize(file.size, index)
    if (bytes.byteLength !== size)
      refuse(400, `Part ${index} of ${name} has ${bytes.byteLength} bytes instead of ${size}.`)
    if (sha256(bytes) !== hash) refuse(400, `Part ${index} of ${name} was damaged on the way. Send it again.`)
    touched.set(version, Date.now())
    await useStore().parts.write(partPath(version, name, index), bytes)
  })

/**
 * Makes an upload the version that counts, when all of it is there; asked again, it says yes again. The one before
 * stays for a day for those who watch it.
 */
export const commitUpload = (id: string, version: string): Promise<void> =>
  exclusively(id, async () => {
    if (await isCommitted(id, version)) return
    const { manifest, captions, sets, known } = await openUpload(id, version)
    touched.set(version, Date.now())
    for (const file of manifest.files)
      for (const [index, hash] of file.parts.entries()) {
        const part = await useStore().parts.read(partPath(version, file.name, index))
        if (!part || sha256(part) !== hash)
          refuse(409, `Part ${index} of ${file.name} is missing. Send it and finish again.`)
      }
    const before = await publications().read(id)
    const sent = await Promise.all(Object.values(sets).map((set) => readSet(set)))
    await refuseUnknown(
      before,
      sent.filter((set) => set !== null),
      known,
    )
    const at = now()
    const replaced = before?.versions.map((v) => ({ ...v, replacedAt: v.replacedAt ?? at })) ?? []
    const asked = Object.entries(sets).map(([id, set]) => ({ version: set, id, of: version, publishedAt: at }))
    await publications().write(id, {
      current: version,
      versions: [...replaced, { version, committedAt: at, replacedAt: null, media: true }],
      captions: [...(before?.captions ?? []), { version: captions, of: version, publishedAt: at }],
      sets: [...(before?.sets ?? []), ...asked],
    })
    await closeUpload(version)
  })

async function closeUpload(version: string): Promise<void> {
  touched.delete(version)
  await uploads().remove(version)
}

/** Removes an upload that was never committed. Called in turn. */
async function discard(version: string): Promise<void> {
  const upload = await uploads().read(version)
  await useStore().parts.removeAll(`media/${version}`)
  await versions().remove(version)
  if (upload) await captionVersions().remove(upload.captions)
  for (const set of Object.values(upload?.sets ?? {})) await setVersions().remove(set)
  await closeUpload(version)
}

/** Gives an upload up; nothing of it stays. Refused for one that counts already. */
export const abortUpload = (id: string, version: string): Promise<void> =>
  exclusively(id, async () => {
    if (await isCommitted(id, version)) refuse(409, 'This is published already: students see it.')
    await openUpload(id, version)
    await discard(version)
  })

/**
 * Makes room for one more upload of a publication: of those that were begun before, the one that has come on last may go
 * on beside it. The others are of tabs that are gone, or are told that they are given up.
 */
const giveUpOthers = (id: string): Promise<void> =>
  exclusively(id, async () => {
    const own: { version: string; at: number }[] = []
    for (const version of await uploads().ids()) {
      const upload = await uploads().read(version)
      if (upload?.publicationId !== id) continue
      if (await isCommitted(id, version)) await closeUpload(version)
      else own.push({ version, at: touched.get(version) ?? Date.parse(upload.startedAt) })
    }
    own.sort((a, b) => b.at - a.at)
    for (const { version } of own.slice(MOST_OF_ONE - 1)) await discard(version)
  })

/** Gives up uploads that nobody has gone on with. */
export async function giveUpStale(): Promise<void> {
  for (const version of await uploads().ids()) {
    const upload = await uploads().read(version)
    if (!upload || !(await isStale(version))) continue
    await exclusively(upload.publicationId, async () => {
      if (await isCommitted(upload.publicationId, version)) await closeUpload(version)
      else if (await isStale(version)) await discard(version)
    })
  }
}

/** Removes media of versions, and captions, that were replaced more than a day ago. */
export async function removeReplaced(): Promise<void> {
  const isOver = (replacedAt: string | null | undefined) =>
    typeof replacedAt === 'string' && Date.now() - Date.parse(replacedAt) > KEPT
  for (const id of await publications().ids())
    try {
      await removeOf(id, isOver)
    } catch (error) {
      // One that cannot be read holds up none of the others.
      console.error(`What was replaced of ${id} could not be removed:`, errorMessage(error))
    }
}

/**
 * Removes all that was replaced of a publication at once, as when something is in it that nobody may see any more.
 * Whoever watches it has to open the lecture anew. @returns how many earlier versions had films or captions still
 */
export async function removeEarlier(id: string): Promise<number> {
  if (!(await publications().read(id))) refuse(404, 'Nothing of this lecture is published here.')
  return removeOf(id, (replacedAt) => typeof replacedAt === 'string')
}

/** Removes films and captions that were replaced when `isOver` says so. @returns of how many versions */
const removeOf = (id: string, isOver: (replacedAt: string | null | undefined) => boolean): Promise<number> =>
  exclusively(id, async () => {
    const publication = await publications().read(id)
    if (!publication) return 0
    const films = publication.versions.filter(
      (v) => v.media && v.version !== publication.current && isOver(v.replacedAt),
    )
    const replacedAt = (entry: Static<typeof CaptionsEntry>) =>
      nextCaptions(publication, entry)?.publishedAt ??
      publication.versions.find((v) => v.version === entry.of)?.replacedAt
    const captions = publication.captions.filter((entry) => isOver(replacedAt(entry)))
    if (films.length === 0 && captions.length === 0) return 0
    for (const { version } of films) await useStore().parts.removeAll(`media/${version}`)
    for (const { version } of captions) await captionVersions().remove(version)
    await publications().write(id, {
      ...publication,
      versions: publication.versions.map((v) => (films.includes(v) ? { ...v, media: false } : v)),
      captions: publication.captions.filter((entry) => !captions.includes(entry)),
    })
    return films.length + captions.length
  })

const Orphan = Type.Object({ since: Instant }, closed)
/** Since when nothing names what is stored under a version. */
export const orphans = () => useStore().documents('orphans', Orphan)
/** For how long it stays all the same, ms: should what named it be put back, it is there. */
const TRASH = 30 * 24 * 60 * 60 * 1000

/**
 * At the start, before anybody is served: marks what is stored and nothing names, as a killed server leaves it, and
 * removes what has been so for 30 days. Nothing is removed while something is missing or unreadable that may have named
 * it.
 */
export async function removeOrphans(): Promise<void> {
  const named = new Set<string>()
  const films = new Set(await versions().ids())
  const askedSets = new Set(await setVersions().ids())
  let isSure = true
  /** Reads one, or says that it cannot be. */
  const read = async <T>(what: string, documents: Documents<T>, id: string): Promise<T | null> => {
    const found = await documents.read(id).catch((error: unknown) => {
      console.error(`${what} ${id} cannot be read:`, errorMessage(error))
      return null
    })
    isSure &&= found !== null
    return found
  }
  for (const version of await uploads().ids()) {
    const upload = await read('The upload', uploads(), version)
    for (const one of [version, upload?.captions ?? '', ...Object.values(upload?.sets ?? {})]) named.add(one)
  }
  for (const id of await publications().ids()) {
    const publication = await read('The publication', publications(), id)
    if (!publication) continue
    for (const { version } of [...publication.versions, ...publication.captions, ...publication.sets])
      named.add(version)
    isSure &&= publication.versions.every((v) => films.has(v.version))
    isSure &&= publication.sets.every((s) => askedSets.has(s.version))
  }
  // What was set aside may have named anything: its versions stay until a person has looked.
  isSure &&= !(await useStore().setAside()).some((s) => /^(publications|versions|sets|uploads)-/.test(s.name))
  const found = new Set<string>(await useStore().parts.names('media'))
  for (const ids of [films, askedSets, await captionVersions().ids()]) for (const id of ids) found.add(id)
  for (const version of await orphans().ids())
    if (named.has(version) || !found.has(version)) await orphans().remove(version)
  for (const version of found) {
    if (named.has(version)) continue
    const mark = await orphans().read(version)
    if (!mark) await orphans().write(version, { since: now() })
    else if (isSure && Date.now() - Date.parse(mark.since) > TRASH) {
      await useStore().parts.removeAll(`media/${version}`)
      for (const documents of [versions(), captionVersions(), setVersions()]) await documents.remove(version)
      await orphans().remove(version)
    }
  }
}

/** Bytes `from`…`to` (inclusive) of a published file, a little at a time; whoever stops asking costs nothing more. */
export async function* readRange(
  version: string,
  file: PublishedFile,
  from: number,
  to: number,
): AsyncGenerator<Uint8Array> {
  for (let at = from; at <= to;) {
    const index = Math.floor(at / PART_SIZE)
    const base = index * PART_SIZE
    const last = Math.min(to, base + partSize(file.size, index) - 1, at + SLICE - 1)
    const bytes = await useStore().parts.read(partPath(version, file.name, index), at - base, last - base)
    if (!bytes || bytes.byteLength !== last - at + 1)
      throw new Error(`part ${index} of ${file.name} (${version}) is gone`)
    yield bytes
    at = last + 1
  }
}
