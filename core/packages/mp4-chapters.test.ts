import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { withChapters } from './mp4-chapters'
import { frontBoxes, moveChunks } from './mp4-index'

const folder = mkdtempSync(join(tmpdir(), 'thaw-chapters-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
let film = Buffer.alloc(0)
beforeAll(() => {
  const path = join(folder, 'film.mp4')
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=6', '-f', 'lavfi', '-i', 'sine=d=6'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-c:a', 'aac', '-movflags', '+faststart', path],
  ])
  film = readFileSync(path)
})

/** The film with chapters, its media moved back by as much as these take. */
async function chaptered(named: { at: number; title: string }[], length = 6): Promise<string> {
  const chapters = named.map(({ at, title }) => ({ at, title: Buffer.from(title) }))
  const front = (await frontBoxes((at, size) => Promise.resolve(film.subarray(at, at + size))))!
  const moov = new Uint8Array(film.subarray(front.moov.at, front.moov.at + front.moov.size))
  const by = withChapters(moov, chapters, length, front.moov.at).length - (front.media - front.moov.at)
  moveChunks(moov, -by)
  const path = join(folder, `${chapters.length}-${chapters[0]!.at}.mp4`)
  const index = withChapters(moov, chapters, length, front.moov.at)
  writeFileSync(path, Buffer.concat([film.subarray(0, front.moov.at), index, film.subarray(front.media)]))
  return path
}
const chaptersOf = (path: string) =>
  (
    JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-show_chapters', '-of', 'json', path], { encoding: 'utf8' }),
    ) as { chapters: { start_time: string; end_time: string; tags?: { title?: string } }[] }
  ).chapters.map((c) => [Number(c.start_time), Number(c.end_time), c.tags?.title])
const digest = (path: string) =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:v', '-map', '0:a', '-f', 'md5', '-'], {
    encoding: 'utf8',
  })

it('are read by another program as they were written, and the film is what it was', async () => {
  const path = await chaptered([
    { at: 0, title: 'Gain & <loss>' },
    { at: 2.5, title: 'Schnee, 雪 und “Firn”' },
    { at: 4, title: 'x' },
  ])
  expect(chaptersOf(path)).toEqual([
    [0, 2.5, 'Gain & <loss>'],
    [2.5, 4, 'Schnee, 雪 und “Firn”'],
    [4, 6, 'x'],
  ])
  expect(digest(path)).toBe(digest(join(folder, 'film.mp4')))
})
it('may begin after the film has', async () => {
  const found = chaptersOf(
    await chaptered([
      { at: 1.5, title: 'Late' },
      { at: 3, title: 'Later' },
    ]),
  )
  expect(found.map(([at, , title]) => [at, title])).toEqual([
    [1.5, 'Late'],
    [3, 'Later'],
  ])
})
it('in an index that is damaged are refused', () => {
  expect(() => withChapters(new Uint8Array(40).fill(1), [], 1, 0)).toThrow('The index is damaged')
})
