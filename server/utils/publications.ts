/**
 * Publications as stored. A version is written beside the others, part by part, and counts only once the publication's
 * document names it; it never changes. Whatever changes a publication takes its turn and reads again how it stands.
 *
 *     publications/<id>         which version counts, and those before it
 *     versions/<version>        manifest, questions and keys; kept, as answers are graded by them
 *     uploads/<version>         what is being sent, until it is committed or given up
 *     media/<version>/<file>/<part>
 */
import { createHash, randomUUID } from 'node:crypto'
import { Type, type Static } from '@sinclair/typebox'
import { checkPublication, partSize } from '#core/packages/publication'
import { upgradeVersion } from '#core/packages/upgrade'
import { closed, Id, Instant } from '#core/schema/parts'
import type { GradedSet, PublicationManifest, PublishedFile, UploadStart } from '#core/schema/publication'
import {
  PART_SIZE,
  PublicationKeys,
  PublicationManifest as ManifestSchema,
  PublishedSet,
} from '#core/schema/publication'
import { checked, refuse } from './border'
import { useStore } from './storage'

/** An upload nobody has gone on with for this long is given up, ms. */
const STALE = 60 * 60 * 1000
/** Media of a version that was replaced stay for those who watch it, ms. */
const KEPT = 24 * 60 * 60 * 1000
/** Uploads open at one time, and the bytes they may come to. */
const MOST_UPLOADS = 16
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
export const Publication = Type.Object({ current: Id, versions: Type.Array(VersionEntry) }, closed)
export const Version = Type.Object(
  { publicationId: Id, manifest: ManifestSchema, set: PublishedSet, keys: PublicationKeys },
  closed,
)
const Upload = Type.Object({ publicationId: Id, startedAt: Instant, bytes: Type.Integer({ minimum: 0 }) }, closed)

export const publications = () => useStore().documents('publications', Publication)
export const versions = () => useStore().documents('versions', Version, upgradeVersion)
const uploads = () => useStore().documents('uploads', Upload)
const exclusively = <T>(id: string, task: () => Promise<T>) => useStore().exclusive(`publication ${id}`, task)
const partPath = (version: string, file: string, index: number) =>
  `media/${version}/${file}/${String(index).padStart(6, '0')}`
const now = () => new Date().toISOString()

export interface StoredPublication extends Omit<Static<typeof Version>, 'publicationId'> {
  version: string
}

/** Versions never change, so that those asked for last can be held. */
const known = new Map<string, Static<typeof Version>>()
const MOST_KNOWN = 50

async function readVersion(version: string): Promise<Static<typeof Version> | null> {
  const held = known.get(version)
  if (held) return held
  const read = await versions().read(version)
  if (read) {
    known.set(version, read)
    for (const oldest of known.keys()) if (known.size > MOST_KNOWN) known.delete(oldest)
  }
  return read
}

/** The version that counts, or null. */
export async function readPublication(id: string): Promise<StoredPublication | null> {
  const publication = await publications().read(id)
  const found = publication && (await readVersion(publication.current))
  return found && { ...found, version: publication.current }
}

/** A version that counts or counted, whether or not its media are still there; null when there is none. */
export async function readVersionOf(id: string, version: string): Promise<StoredPublication | null> {
  const publication = await publications().read(id)
  if (!publication?.versions.some((v) => v.version === version)) return null
  const found = await readVersion(version)
  return found && { ...found, version }
}

/** What answers of these versions, and of the one that counts, are graded by. */
export async function gradedSets(
  id: string,
  answered: ReadonlySet<string>,
): Promise<{ sets: GradedSet[]; current: string | null }> {
  const publication = await publications().read(id)
  const sets: GradedSet[] = []
  for (const { version } of publication?.versions ?? []) {
    if (version !== publication?.current && !answered.has(version)) continue
    const found = await readVersion(version)
    if (found)
      sets.push({
        version,
        madeAt: found.manifest.madeAt,
        checkpoints: found.set.checkpoints,
        keys: found.keys.keys,
      })
  }
  return { sets, current: publication?.current ?? null }
}

/** When something of an upload last came; one that was open before this start counts from the start. */
const touched = new Map<string, number>()
const startedAt = Date.now()

async function isStale(version: string): Promise<boolean> {
  const upload = await uploads().read(version)
  if (!upload) return true
  return Date.now() - Math.max(touched.get(version) ?? startedAt, Date.parse(upload.startedAt)) > STALE
}

