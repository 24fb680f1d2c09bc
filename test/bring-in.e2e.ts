/** Files that come in: good ones open, odd and broken ones get a true sentence and leave nothing behind. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test, vi } from 'vitest'
import { atLength, lengthy } from './at-length'
import { person, type Person } from './person'
import { stored, storedDocument } from './stored'
import { served } from './served'

const origin = served.origin
const folder = mkdtempSync(join(tmpdir(), 'thaw-files-'))
const ffmpeg = (out: string, ...args: string[]) => {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args, join(folder, out)])
  return join(folder, out)
}
const picture = ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25:d=6']
const tone = ['-f', 'lavfi', '-i', 'sine=440:d=6']
let who: Person

beforeAll(async () => {
  who = await person()
  await who.go(origin)
  await who.see('The term')
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

async function offer(file: string): Promise<void> {
  await who.go(origin)
  await who.click('button', 'New lecture in PS 115, week 5')
  const input = (await who.page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(file)
}
/** How much there is, once nothing is copied or removed any more: files are used while that is done. */
const count = async () => {
  await vi.waitFor(
    async () =>
      expect((await stored<{ state: string }>(who.page, 'jobs')).map((j) => j.state)).not.toContain('running'),
    { timeout: 30_000, interval: 200 },
  )
  return counted()
}
const counted = () =>
  Promise.all(['lectures', 'takes', 'files', 'chunks'].map(async (table) => (await stored(who.page, table)).length))

/** The others differ less from these than from one another. */
const EACH_TIME = ['WebM as browsers write it, without a length', 'MP4 with a wrong ending']
const files: [string, () => string][] = [
  ['MP4', () => ffmpeg('plain.mp4', ...picture, ...tone, '-pix_fmt', 'yuv420p', '-shortest')],
  [
    'WebM',
    () =>
      ffmpeg(
        'plain.webm',
        ...picture,
        ...tone,
        '-c:v',
        'libvpx',
        '-deadline',
        'realtime',
        '-c:a',
        'libopus',
        '-shortest',
      ),
  ],
  [
    'WebM as browsers write it, without a length',
    () =>
      ffmpeg(
        'live.webm',
        ...picture,
        ...tone,
        '-c:v',
        'libvpx',
        '-deadline',
        'realtime',
        '-c:a',
        'libopus',
        '-shortest',
        '-f',
        'webm',
        '-live',
        '1',
      ),
  ],
  [
    'MP4 with a wrong ending',
    () => {
      const made = ffmpeg('named.mp4', ...picture, ...tone, '-pix_fmt', 'yuv420p', '-shortest')
      writeFileSync(join(folder, 'named.webm'), readFileSync(made))
      return join(folder, 'named.webm')
    },
  ],
]
test.each(files.filter(([name]) => atLength || EACH_TIME.includes(name)))('brings in a good %s', async (_, make) => {
  await offer(make())
  await who.find('slider', 'Playhead', 60_000)
  await who.see('of 0:06')
  await who.page.waitForSelector('.lane.sound canvas')
  await who.page.waitForFunction(
    () => ((document.querySelector('.frame video') as HTMLVideoElement | null)?.readyState ?? 0) >= 2,
  )
})

test('what had to be copied is named after what it is now', async () => {
  const files = await stored<{ name: string; type: string }>(who.page, 'files')
  expect(files.find((f) => f.name.startsWith('live'))).toMatchObject({
    name: 'live.mkv',
    type: expect.stringContaining('matroska'),
  })
  expect(files.find((f) => f.name.startsWith('named'))).toMatchObject({
    name: 'named.webm',
    type: expect.stringContaining('video/mp4'),
  })
})

test('a film is opened once for its picture and its sound, which is heard', async () => {
  const media = () =>
    who.page.$$eval('.frame video, .picture audio', (all) =>
      (all as (HTMLMediaElement & { webkitAudioDecodedByteCount: number })[]).map((m) => ({
        ...{ name: m.localName, muted: m.muted, volume: m.volume, paused: m.paused },
        sounds: m.webkitAudioDecodedByteCount > 0,
      })),
    )
  await who.page.keyboard.press('Home')
  await who.click('button', 'Play')
  await expect.poll(media).toEqual([{ name: 'video', muted: false, volume: 1, paused: false, sounds: true }])
  await who.click('button', 'Pause')
})

test('says that a video has no sound, and takes it', async () => {
  await offer(ffmpeg('mute.mp4', ...picture, '-pix_fmt', 'yuv420p'))
  await who.see('has no sound: there will be no waveform and nothing to caption.')
  await who.find('slider', 'Playhead')
})

