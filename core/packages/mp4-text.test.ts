import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { inTurn, withText, type Mp4Captions } from './mp4-text'
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

/** The film with chapters and captions, its media moved back by as much as these take. */
async function withAll(
  named: { at: number; title: string }[],
  captions: Mp4Captions | null = null,
  length = 6,
): Promise<string> {
  const chapters = named.map(({ at, title }) => ({ at, title: Buffer.from(title) }))
  const text = { chapters, captions }
  const front = (await frontBoxes((at, size) => Promise.resolve(film.subarray(at, at + size))))!
  const moov = new Uint8Array(film.subarray(front.moov.at, front.moov.at + front.moov.size))
  const by = withText(moov, text, length, front.moov.at).length - (front.media - front.moov.at)
  moveChunks(moov, -by)
  const path = join(folder, `${chapters.length}-${chapters[0]?.at ?? 'none'}-${captions?.cues.length ?? 0}.mp4`)
  const index = withText(moov, text, length, front.moov.at)
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

describe('chapters', () => {
  it('are read by another program as they were written, and the film is what it was', async () => {
    const path = await withAll([
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
      await withAll([
        { at: 1.5, title: 'Late' },
        { at: 3, title: 'Later' },
      ]),
    )
    expect(found.map(([at, , title]) => [at, title])).toEqual([
      [1.5, 'Late'],
      [3, 'Later'],
    ])
  })
})
it('an index that is damaged is refused', () => {
  const nothing = { chapters: [], captions: null }
  expect(() => withText(new Uint8Array(40).fill(1), nothing, 1, 0)).toThrow('The index is damaged')
})

describe('captions', () => {
  const cues = [
    { from: 0.5, to: 2, text: 'Schnee, 雪 &amp; <i>Firn</i>', top: false },
    { from: 2, to: 3.25, text: 'two\nlines', top: true },
    { from: 4, to: 6, text: '<v Ada>Ice <b>flows</b>', top: false },
  ]
  const captions: Mp4Captions = { cues: inTurn(cues), language: 'eng', label: 'English', width: 160, height: 90 }

  it('are read by another program as timed text, word for word and to the millisecond', async () => {
    const path = await withAll([{ at: 0, title: 'Gain' }], captions)
    const probed = execFileSync('ffprobe', ['-v', 'error', '-show_streams', '-of', 'json', path], { encoding: 'utf8' })
    const { streams } = JSON.parse(probed) as {
      streams: { codec_name?: string; codec_type: string; tags: { language: string; handler_name: string } }[]
    }
    const [subtitle] = streams.filter((s) => s.codec_type === 'subtitle')
    expect(subtitle).toMatchObject({
      codec_name: 'mov_text',
      tags: { language: 'eng', handler_name: 'English' },
    })
    const srt = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:s', '-f', 'srt', '-'], {
      encoding: 'utf8',
    })
    // It says of each cue in which font it is set.
    expect(
      srt
        .replace(/<\/?font[^>]*>/g, '')
        .split('\n\n')
        .map((block) => block.trim().split(/\r?\n/).slice(1)),
    ).toEqual([
      ['00:00:00,500 --> 00:00:02,000', 'Schnee, 雪 & <i>Firn</i>'],
      ['00:00:02,000 --> 00:00:03,250', 'two', 'lines'],
      ['00:00:04,000 --> 00:00:06,000', 'Ada: Ice <b>flows</b>'],
      [],
    ])
    expect(chaptersOf(path)).toEqual([[0, 6, 'Gain']])
    expect(digest(path)).toBe(digest(join(folder, 'film.mp4')))
  })
  it('are as many as there are', async () => {
    const many = Array.from({ length: 70_000 }, (_, i) => ({ from: i, to: i + 0.5, text: 'Ice', top: false }))
    const path = await withAll([], { ...captions, cues: inTurn(many) }, 70_000)
    const count = ['-v', 'error', '-select_streams', 's', '-count_packets', '-show_entries', 'stream=nb_read_packets']
    expect(execFileSync('ffprobe', [...count, '-of', 'csv=p=0', path], { encoding: 'utf8' }).trim()).toBe('140000')
  })
  it('that are shown together follow each other', () => {
    const turns = inTurn([
      { from: 0, to: 4, text: 'one', top: false },
      { from: 1, to: 2, text: 'two', top: false },
      { from: 4, to: 4, text: 'never', top: false },
    ])
    const said = turns.map(({ from, to, lines }) => [
      from,
      to,
      lines.map((l) => l.map((s) => s.text).join('')).join('/'),
    ])
    expect(said).toEqual([
      [0, 1, 'one'],
      [1, 2, 'one/two'],
      [2, 4, 'one'],
    ])
  })
})