/** Opens an upload. @returns its id, which is the version's */
export async function startUpload(id: string, { manifest, set, keys }: UploadStart): Promise<string> {
  if (manifest.id !== id) refuse(400, 'The manifest belongs to another publication.')
  checked(() => checkPublication(manifest, set, keys))
  await giveUpStale()
  const version = randomUUID()
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
    })
  })
  await versions().write(version, { publicationId: id, manifest, set, keys })
  return version
}

const isCommitted = async (id: string, version: string): Promise<boolean> =>
  (await publications().read(id))?.versions.some((v) => v.version === version) ?? false

/** The manifest of an upload that is still open. Called in turn. */
async function openUpload(id: string, version: string): Promise<PublicationManifest> {
  const upload = await uploads().read(version)
  const found = await versions().read(version)
  if (!upload || !found || upload.publicationId !== id || (await isCommitted(id, version)))
    refuse(404, 'This upload is not open any more. Publish again; what students see has not changed.')
  return found.manifest
}

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

/** Takes one part of one file, when its size and hash are what the manifest says. */
export const putPart = (id: string, version: string, name: string, index: number, bytes: Uint8Array): Promise<void> =>
  exclusively(id, async () => {
    const manifest = await openUpload(id, version)
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
    const manifest = await openUpload(id, version)
    touched.set(version, Date.now())
    for (const file of manifest.files)
      for (const [index, hash] of file.parts.entries()) {
        const part = await useStore().parts.read(partPath(version, file.name, index))
        if (!part || sha256(part) !== hash)
          refuse(409, `Part ${index} of ${file.name} is missing. Send it and finish again.`)
      }
    const before = (await publications().read(id))?.versions ?? []
    const at = now()
    const replaced = before.map((v) => ({ ...v, replacedAt: v.replacedAt ?? at }))
    await publications().write(id, {
      current: version,
      versions: [...replaced, { version, committedAt: at, replacedAt: null, media: true }],
    })
    await closeUpload(version)
  })

async function closeUpload(version: string): Promise<void> {
  touched.delete(version)
  await uploads().remove(version)
}

/** Removes an upload that was never committed. Called in turn. */
async function discard(version: string): Promise<void> {
  await useStore().parts.removeAll(`media/${version}`)
  await versions().remove(version)
  await closeUpload(version)
}

/** Gives an upload up; nothing of it stays. Refused for one that counts already. */
export const abortUpload = (id: string, version: string): Promise<void> =>
  exclusively(id, async () => {
    if (await isCommitted(id, version)) refuse(409, 'This is published already: students see it.')
    await openUpload(id, version)
    await discard(version)
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

/** Removes media of versions that were replaced more than a day ago. */
export async function removeReplaced(): Promise<void> {
  for (const id of await publications().ids())
    await exclusively(id, async () => {
      const publication = await publications().read(id)
      const isOver = (v: Static<typeof VersionEntry>) =>
        v.media &&
        v.version !== publication?.current &&
        v.replacedAt !== null &&
        Date.now() - Date.parse(v.replacedAt) > KEPT
      const over = publication?.versions.filter(isOver) ?? []
      if (!publication || over.length === 0) return
      for (const { version } of over) await useStore().parts.removeAll(`media/${version}`)
      await publications().write(id, {
        ...publication,
        versions: publication.versions.map((v) => (isOver(v) ? { ...v, media: false } : v)),
      })
    })
}

/** At the start, before anybody is served: removes what a killed server left of uploads that nothing names. */
export async function removeOrphans(): Promise<void> {
  const named = new Set(await uploads().ids())
  for (const id of await publications().ids())
    for (const { version } of (await publications().read(id))?.versions ?? []) named.add(version)
  // A publication that could not be read may have named anything: its versions stay until a person has looked.
  const unsure = (await useStore().setAside()).filter((s) => s.name.startsWith('publications-'))
  for (const version of await versions().ids()) {
    if (named.has(version)) continue
    const publicationId = (await versions().read(version))?.publicationId ?? ''
    if (unsure.some((s) => s.name.startsWith(`publications-${publicationId}.json`))) named.add(version)
    else await versions().remove(version)
  }
  for (const version of await useStore().parts.names('media'))
    if (!named.has(version)) await useStore().parts.removeAll(`media/${version}`)
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
