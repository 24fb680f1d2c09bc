/** Pictures in texts of questions: made small enough for every student's phone as they are brought in. */
import type { PictureLine } from '#core/schema/rich-text'
import type { useJobs } from '~/stores/jobs'
import { readFile } from '~/db/files'
import { addAsset } from './assets'

/** px; more is not seen on the widest sheet. */
const WIDEST = 1280
/** Bytes that a picture may have as it is. */
const SMALL = 300_000
const KEPT_TYPES = ['image/png', 'image/jpeg', 'image/webp']

/** @throws {Error} with a sentence */
async function shrunk(file: File): Promise<{ file: File; width: number; height: number }> {
  const image = await createImageBitmap(file).catch(() => null)
  if (!image) throw new Error(`“${file.name}” cannot be read. PNG, JPEG, WebP, AVIF and GIF can be.`)
  const scale = Math.min(1, WIDEST / Math.max(image.width, image.height))
  const [width, height] = [Math.max(1, Math.round(image.width * scale)), Math.max(1, Math.round(image.height * scale))]
  if (scale === 1 && file.size <= SMALL && KEPT_TYPES.includes(file.type)) {
    image.close()
    return { file, width, height }
  }
  const canvas = new OffscreenCanvas(width, height)
  const context = canvas.getContext('2d')
  if (!context) throw new Error('This browser cannot draw the picture.')
  context.imageSmoothingQuality = 'high'
  context.drawImage(image, 0, 0, width, height)
  image.close()
  const blob = await canvas.convertToBlob({ type: 'image/webp', quality: 0.85 })
  return { file: new File([blob], file.name.replace(/\.\w+$/, '.webp'), { type: blob.type }), width, height }
}

/** Brings a picture into a lecture, for one of its texts. @throws {Error} with a sentence */
export async function addTextPicture(
  file: File,
  lectureId: string,
  jobs: ReturnType<typeof useJobs>,
): Promise<PictureLine> {
  const { file: small, width, height } = await shrunk(file)
  const { hash } = await addAsset(small, lectureId, jobs)
  return { kind: 'picture', file: hash, description: '', width, height }
}

const urls = shallowReactive(new Map<string, string>())
const loading = new Set<string>()

/** The address of a picture of this browser, while the page is open; empty until it is read. */
export function pictureUrl(hash: string): string {
  const known = urls.get(hash)
  if (known === undefined && !loading.has(hash)) {
    loading.add(hash)
    void readFile(hash).then((blob) => {
      if (blob) urls.set(hash, URL.createObjectURL(blob))
      else loading.delete(hash)
    })
  }
  return known ?? ''
}
