/**
 * A film with speech in a noisy room is brought in: what the analysis proposes is taken or left and stays so, the sound
 * is treated, a publication that a reload cuts off is begun again, and another program measures what a student gets.
 */
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { person, press, type Person } from '../person'
import { published } from '../published'
import { stored, storedDocument } from '../stored'
import { AUTHOR_KEY } from '../serve'
import { served } from '../served'

const origin = served.origin
const courseSite = served.courseSite
const folder = mkdtempSync(join(tmpdir(), 'thaw-analysis-'))
let who: Person

/**
 * Speech from 4 s on, a pause of 7 s after its first part and 5 s at the end, over noise of about −50 dBFS; the picture
 * counts.
 */
function film(): string {
  const say = (name: string, text: string) => {
    execFileSync('flite', ['-voice', 'slt', '-t', text, '-o', join(folder, name)])
    return join(folder, name)
  }
  const first = say(
    'first.wav',
    'Ice flows because it is heavy, and because it is soft. Under its own weight it deforms.',
  )
  const second = say('second.wav', 'Near the bed it may also slide, when water lifts it a little.')
  const file = join(folder, 'noisy.mp4')
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    first,
    '-i',
    second,
    '-f',
    'lavfi',
    '-i',
    'testsrc2=s=640x360:r=25:d=60',
    '-f',
    'lavfi',
    '-i',
    'anoisesrc=r=48000:a=0.009:d=60:seed=7',
    '-filter_complex',
    '[0]aresample=48000,volume=-8dB,adelay=4000,apad=pad_dur=7[a];[1]aresample=48000,volume=-8dB,apad=pad_dur=5[b];[a][b]concat=n=2:v=0:a=1[speech];[speech][3]amix=inputs=2:duration=first:normalize=0[sound]',
    '-map',
    '2:v',
    '-map',
    '[sound]',
    '-shortest',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-pix_fmt',
    'yuv420p',
    '-g',
    '250',
    '-c:a',
    'aac',
    '-b:a',
    '128k',
    file,
  ])
  return file
}
const judged = (file: string, filter: string, ...range: string[]) =>
  spawnSync('ffmpeg', ['-hide_banner', '-nostats', ...range, '-i', file, '-vn', '-af', filter, '-f', 'null', '-'], {
    encoding: 'utf8',
  }).stderr
const mean = (file: string, from: number, to: number) =>
  Number(/mean_volume: (-?[\d.]+) dB/.exec(judged(file, 'volumedetect', '-ss', String(from), '-to', String(to)))?.[1])

