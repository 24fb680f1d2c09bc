/** What is behind a speaker, replaced in a made film of which is known where the speaker is. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, writeFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Background } from '#core/schema/edit'
import { openEngine } from '../../scripts/engine.mjs'
import { ffmpeg, inFolder, removeFilms } from './films'
import { complaints, edit, frameTimes } from './judge'

const SIZE = { width: 320, height: 240 }
const FRAMES = 40
let engine: Awaited<ReturnType<typeof openEngine>>

/** Draws, in the engine's page, a person who sways before a wall with stripes; and where the person is, white on black. */
async function drawFilm(): Promise<void> {
  for (const what of ['film', 'truth']) mkdirSync(inFolder(what))
  for (let i = 0; i < FRAMES; i++)
    for (const what of ['film', 'truth'] as const) {
      const png = await engine.page.evaluate(
        async (t: number, isTruth: boolean, { width, height }: typeof SIZE) => {
          const g = new OffscreenCanvas(width, height).getContext('2d')!
          const fill = (colour: string) => {
            g.fillStyle = isTruth ? '#fff' : colour
          }
          g.fillStyle = isTruth ? '#000' : '#d8cfc0'
          g.fillRect(0, 0, width, height)
          if (!isTruth)
            for (let x = 0; x < width; x += 40) {
              g.fillStyle = '#b9ad98'
              g.fillRect(x, 0, 14, height)
              g.fillStyle = '#6f4b3a'
              g.fillRect(x, 190, 40, 8)
            }
          g.scale(width / 640, height / 480)
          g.translate(340 + 60 * Math.sin(t * 2), 480)
          const shape = (points: [number, number][], stroke = 0) => {
            g.beginPath()
            points.forEach(([x, y]) => g.lineTo(x, y))
            g.lineWidth = stroke
            g.strokeStyle = g.fillStyle
            if (stroke) g.stroke()
            else g.fill()
          }
          const round = (y: number, radius: number, from: number) => {
            g.beginPath()
            g.arc(0, y, radius, from, 2 * Math.PI)
            g.fill()
          }
          fill('#41606B')
          shape([
            [-62, 0],
            [-50, -218],
            [50, -218],
            [62, 0],
          ])
          shape(
            [
              [-48, -200],
              [-104, -150],
              [-132, -200],
            ],
            26,
          )
          shape(
            [
              [48, -200],
              [82, -120],
              [60, -70],
            ],
            26,
          )
          fill('#C99B78')
          round(-274, 52, 0)
          fill('#4A3728')
          round(-290, 54, Math.PI)
          if (!isTruth) {
            g.fillStyle = '#22323A'
            for (const eye of [-24, 12]) g.fillRect(eye, -276, 10, 6)
            g.fillRect(-14, -250, 28, 8)
          }
          const bytes = new Uint8Array(await (await g.canvas.convertToBlob()).arrayBuffer())
          return btoa(String.fromCharCode(...bytes))
        },
        i / 25,
        what === 'truth',
        SIZE,
      )
      writeFileSync(inFolder(`${what}/${String(i).padStart(3, '0')}.png`), Buffer.from(png, 'base64'))
    }
  ffmpeg(
    ...['-framerate', '25', '-i', inFolder('film/%03d.png'), '-c:v', 'libx264', '-crf', '16', '-pix_fmt', 'yuv420p'],
    ...['-g', '25', inFolder('speaker.mp4')],
  )
}
const pixels = (...input: string[]): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', ...input, '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-'], { maxBuffer: 1 << 28 })

async function replaced(name: string, how: Background['how'], assets: Record<string, string> = {}): Promise<string> {
  const out = inFolder(name)
  const made = { ...edit(), background: { on: 'screen', how } }
  await engine.render({ file: inFolder('speaker.mp4'), edit: made, assets, format: 'mp4' }, out, () => undefined)
  expect(complaints(out)).toBe('')
  return out
}

beforeAll(async () => {
  engine = await openEngine({ quiet: true })
  await drawFilm()
})
afterAll(async () => {
  await engine.close()
  removeFilms()
})

test('a colour stands behind the speaker, who is all there, in every frame', async () => {
  const out = await replaced('green.mp4', { kind: 'colour', colour: '#00c000' })
  const [seen, truth] = [pixels('-i', out), pixels('-i', inFolder('truth/%03d.png'))]
  expect(seen.length).toBe(truth.length)
  let [both, either, behind, shown] = [0, 0, 0, 0]
  for (let i = 0; i < seen.length; i += 3) {
    const isPerson = truth[i]! > 128
    const isGreen = seen[i + 1]! > 150 && seen[i]! < 70 && seen[i + 2]! < 70
    if (isPerson && !isGreen) both++
    if (isPerson || !isGreen) either++
    if (!isPerson) behind++
    if (!isPerson && isGreen) shown++
  }
  console.log(
    `intersection over union ${(both / either).toFixed(3)}; ${((100 * shown) / behind).toFixed(1)} % replaced`,
  )
  expect(both / either).toBeGreaterThan(0.9)
  expect(shown / behind).toBeGreaterThan(0.97)
  // Frames keep their times.
  const [before, after] = [frameTimes(inFolder('speaker.mp4')), frameTimes(out)]
  expect(after.length).toBe(before.length)
  after.forEach((t, i) => expect(t).toBeCloseTo(before[i]!, 3))
})

test('it is blurred past reading, and the speaker is sharp', async () => {
  const out = await replaced('blurred.mp4', { kind: 'blur' })
  /** Mean step between neighbours in a stretch of a row, of the middle frame. */
  const steps = (film: Buffer, from: number, to: number, y: number) => {
    const frame = film.subarray((FRAMES / 2) * SIZE.width * SIZE.height * 3)
    let sum = 0
    for (let x = from; x < to; x++)
      sum += Math.abs(frame[3 * (y * SIZE.width + x)]! - frame[3 * (y * SIZE.width + x - 1)]!)
    return sum / (to - from)
  }
  const [raw, seen] = [pixels('-i', inFolder('speaker.mp4')), pixels('-i', out)]
  // The stripes at the left of the wall, over the head; and the row of the eyes.
  expect(steps(seen, 4, 90, 30)).toBeLessThan(0.4 * steps(raw, 4, 90, 30))
  expect(steps(seen, 150, 230, 90)).toBeGreaterThan(0.6 * steps(raw, 150, 230, 90))
})

test('a picture stands there, as large as it has to be; one that is missing is said', async () => {
  ffmpeg('-f', 'lavfi', '-i', 'color=c=0x2040c0:size=640x200', '-frames:v', '1', inFolder('wall.png'))
  const out = await replaced('wall.mp4', { kind: 'picture', file: 'wall.png' }, { 'wall.png': inFolder('wall.png') })
  const [red, green, blue] = pixels('-i', out).subarray(0, 3)
  expect([red! < 70, green! < 100, blue! > 150]).toEqual([true, true, true])
  await expect(replaced('none.mp4', { kind: 'picture', file: 'wall.png' })).rejects.toThrow('is not there')
})
