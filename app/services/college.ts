/** Whose courses they are: the college's name, logo and accent colour, which every page shows. */
import { min } from 'd3-array'
import { contrast, ENOUGH, luminanceOf } from '#core/picture/contrast'
import { College } from '#core/schema/term'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { db } from '~/db/database'
import { storing } from '~/db/files'

const KEY = 'college'
/** Largest file that is taken for a logo, bytes; and its size as it is kept, px. */
const MOST = 4 << 20
const [WIDTH, HEIGHT] = [480, 96]
/** What stands behind the accent colour where it is that of text. */
const [WHITE, SNOW] = ['#ffffff', '#f6f7f3']

const nobody: College = { name: '', accent: null, logo: null }

/** As it was set; what cannot be read counts as not set. */
export async function collegeOf(): Promise<College> {
  const row = await db.settings.get(KEY)
  if (!row) return nobody
  try {
    return parseAs(College, JSON.parse(row.value), 'college')
  } catch (error) {
    if (error instanceof InvalidDocument || error instanceof SyntaxError) return nobody
    throw error
  }
}

/** @throws {InvalidDocument} */
export const saveCollege = async (college: College): Promise<void> => {
  const value = JSON.stringify(parseAs(College, college, 'college'))
  await storing(() => db.settings.put({ key: KEY, value }))
}

/** Why a colour cannot be the accent, as a sentence; empty when it can. @param colour `#rrggbb` */
export function accentProblem(colour: string): string {
  const ratio = min([WHITE, SNOW], (ground) => contrast(luminanceOf(colour), luminanceOf(ground))) ?? Infinity
  return ratio >= ENOUGH.text
    ? ''
    : `This colour is too light: white on it has a contrast of ${(Math.floor(ratio * 10) / 10).toFixed(1)} to 1, and ${ENOUGH.text} are needed to read it. Choose a darker one.`
}

/**
 * Makes a picture small enough for the head of a page; one of lines is drawn, so that nothing in it runs.
 * @returns a PNG as a data URL
 * @throws {Error} with a sentence
 */
export async function readLogo(file: File): Promise<string> {
  if (file.size > MOST) throw new Error('This picture is larger than 4 MB. Choose a smaller one.')
  const url = URL.createObjectURL(file)
  try {
    const image = new Image()
    image.src = url
    await image.decode().catch((cause: unknown) => {
      throw new Error(`“${file.name}” is not a picture that this browser can read. Choose a PNG, JPEG or SVG.`, {
        cause,
      })
    })
    // A drawing may have no size of its own.
    const [width, height] = [image.naturalWidth || HEIGHT, image.naturalHeight || HEIGHT]
    const scale = Math.min(WIDTH / width, HEIGHT / height)
    const canvas = document.createElement('canvas')
    canvas.width = Math.max(1, Math.round(width * scale))
    canvas.height = Math.max(1, Math.round(height * scale))
    canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
    try {
      return canvas.toDataURL('image/png')
    } catch (cause) {
      // A drawing with a page in it may not be copied (HTML, canvas, “origin-clean”).
      throw new Error(`“${file.name}” has parts that a browser does not copy. Save it as a PNG and choose that.`, {
        cause,
      })
    }
  } finally {
    URL.revokeObjectURL(url)
  }
}

/** Has the pages in the college's colour. */
export function wear(accent: string | null): void {
  const { style } = document.documentElement
  const mixed: Record<string, string> = {
    '--tarn': 'var(--accent)',
    '--tarn-deep': 'color-mix(in srgb, var(--accent) 76%, black)',
    '--tarn-wash': 'color-mix(in srgb, var(--accent) 10%, white)',
    '--el-color-primary-light-3': 'color-mix(in srgb, var(--accent) 77%, white)',
    '--el-color-primary-light-5': 'color-mix(in srgb, var(--accent) 50%, white)',
    '--el-color-primary-light-7': 'color-mix(in srgb, var(--accent) 30%, white)',
    '--el-color-primary-light-8': 'color-mix(in srgb, var(--accent) 20%, white)',
  }
  for (const [name, value] of Object.entries({ '--accent': accent, ...mixed }))
    if (accent && value) style.setProperty(name, value)
    else style.removeProperty(name)
}
