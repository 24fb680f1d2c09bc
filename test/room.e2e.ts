/**
 * The recording room: setups, the rehearsal's verdicts, drawing and marks, devices that go away, and storage that fills
 * up.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'puppeteer-core'
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { parseTimecode } from '../core/time/timecode'
import { atLength, lengthy } from './at-length'
import { person, type Person } from './person'
import { store, stored, storedDocument } from './stored'
import { letPass } from './at-rest'
import { served } from './served'

const origin = served.origin
const room = async (who: Person, lecture: string) => {
  await who.go(`${origin}/record?lecture=${lecture}`)
  await who.find('switch', 'Lecture hall')
}

describe('setups', () => {
  let who: Person
  beforeAll(async () => {
    who = await person()
  })
  afterAll(() => who.leave())
  const menu = (item: string) => who.pick('Setup …', item)

  test('are kept under a name, and bring the room back with one choice', async () => {
    await room(who, 'ash')
    await who.click('switch', 'Camera')
    await who.click('switch', 'Microphone')
    await who.find('meter', 'Sound level of Microphone')
    await who.click('button', 'Settings of Camera')
    await who.type('Kilobits a second of Camera', '800', 'spinbutton')
    await menu('Keep these settings …')
    await who.page.waitForSelector('.el-message-box input')
    await who.page.type('.el-message-box input', 'My desk')
    await who.click('button', 'Keep it')
    await who.see('“My desk” is kept.')
    await menu('Open the room with it')
    await who.see('My desk (opens with the room)')
    await room(who, 'ash')
    await who.find('meter', 'Sound level of Microphone')
    await who.see('My desk (opens with the room)')
    await who.page.waitForSelector('[aria-label="Live picture: Camera"]')
    await who.click('button', 'Settings of Camera')
    expect(
      await (
        await who.find('spinbutton', 'Kilobits a second of Camera')
      ).evaluate((e) => (e as HTMLInputElement).value),
    ).toBe('800')
  })
  test('say which device is missing, and find one again whose id has changed', async () => {
    for (const setup of await stored<{ inputs: { source: string }[] }>(who.page, 'setups')) {
      const moved: Record<string, object> = {
        camera: { deviceId: 'an-id-of-yesterday' },
        microphone: { deviceId: 'gone', deviceName: 'Clip-on microphone' },
      }
      await store(who.page, 'setups', {
        ...setup,
        inputs: setup.inputs.map((input) => ({ ...input, ...moved[input.source] })),
      })
    }
    await room(who, 'ash')
    await who.page.waitForSelector('[aria-label="Live picture: Camera"]')
    await who.see('“Clip-on microphone” is not plugged in.')
  })
  test('can be renamed and deleted', async () => {
    await menu('Rename …')
    const field = await who.page.waitForSelector('.el-message-box input')
    await field?.click({ count: 3 })
    await field?.type('The hall upstairs')
    await who.click('button', 'Keep it')
    await who.see('The hall upstairs (opens with the room)')
    await menu('Delete …')
    await who.click('button', 'Delete it')
    await who.page.waitForFunction(() => !document.body.innerText.includes('The hall upstairs'))
    await room(who, 'ash')
    await who.see('No setup')
    expect(who.errors).toEqual([])
  })
})

describe('the rehearsal', () => {
  const folder = mkdtempSync(join(tmpdir(), 'thaw-rehearsal-'))
  afterAll(() => rmSync(folder, { recursive: true, force: true }))
  /** A microphone that hears this: 14 s of it, over and over. */
  const microphone = (name: string, filter: string) => {
    execFileSync('flite', [
      '-voice',
      'slt',
      '-t',
      'Ice flows because it is heavy. Near the bed it may also slide, when water lifts it. We come back to this. Listen.',
      '-o',
      join(folder, 'voice.wav'),
    ])
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-y',
      '-i',
      join(folder, 'voice.wav'),
      '-f',
      'lavfi',
      '-i',
      'anoisesrc=r=48000:a=1:d=14:seed=3',
      '-filter_complex',
      `[0]aresample=48000,apad=whole_dur=14[v];${filter}`,
      '-map',
      '[out]',
      '-t',
      '14',
      '-ac',
      '1',
      '-c:a',
      'pcm_s16le',
      join(folder, name),
    ])
    return [`--use-file-for-fake-audio-capture=${join(folder, name)}`]
  }
  const microphones: [string, string, RegExp, RegExp][] = [
    [
      'a good voice',
      '[v]volume=-6dB[v2];[1]volume=-72dB[n];[v2][n]amix=inputs=2:normalize=0:duration=first[out]',
      /You can begin\.|One thing needs you/,
      /Speech peaks at −\d+ dB\.[^]*The room is quiet/,
    ],
    [
      'silence',
      '[v]volume=0[v2];[1]volume=-95dB[n];[v2][n]amix=inputs=2:normalize=0:duration=first[out]',
      /needs? you/,
      /Nothing is to be heard\.[^]*is not muted/,
    ],
    [
      'a clipped voice',
      '[v]volume=30dB,alimiter=limit=1:level=false[v2];[v2]volume=12dB[v3];[1]volume=-80dB[n];[v3][n]amix=inputs=2:normalize=0:duration=first[out]',
      /needs? you/,
      /The sound clips[^]*Turn the gain down/,
    ],
    [
      'a voice in noise',
      '[v]volume=-6dB[v2];[1]volume=-28dB[n];[v2][n]amix=inputs=2:normalize=0:duration=first[out]',
      /needs? you/,
      /Steady noise lies only \d+ dB below/,
    ],
  ]
  // Each is fourteen seconds of listening.
  test.runIf(atLength).each(microphones)(
    'judges %s by what was really recorded, and plays it back',
    async (name, filter, sum, says) => {
      const who = await person({ args: microphone(`${name.replaceAll(' ', '-')}.wav`, filter) })
      await room(who, 'ash')
      await who.click('switch', 'Camera')
      await who.click('switch', 'Microphone')
      await who.find('meter', 'Sound level of Microphone')
      await who.click('button', 'Rehearse')
      await who.find('button', 'Rehearse again', 60_000)
      const text = await who.page.$eval('.el-dialog', (e) => (e as HTMLElement).innerText)
      expect(text).toMatch(sum)
      expect(text).toMatch(says)
      // On a busy machine frames may be missing; that is then said.
      expect(text).toMatch(/Camera[^]*(The picture is there and moves\.|of the frames are missing)/)
      await who.page.waitForFunction(
        () => Number(document.querySelector<HTMLVideoElement>('.el-dialog video')?.currentTime) > 0.3,
      )
      expect(who.errors).toEqual([])
      await who.leave()
    },
  )
})