beforeAll(async () => {
  who = await person()
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.click('button', 'New lecture in PS 340, week 4')
  const input = (await who.page.waitForSelector('input[type=file]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(film())
  await who.find('slider', 'Playhead', 60_000)
})
afterAll(async () => {
  await who.leave()
  rmSync(folder, { recursive: true, force: true })
})

const proposals = () => who.page.$$eval('.proposals .hear', (all) => all.map((e) => (e as HTMLElement).innerText))

/**
 * Waits until so many steps of the lecture's edit are on the disk: a reload in the same moment would be before them.
 */
async function kept(steps: number): Promise<void> {
  const lectureId = new URL(who.page.url()).pathname.split('/')[2] ?? ''
  await expect.poll(async () => (await storedDocument(who.page, lectureId, 'edit'))?.applied).toBe(steps)
}

test('proposes to take out the silent ends and the long pause, each with its reason', async () => {
  await who.click('tab', 'Proposed (3)')
  const said = await proposals()
  expect(said[0]).toMatch(/^0:00\.0 – 0:03\.\d Nothing is said for the first/)
  expect(said[1]).toMatch(/A pause of/)
  expect(said[2]).toMatch(/Nothing is said for the last/)
})

test('a proposal that is taken is an edit, one that is left does not come back', async () => {
  const takes = await who.page.$$('.proposals li .el-button:not(.is-text)')
  await takes[0]?.click()
  await who.find('tab', 'Proposed (2)')
  await kept(1)
  const leaves = await who.page.$$('.proposals li .el-button.is-text')
  await leaves.at(-1)?.click()
  await who.find('tab', 'Proposed (1)')
  await who.page.reload()
  await who.find('tab', 'Proposed (1)')
  await who.click('tab', 'Proposed (1)')
  expect((await proposals())[0]).toMatch(/A pause of/)
  await who.click('tab', 'Cut')
  await who.see('Took out 0:00.0')
})

test('pictures stand along the line, and finer ones come when one zooms', async () => {
  const shown = () => who.page.$$eval('.lane.pictures img', (all) => all.map((i) => (i as HTMLImageElement).src))
  await who.page.waitForFunction(() => document.querySelectorAll('.lane.pictures img').length > 4)
  const before = new Set(await shown())
  // So far that neighbours are some frames apart; nearer, several stand for one frame.
  for (let i = 0; i < 4; i++) await who.click('button', 'Zoom in')
  // Neighbours become different moments, which those along the whole line are not any more at this size.
  await who.page
    .waitForFunction(
      (old) => {
        const seen = [...document.querySelectorAll('.lane.pictures img')].map((i) => (i as HTMLImageElement).src)
        return new Set(seen).size > 0.8 * seen.length && seen.some((url) => !old.includes(url))
      },
      { polling: 200 },
      [...before],
    )
    .catch(async (cause: unknown) => {
      const seen = await shown()
      throw new Error(
        `Of ${seen.length} pictures ${new Set(seen).size} differ and ${seen.filter((url) => !before.has(url)).length} are new. ${who.errors.join(' ')}`,
        { cause },
      )
    })
})

/** Of the noisy film, dBFS, as the desk measured it. */
let floor = 0
test('says what was measured, and is told how to treat it', async () => {
  await who.click('tab', 'Sound')
  await who.see('LUFS')
  floor = Number(
    /Noise floor\s+(−[\d.]+) dBFS/
      .exec(await who.page.$eval('.facts', (e) => (e as HTMLElement).innerText))?.[1]
      ?.replace('−', '-'),
  )
  expect(Math.abs(floor - mean(join(folder, 'noisy.mp4'), 0.5, 3.5))).toBeLessThan(3)
  await who.click('checkbox', 'Take out steady noise')
  await who.click('checkbox', 'Bring speech to −16.0 LUFS')
  await kept(3)
  await who.page.reload()
  await who.click('tab', 'Sound')
  for (const name of ['Take out steady noise', 'Bring speech to −16.0 LUFS'])
    expect(await (await who.find('checkbox', name)).evaluate((e) => (e as HTMLInputElement).checked)).toBe(true)
})

test('is heard treated at the desk, before and after, without being published', async () => {
  await who.page.waitForFunction(() => !document.body.innerText.includes('it is heard with its noise'), {
    timeout: 60_000,
  })
  /** What the desk plays: its level where nobody speaks, dBFS, and by how much it is amplified. */
  const heard = () =>
    who.page.$$eval('.picture audio, .frame video', async (all) => {
      const [played] = (all as HTMLMediaElement[]).filter((m) => !m.muted)
      const bytes = await (await fetch(played?.src ?? '')).arrayBuffer()
      const [plane] = [(await new OfflineAudioContext(1, 1, 48_000).decodeAudioData(bytes)).getChannelData(0)]
      const quiet = plane.subarray(0.5 * 48_000, 3.5 * 48_000)
      return 10 * Math.log10(quiet.reduce((sum, x) => sum + x * x, 0) / quiet.length)
    })
  await expect.poll(heard, { timeout: 20_000 }).toBeLessThan(floor - 12)
  await (await who.page.waitForSelector('::-p-xpath(//label[contains(., "As recorded")])'))?.click()
  await expect.poll(heard).toBeGreaterThan(floor - 3)
  await (await who.page.waitForSelector('::-p-xpath(//label[contains(., "Hear it treated")])'))?.click()
  await expect.poll(heard).toBeLessThan(floor - 12)
  expect(await stored<{ takeId: string }>(who.page, 'quiets')).toHaveLength(1)
  expect(who.errors).toEqual([])
})

test('what runs in one tab is cancelled in another', async () => {
  const other = await who.browser.newPage()
  await other.goto(`${origin}/`)
  await other.locator('::-p-text(Jobs)').click()
  await who.page.bringToFront()
  await who.click('link', 'Release: Not on a course page yet')
  await who.click('button', 'Publish')
  await who.find('button', 'Cancel')
  await other.bringToFront()
  const row = '::-p-xpath(//li[contains(., "noisy") and contains(., "under way") and not(contains(., "noise out"))])'
  await other.locator(`${row} >>> button`).click()
  await other.waitForSelector(
    '::-p-xpath(//li[contains(., "noisy") and contains(., "cancelled") and not(contains(., "noise out"))])',
  )
  await other.close()
  await who.page.bringToFront()
  await who.find('button', 'Publish')
})

test('a publication that a closed page cuts off is begun again by itself, and told when it is done', async () => {
  await who.click('button', 'Publish')
  await who.find('button', 'Cancel')
  await who.go(`${origin}/`)
  await who.see('“noisy” is published.', 120_000)
  await who.page.locator('::-p-text(Jobs)').click()
  await who.see('It was started again.')
  await who.page.keyboard.press('Escape')
  await who.click('link', 'Open it')
  await who.see('What students get is what stands here.', 120_000)
  expect(who.errors).toEqual([])
})

test('what a student gets is as loud as was asked, and its noise is gone', () => {
  const { file, duration } = published(served.dataFolder, 'noisy')
  const summary = judged(file, 'ebur128=peak=true').split('Summary:')[1] ?? ''
  expect(Math.abs(Number(/I:\s+(-?[\d.]+) LUFS/.exec(summary)?.[1]) + 16)).toBeLessThanOrEqual(0.5)
  expect(Number(/Peak:\s+(-?[\d.]+) dBFS/.exec(summary)?.[1])).toBeLessThanOrEqual(-0.5)
  // The end, which was left, is nothing but noise; brought up with the speech it would be louder than it was recorded.
  expect(mean(file, duration - 3, duration - 0.5)).toBeLessThan(mean(join(folder, 'noisy.mp4'), 0.5, 3.5) - 6)
})

test('a student sees the whole picture, with no captions beside it too', async () => {
  const student = await person()
  await student.go(`${courseSite}/`)
  await student.page.select('#who', 's04')
  await student.click('button', 'Sign in')
  await student.click('link', 'PS 340 Ice Cores and Past Climate')
  await student.click('link', 'noisy')
  const frame = await (await student.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('the player did not open')
  await press(frame, 'button', 'Play')
  await frame.waitForFunction(() => Number(document.querySelector('video')?.currentTime) > 1)
  const fits = await frame.evaluate(() => {
    const [video, picture] = ['video', '.picture'].map((s) => document.querySelector(s)?.getBoundingClientRect())
    return video && picture ? [picture.height - video.height, picture.width - video.width] : []
  })
  for (const room of fits) expect(room).toBeGreaterThanOrEqual(-1)
  expect(fits).toHaveLength(2)
  expect(student.errors).toEqual([])
  await student.leave()
})
