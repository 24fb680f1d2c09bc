/**
 * Publications as stored. A version is written beside the old one, part by part, and counts only once a marker
 * names it; until then, and after a torn upload, the old one stands.
 *
 *     pub:<id>:v:<version>:manifest.json, keys.json, media.mp4:<part>, captions.vtt:<part>
 *     pub:<id>:live:<number>     → the version that counts is the one the highest readable marker names
 *     uploads:<version>          → what is being sent, until it is committed or given up
 */
import { createHash, randomUUID } from 'node:crypto'
import { checkPublication, partSize } from '#core/packages/publication'
import type { PublicationKeys, PublicationManifest, PublishedFile, UploadStart } from '#core/schema/publication'
import { PART_SIZE, PublicationKeys as KeysSchema, PublicationManifest as ManifestSchema } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { checked, refuse } from './border'
import { inTurn, keysBelow, store } from './storage'

interface Upload {
  publicationId: string
  version: string
  startedAt: string
}

/** An upload nobody has gone on with for this long is given up, ms. */
const STALE = 60 * 60 * 1000

const versionKey = (id: string, version: string) => `pub:${id}:v:${version}`
const partKey = (id: string, version: string, file: string, index: number) => `${versionKey(id, version)}:${file}:${String(index).padStart(6, '0')}`

async function removeBelow(base: string): Promise<void> {
  for (const key of await store().getKeys(base)) await store().removeItem(key)
}

async function liveMarkers(id: string): Promise<{ key: string; number: number; version: string }[]> {
  const markers = []
  for (const key of await store().getKeys(`pub:${id}:live`)) {
    const marker = await store().getItem<{ version?: unknown }>(key)
    const number = Number(key.split(':').at(-1))
    if (marker && typeof marker === 'object' && typeof marker.version === 'string') markers.push({ key, number, version: marker.version })
  }
  return markers.sort((a, b) => b.number - a.number)
}

export interface StoredPublication {
  version: string
  manifest: PublicationManifest
  keys: PublicationKeys
}

const cache = new Map<string, StoredPublication>()

/** The publication that counts, or null. */
export async function readPublication(id: string): Promise<StoredPublication | null> {
  const known = cache.get(id)
  if (known) return known
  for (const { version } of await liveMarkers(id)) {
    const manifest = await store().getItem(`${versionKey(id, version)}:manifest.json`)
    const keys = await store().getItem(`${versionKey(id, version)}:keys.json`)
    if (!manifest || !keys) continue
    const found = { version, manifest: parseAs(ManifestSchema, manifest, 'stored manifest'), keys: parseAs(KeysSchema, keys, 'stored keys') }
    cache.set(id, found)
    return found
  }
  return null
}

/** Opens an upload. @returns its id */
export async function startUpload(id: string, { manifest, keys }: UploadStart): Promise<string> {
  if (manifest.id !== id) refuse(400, 'The manifest belongs to another publication.')
  checked(() => checkPublication(manifest, keys))
  await sweepUploads(STALE)
  const version = randomUUID()
  const upload: Upload = { publicationId: id, version, startedAt: new Date().toISOString() }
  await store().setItem(`uploads:${version}`, upload)
  await store().setItem(`${versionKey(id, version)}:manifest.json`, manifest)
  await store().setItem(`${versionKey(id, version)}:keys.json`, keys)
  return version
}

async function openUpload(id: string, version: string): Promise<PublicationManifest> {
  const upload = await store().getItem<Upload>(`uploads:${version}`)
  if (!upload || upload.publicationId !== id) refuse(404, 'This upload is not open any more. Publish again; what students see has not changed.')
  return parseAs(ManifestSchema, await store().getItem(`${versionKey(id, version)}:manifest.json`), 'stored manifest')
}

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

/** Takes one part of one file, when its size and hash are what the manifest says. */
export async function putPart(id: string, version: string, name: string, index: number, bytes: Uint8Array): Promise<void> {
  const manifest = await openUpload(id, version)
  const file = manifest.files.find((f: PublishedFile) => f.name === name)
  const hash = file?.parts[index]
  if (!file || hash === undefined) refuse(404, 'The manifest names no such part.')
  if (bytes.byteLength !== partSize(file.size, index)) refuse(400, `Part ${index} of ${name} has ${bytes.byteLength} bytes instead of ${partSize(file.size, index)}.`)
  if (sha256(bytes) !== hash) refuse(400, `Part ${index} of ${name} was damaged on the way. Send it again.`)
  await store().setItemRaw(partKey(id, version, name, index), Buffer.from(bytes))
}

/** Makes an upload the publication that counts, when all of it is there; the one before is then removed. */
export async function commitUpload(id: string, version: string): Promise<void> {
  const manifest = await openUpload(id, version)
  for (const file of manifest.files)
    for (const [index, hash] of file.parts.entries()) {
      const part = await store().getItemRaw<Uint8Array>(partKey(id, version, file.name, index))
      if (!part || sha256(part) !== hash) refuse(409, `Part ${index} of ${file.name} is missing. Send it and finish again.`)
    }
  await inTurn(`pub:${id}`, async () => {
    const before = await liveMarkers(id)
    const number = (before[0]?.number ?? 0) + 1
    await store().setItem(`pub:${id}:live:${String(number).padStart(8, '0')}`, { version })
    cache.delete(id)
    await store().removeItem(`uploads:${version}`)
    for (const old of before) {
      await store().removeItem(old.key)
      await removeBelow(versionKey(id, old.version))
    }
  })
}

/** Gives an upload up; nothing of it stays. */
export async function abortUpload(id: string, version: string): Promise<void> {
  await openUpload(id, version)
  await removeBelow(versionKey(id, version))
  await store().removeItem(`uploads:${version}`)
}

/** Gives up uploads older than `age` ms; at the server's start, all of them: whoever sent them has gone. */
export async function sweepUploads(age = 0): Promise<void> {
  for (const version of await keysBelow('uploads')) {
    const upload = await store().getItem<Upload>(`uploads:${version}`)
    if (upload && Date.now() - Date.parse(upload.startedAt) < age) continue
    if (upload) await removeBelow(versionKey(upload.publicationId, version))
    await store().removeItem(`uploads:${version}`)
  }
}

/** Bytes `from`…`to` (inclusive) of a published file, part by part. */
export function readRange(id: string, { version }: StoredPublication, file: PublishedFile, from: number, to: number): ReadableStream<Uint8Array> {
  let index = Math.floor(from / PART_SIZE)
  const last = Math.floor(to / PART_SIZE)
  return new ReadableStream<Uint8Array>({
    async pull(controller) {
      if (index > last) {
        controller.close()
        return
      }
      const part = await store().getItemRaw<Uint8Array>(partKey(id, version, file.name, index))
      if (!part) {
        controller.error(new Error(`part ${index} of ${file.name} is gone`))
        return
      }
      const base = index * PART_SIZE
      controller.enqueue(new Uint8Array(part).subarray(Math.max(0, from - base), Math.min(part.byteLength, to - base + 1)))
      index++
    },
  })
}