describe('while recording', () => {
  let who: Person
  // A browser for each: what one did to its devices is not there in the next.
  beforeEach(async () => {
    who = await person()
  })
  afterEach(() => who.leave())

  lengthy('marks are set by key, what is drawn and which slide was shown go with the recording as data', async () => {
    await room(who, 'meltwater')
    await who.click('switch', 'Lecture hall')
    await who.find('meter', 'Sound level of Lectern microphone')
    await who.click('button', 'Start recording')
    await who.click('button', 'Begin now')
    await who.recordFor(2)
    await who.page.keyboard.press('m')
    await who.click('button', 'Draw')
    const screen = await (await who.page.waitForSelector('[aria-label="Live picture: Hall screen"]'))?.boundingBox()
    if (!screen) throw new Error('the screen is not to be seen')
    const line = async (y: number) => {
      await who.page.mouse.move(screen.x + 0.2 * screen.width, screen.y + y * screen.height)
      await who.page.mouse.down()
      await who.page.mouse.move(screen.x + 0.6 * screen.width, screen.y + y * screen.height, { steps: 8 })
      await who.page.mouse.up()
    }
    await line(0.5)
    await line(0.7)
    await who.click('button', 'Erase')
    await who.page.mouse.click(screen.x + 0.4 * screen.width, screen.y + 0.7 * screen.height)
    await expect.poll(() => who.page.$$eval('.stage .strokes path', (all) => all.length)).toBe(1)
    await who.click('button', 'Next slide')
    await who.recordFor(8)
    await who.click('button', 'Stop')
    await who.click('button', 'Keep it')
    await who.find('slider', 'Playhead', 60_000)
    await who.see('Drawing over 0:00.0')
    await who.page.waitForSelector('.marker')
    const marked = Number(
      /at 0:(\d+)/.exec(await who.page.$eval('.marker', (e) => e.getAttribute('aria-label') ?? ''))?.[1],
    )
    expect(marked).toBeGreaterThanOrEqual(1)
    expect(marked).toBeLessThanOrEqual(5)
    await expect.poll(() => who.page.$$eval('.lane.pictures button', (all) => all.length)).toBeGreaterThanOrEqual(2)
    // At the end the line that was left is seen, and at the start none.
    expect(await who.page.$$('.frame .strokes path')).toHaveLength(0)
    await who.page.focus('[aria-label="Playhead"]')
    await who.page.keyboard.press('End')
    await who.page.waitForSelector('.frame .strokes path')
    expect(await who.page.$$('.frame .strokes path')).toHaveLength(1)
    expect(who.errors).toEqual([])
  })

  /** Records a camera and a microphone for so long. */
  async function record(lecture: string, seconds: number): Promise<void> {
    await room(who, lecture)
    await who.click('switch', 'Camera')
    await who.click('switch', 'Microphone')
    await who.click('button', 'Start recording')
    await who.click('button', 'Begin now')
    await who.recordFor(seconds)
  }
  /** Keeps what was recorded, and gives its length on the desk, s. */
  async function keep(): Promise<number> {
    await who.click('button', 'Keep it')
    await who.find('slider', 'Playhead', 60_000)
    return shownLength()
  }
  const shownLength = async () =>
    Number(/of 0:([\d.]+)/.exec(await who.page.$eval('.times', (e) => (e as HTMLElement).innerText))?.[1])

  lengthy('a device that goes away is said, and the others go on', async () => {
    await record('avalanche', 3)
    await who.unplug('Camera')
    await who.see('Camera went away: it was unplugged, or another program took it.')
    await who.recordFor(5)
    await who.page.keyboard.press('?')
    await who.see('Pause, or go on')
    await who.page.keyboard.press('p')
    await who.see('Paused. It keeps rolling')
    await who.page.keyboard.press('p')
    await who.page.waitForFunction(() => !document.body.innerText.includes('Paused. It keeps rolling'))
    await who.recordFor(11)
    await who.click('button', 'Stop')
    expect(await keep()).toBeGreaterThan(7)
    expect(who.errors).toEqual([])
  })

  lengthy('storage that is full stops the recording at once, and everything up to then is kept', async () => {
    await record('ash', 6)
    const session = await who.page.createCDPSession()
    const usage = await who.page.evaluate(async () => (await navigator.storage.estimate()).usage ?? 0)
    await session.send('Storage.overrideQuotaForOrigin', { origin, quotaSize: usage })
    await who.see('The recording was stopped because the storage is full. Everything up to now is kept.')
    expect(await keep()).toBeGreaterThan(5)
    expect(who.errors).toEqual([])
  })

  lengthy(
    'the controls float in a window of their own, mark and stop from there, and can be brought back',
    async () => {
      await record('ash', 2)
      const opened = new Promise<Page | null>((resolve) =>
        who.browser.once('targetcreated', (target) => void target.page().then(resolve)),
      )
      await who.click('button', 'Float the controls')
      const floating = await opened
      if (!floating) throw new Error('no window opened')
      await who.see('The controls are in a small window of their own.')
      await floating.waitForFunction(() => /\d:\d\d/.test(document.body.innerText))
      const press = (name: string) =>
        floating.evaluate(
          (n) => [...document.querySelectorAll('button')].find((b) => b.innerText.trim().startsWith(n))?.click(),
          name,
        )
      await press('Mark this')
      await floating.waitForFunction(() => /Mark this\s*1/.test(document.body.innerText))
      await who.click('button', 'Bring them back here')
      await who.find('button', 'Mark this 1')
      await who.click('button', 'Stop')
      expect(await keep()).toBeGreaterThan(2)
      await who.page.waitForSelector('.marker')
      expect(who.errors).toEqual([])
    },
  )

  lengthy(
    'storage that will end is said ten minutes ahead; the recording goes on, and is kept unless it is discarded',
    async () => {
      await record('ash', 6)
      await who.notSee('Storage is nearly full')
      const session = await who.page.createCDPSession()
      const usage = await who.page.evaluate(async () => (await navigator.storage.estimate()).usage ?? 0)
      // What the browser states stays at 10 GB more than is used; what it grants does not.
      await session.send('Storage.overrideQuotaForOrigin', { origin, quotaSize: usage + 120e6 })
      await who.page.waitForFunction(() =>
        /Storage is nearly full: about [2-9] minutes fit/.test(document.body.innerText),
      )
      await who.recordFor(14)
      await who.click('button', 'Stop')
      await who.find('button', 'Keep it')
      // The page is left without an answer: nobody said that it should be discarded.
      await who.page.$eval('header nav a', (e) => (e as HTMLElement).click())
      await who.see('The term')
      const card = await who.page.waitForSelector('a[href^="/lecture/ash"]')
      await card?.evaluate((e) => (e as HTMLElement).click())
      await who.find('slider', 'Playhead', 60_000)
      expect(await shownLength()).toBeGreaterThan(13)
      expect(who.errors).toEqual([])
    },
  )

  lengthy(
    'a pause that truly stops, and a later recording, make further takes that stand end to end on the desk',
    async () => {
      const downloads = mkdtempSync(join(tmpdir(), 'thaw-copies-'))
      const session = await who.browser.target().createCDPSession()
      await session.send('Browser.setDownloadBehavior', {
        behavior: 'allow',
        downloadPath: downloads,
        eventsEnabled: true,
      })
      const saved = new Promise<void>((resolve) =>
        session.on('Browser.downloadProgress', (e) => {
          if (e.state === 'completed') resolve()
        }),
      )
      await room(who, 'ash')
      await who.click('switch', 'Camera')
      await who.click('switch', 'Microphone')
      await who.find('meter', 'Sound level of Microphone')
      await who.choose('Pausing', 'truly stops')
      await who.click('button', 'Start recording')
      await who.click('button', 'Begin now')
      await who.recordFor(3)
      await who.click('button', 'Pause')
      await who.see('Stopped. Nothing is recorded until you go on')
      const clock = () => who.page.$eval('[role=timer] .mono', (e) => e.textContent)
      const stood = await clock()
      await letPass(2.5)
      expect(await clock()).toBe(stood)
      await who.click('button', 'Go on')
      await who.recordFor(6)
      await who.click('button', 'Mark this')
      await who.recordFor(7)
      await who.click('button', 'Stop')
      await who.see('in 2 takes end to end')
      await who.type('Title', 'Ash layers')
      await who.type('Keywords', 'tephra, dating')
      await who.see('“Ash layers” goes to PS 340')
      await who.click('button', 'Save a copy of Camera, take 2')
      await saved
      const copy = join(downloads, readdirSync(downloads)[0] ?? '')
      expect(copy).toMatch(/Ash-layers-take-2-Camera\.mp4$/)
      expect(execFileSync('ffmpeg', ['-v', 'error', '-i', copy, '-f', 'null', '-'], { encoding: 'utf8' })).toBe('')
      await who.click('button', 'Keep it')
      const joint = (take: number) =>
        who.page.waitForSelector(`button[aria-label^="Take ${take} begins, at 0:"]`, { timeout: 60_000 })
      await joint(2)
      const both = await shownLength()
      expect(both).toBeGreaterThan(6)
      expect(both).toBeLessThan(10)
      expect(
        (await stored<{ id: string; title: string; keywords?: string }>(who.page, 'lectures')).find(
          (l) => l.id === 'ash',
        ),
      ).toMatchObject({ title: 'Ash layers', keywords: 'tephra, dating' })

      // An edit, and then a further take on another day.
      await who.page.focus('[aria-label="Trim the end"]')
      await who.page.keyboard.down('Shift')
      await who.page.keyboard.press('ArrowLeft')
      await who.page.keyboard.up('Shift')
      await who.see('Trimmed')
      await who.page.waitForFunction(() => document.querySelector('.lane.sound canvas'))
      await who.click('link', 'Record a further take')
      await who.see('are recorded already')
      await who.click('switch', 'Microphone')
      await who.find('meter', 'Sound level of Microphone')
      await who.click('button', 'Start recording')
      await who.click('button', 'Begin now')
      await who.recordFor(3)
      await who.click('button', 'Stop')
      await who.click('button', 'Keep it')
      await joint(3)
      const edit = (await storedDocument(who.page, 'ash', 'edit'))!.document
      const takes = (
        await stored<{ lectureId: string; at?: number; duration: number; startedAt: string }>(who.page, 'takes')
      )
        .filter((t) => t.lectureId === 'ash')
        .sort((a, b) => (a.at ?? 0) - (b.at ?? 0))
      expect(takes).toHaveLength(3)
      const begins = async (take: number) =>
        parseTimecode(
          (await (await joint(take))?.evaluate((e) => e.getAttribute('aria-label')))?.split(', at ')[1] ?? '',
        ) ?? NaN
      // Said in whole seconds; the trimmed second is not there any more.
      expect(Math.abs((await begins(2)) - (takes[1]?.at ?? NaN))).toBeLessThanOrEqual(0.5)
      expect(Math.abs((await begins(3)) - ((takes[2]?.at ?? NaN) - 1))).toBeLessThanOrEqual(0.55)
      expect(edit.duration).toBeCloseTo(
        takes.reduce((sum, t) => sum + t.duration, 0),
        1,
      )

      // Played from the start, it runs on through both joints, and past the trimmed end of the second take.
      await who.click('button', 'Play')
      await who.page.waitForFunction(
        (end) => Number(/0:([\d.]+) of/.exec(document.querySelector('.times')?.textContent ?? '')?.[1]) > end,
        { timeout: 30_000 },
        both + 1,
      )
      expect(who.errors).toEqual([])
      rmSync(downloads, { recursive: true, force: true })
    },
  )

  lengthy(
    'of two microphones students hear the one that is chosen, and its sound is what is looked through',
    async () => {
      await room(who, 'meltwater')
      await who.click('switch', 'Microphone')
      await who.find('meter', 'Sound level of Microphone')
      await who.click('switch', 'Lecture hall')
      await who.find('meter', 'Sound level of Lectern microphone')
      await who.click('button', 'Start recording')
      await who.click('button', 'Begin now')
      await who.recordFor(4)
      await who.click('button', 'Stop')
      await keep()
      const take = async () =>
        (
          await stored<{ id: string; lectureId: string; feeds: { kind: string; label: string; fileId: string }[] }>(
            who.page,
            'takes',
          )
        ).find((t) => t.lectureId === 'meltwater')!
      const heard = async () => (await take()).feeds.find((f) => f.kind === 'sound')!
      const lookedThrough = async () => {
        const { id } = await take()
        let loudness: object | undefined
        const isDone = async () => {
          loudness = (
            await stored<{ takeId: string; sound?: { loudness: object }; slides?: number[] }>(who.page, 'analyses')
          ).find((a) => a.takeId === id && a.slides)?.sound?.loudness
          const running = (await stored<{ lectureId: string; state: string }>(who.page, 'jobs')).some(
            (j) => j.lectureId === 'meltwater' && j.state === 'running',
          )
          return loudness !== undefined && !running
        }
        await expect.poll(isDone, { timeout: 60_000, message: 'the take is looked through' }).toBe(true)
        return loudness
      }
      const before = { heard: await heard(), loudness: await lookedThrough() }
      const playing = () => who.page.$$eval('.frame audio', (all) => all.map((e) => (e as HTMLAudioElement).src))
      const source = await playing()
      expect(source).toHaveLength(1)
      const other = (await take()).feeds.find((f) => f.kind === 'sound' && f.fileId !== before.heard.fileId)!
      await who.click('button', 'Particulars')
      expect(
        await (
          await who.find('radio', `Students hear this one: ${before.heard.label}`)
        ).evaluate((e) => (e as HTMLInputElement).checked),
      ).toBe(true)
      await who.click('radio', `Students hear this one: ${other.label}`)
      await who.page.waitForFunction(
        (name) =>
          document
            .querySelector<HTMLInputElement>('.shown.is-checked input')
            ?.closest('label')
            ?.innerText.includes(name),
        {},
        other.label,
      )
      expect((await heard()).fileId).toBe(other.fileId)
      expect(await lookedThrough()).not.toEqual(before.loudness)
      await who.page.waitForFunction(
        (old) => [...document.querySelectorAll<HTMLAudioElement>('.frame audio')].map((e) => e.src).join() !== old,
        {},
        source.join(),
      )
      expect(await playing()).toHaveLength(1)
      expect(who.errors).toEqual([])
    },
  )

  lengthy('only the drawn area is recorded', async () => {
    await room(who, 'ash')
    await who.click('switch', 'Camera')
    await who.page.waitForFunction(
      () => (document.querySelector('.stage video') as HTMLVideoElement | null)?.videoWidth === 640,
    )
    await who.click('button', 'Settings of Camera')
    await who.click('button', 'Drag an area')
    const picture = await (await who.page.waitForSelector('[aria-label="Live picture: Camera"]'))?.boundingBox()
    if (!picture) throw new Error('the camera is not to be seen')
    await who.page.mouse.move(picture.x + 0.25 * picture.width, picture.y + 0.25 * picture.height)
    await who.page.mouse.down()
    await who.page.mouse.move(picture.x + 0.75 * picture.width, picture.y + 0.75 * picture.height, { steps: 5 })
    await who.page.mouse.up()
    await who.page.waitForSelector('.stage .area')
    await who.click('button', 'Start recording')
    await who.click('button', 'Begin now')
    await who.recordFor(3)
    await who.page.waitForSelector('.stage .area')
    await who.click('button', 'Stop')
    expect(await keep()).toBeGreaterThan(2)
    const [take] = (
      await stored<{ lectureId: string; feeds: { width: number; height: number }[] }>(who.page, 'takes')
    ).filter((t) => t.lectureId === 'ash')
    const { width = 0, height = 0 } = take?.feeds[0] ?? {}
    expect(Math.abs(width - 320)).toBeLessThanOrEqual(4)
    expect(Math.abs(height - 240)).toBeLessThanOrEqual(4)
    expect(who.errors).toEqual([])
  })
})