test.each([
  [
    'a text',
    'notes.mp4',
    () => writeFileSync(join(folder, 'notes.mp4'), 'just words '.repeat(500)),
    /“notes\.mp4” is not a video or sound file that can be read here/,
  ],
  ['nothing', 'empty.mp4', () => writeFileSync(join(folder, 'empty.mp4'), ''), /“empty\.mp4” is empty/],
  [
    'an MP4 cut short before its index',
    'torn.mp4',
    () => {
      const whole = readFileSync(ffmpeg('whole.mp4', ...picture, ...tone, '-pix_fmt', 'yuv420p', '-shortest'))
      writeFileSync(join(folder, 'torn.mp4'), whole.subarray(0, Math.floor(whole.length * 0.6)))
    },
    /found in “torn\.mp4”. It may have been cut short/,
  ],
  [
    'an MP4 cut short behind its index',
    'half.mp4',
    () => {
      const whole = readFileSync(
        ffmpeg('fast.mp4', ...picture, ...tone, '-pix_fmt', 'yuv420p', '-shortest', '-movflags', '+faststart'),
      )
      writeFileSync(join(folder, 'half.mp4'), whole.subarray(0, Math.floor(whole.length * 0.6)))
    },
    /“half\.mp4” is cut short/,
  ],
  [
    'a name with markup in it',
    '<img src=x onerror=alert(1)>.mp4',
    () => writeFileSync(join(folder, '<img src=x onerror=alert(1)>.mp4'), 'x'.repeat(400)),
    /“<img src=x onerror=alert\(1\)>\.mp4” is not a video/,
  ],
])('refuses %s with a true sentence and no harm', async (_, name, make, sentence) => {
  make()
  const before = await count()
  await offer(join(folder, name))
  await who.page.waitForSelector('.el-dialog [role=alert]', { timeout: 30_000 })
  expect(await who.page.$eval('.el-dialog [role=alert]', (e) => (e as HTMLElement).innerText)).toMatch(sentence)
  await who.see('Nothing was changed.')
  expect(await count()).toEqual(before)
  expect(who.errors).toEqual([])
})

test('reads a caption file, and names line and reason for a bad one', async () => {
  await who.go(`${origin}/lecture/layers?step=captioned`)
  const input = (await who.page.waitForSelector('.sheet input[type=file]')) as ElementHandle<HTMLInputElement>
  const bad = join(folder, 'bad.vtt')
  writeFileSync(bad, 'WEBVTT\n\n00:01.000 --> 00:00.500\nbackwards\n')
  await input.uploadFile(bad)
  await who.see('Line 3: the cue ends before it starts.')
  await who.see('Nothing was changed.')
  const good = join(folder, 'good.srt')
  writeFileSync(good, '1\n00:00:01,000 --> 00:00:03,000\n<script>alert(1)</script> & snow\n')
  await input.uploadFile(good)
  await who.see('Read 1 cue from “good.srt”.')
  await who.see('<script>alert(1)</script> & snow')
  await who.find('radio', 'Draft')
  // What is no draft of a recogniser is not replaced unasked.
  const other = join(folder, 'other.srt')
  writeFileSync(other, '1\n00:00:01,000 --> 00:00:03,000\nsomething else\n')
  await input.uploadFile(other)
  await who.see('Its 1 cue would be replaced; you can undo that.')
  await who.click('button', 'Leave it')
  await who.see('<script>alert(1)</script> & snow')
  await input.uploadFile(other)
  await who.click('button', 'Replace them')
  await who.see('something else')
})

lengthy(
  'offers the good rest of a caption file, takes another language as its own track, and moves times that sit wrongly',
  async () => {
    const input = (await who.page.waitForSelector('.sheet input[type=file]')) as ElementHandle<HTMLInputElement>
    const cues = async (name = 'captions') =>
      ((await storedDocument(who.page, 'layers', name as 'captions'))?.document.cues ?? []).map((c) => [c.from, c.text])
    const partly = join(folder, 'partly.vtt')
    writeFileSync(
      partly,
      'WEBVTT\n\n00:01.000 --> 00:02.000\nfirst layer\n\n00:0x.000 --> 00:05.000\nlost\n\n00:06.000 --> 00:08.000\nlast layer\n',
    )
    await input.uploadFile(partly)
    await who.see('2 cues could be read (WebVTT), 1 line could not.')
    await who.see('Line 6')
    await who.click('button', 'Take what could be read')
    await expect
      .poll(() => cues())
      .toEqual([
        [1, 'first layer'],
        [6, 'last layer'],
      ])
    // UTF-16, as some programs write it.
    const french = join(folder, 'couches.ttml')
    const xml =
      '<tt xmlns="http://www.w3.org/ns/ttml" xml:lang="fr"><body><div><p begin="1s" end="2s">première couche</p></div></body></tt>'
    writeFileSync(french, Buffer.from(`\ufeff${xml}`, 'utf16le'))
    await input.uploadFile(french)
    await who.see('It says that it is French; what is open is English captions.')
    await who.click('button', 'Take it as French translation')
    await expect.poll(() => cues('captions-translation-fr')).toEqual([[1, 'première couche']])
    expect(await cues()).toHaveLength(2)
    await who.choose('Track', 'English captions · Draft')
    await who.pick('More', 'Shift or stretch times')
    await who.type('belongs at', '0:03')
    await who.click('checkbox', 'They drift: stretch between two instants')
    await who.type('belongs at (2)', '0:13')
    await who.click('button', 'Move 2 cues')
    await expect
      .poll(() => cues())
      .toEqual([
        [3, 'first layer'],
        [13, 'last layer'],
      ])
    await who.click('button', 'Undo')
    await expect
      .poll(() => cues())
      .toEqual([
        [1, 'first layer'],
        [6, 'last layer'],
      ])
    expect(who.errors).toEqual([])
  },
)
