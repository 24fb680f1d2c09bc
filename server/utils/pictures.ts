/**
 * Pictures in the texts of a publication's questions, each under the hash of its bytes. Those of an explanation are found
 * by nobody who was not told the explanation: nothing else says the hash.
 */
import { createHash } from 'node:crypto'
import { MOST_PICTURE, picturesPublished, pictureType } from '#core/questions/pictures'
import type { SetUpload } from '#core/schema/publication'
import { refuse } from './border'
import { useStore } from './storage'

const pathOf = (publicationId: string, hash: string) => `pictures/${publicationId}/${hash}`
const isHash = (hash: string) => /^[0-9a-f]{64}$/.test(hash)

/** Keeps a picture; one that is there already stays. */
export async function putPicture(publicationId: string, hash: string, bytes: Uint8Array): Promise<void> {
  if (!isHash(hash)) refuse(400, 'A picture is named by its SHA-256.')
  if (createHash('sha256').update(bytes).digest('hex') !== hash)
    refuse(400, 'The picture was damaged on the way. Send it again.')
  if (pictureType(bytes) === null) refuse(400, 'A picture in a text is a PNG, JPEG or WebP file.')
  if (bytes.byteLength > MOST_PICTURE) refuse(413, 'A picture in a text has 2 MiB at most.')
  if (await hasPicture(publicationId, hash)) return
  await useStore().parts.write(pathOf(publicationId, hash), bytes)
}

export const hasPicture = async (publicationId: string, hash: string): Promise<boolean> =>
  isHash(hash) && (await useStore().parts.size(pathOf(publicationId, hash))) !== null

export async function readPicture(
  publicationId: string,
  hash: string,
): Promise<{ bytes: Uint8Array; type: string } | null> {
  const bytes = isHash(hash) ? await useStore().parts.read(pathOf(publicationId, hash)) : null
  const type = bytes && pictureType(bytes)
  return bytes && type ? { bytes, type } : null
}

/** Refuses sets that show what is not there. */
export async function requirePictures(publicationId: string, sets: readonly SetUpload[]): Promise<void> {
  for (const hash of new Set(sets.flatMap(picturesPublished)))
    if (!(await hasPicture(publicationId, hash)))
      refuse(409, 'A picture of a question is missing. Send it, and publish again.')
}
