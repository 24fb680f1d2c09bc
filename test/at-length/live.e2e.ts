/**
 * Watching live: announced before it begins, seen while it is recorded, paused, held up, over, and then the recording
 * at the same link.
 */
import type { Frame } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { atLength, lengthy } from '../at-length'
import { AUTHOR_KEY } from '../serve'
import { person, sees, type Person } from '../person'
import { stored } from '../stored'
import { violations } from '../violations'
import { letPass } from '../at-rest'
import { served } from '../served'

const origin = served.origin
const courseSite = served.courseSite
let author: Person
let student: Person
let page: Frame

beforeAll(async () => {
  author = await person()
  student = await person()
  await author.go(`${origin}/#key=${AUTHOR_KEY}`)
  await author.see('The term')
})
afterAll(async () => {
  await author.leave()
  await student.leave()
})

const says = (text: string, timeout?: number) => sees(page, text, timeout)
/** What the student sees and hears of it now. */
const seen = () =>
  page.$eval('video', (v) => {
    const { currentTime, videoWidth, videoHeight, paused } = v as HTMLVideoElement
    return {
      currentTime,
      videoWidth,
      videoHeight,
      paused,
      frames: (v as HTMLVideoElement).getVideoPlaybackQuality().totalVideoFrames,
    }
  })
/** Waits until the picture has moved on by so many seconds. */
async function plays(seconds: number): Promise<void> {
  const { currentTime } = await seen()
  await page.waitForFunction(
    (least) => Number(document.querySelector('video')?.currentTime) >= least,
    { timeout: 60_000, polling: 200 },
    currentTime + seconds,
  )
}
const heard = () =>
  page.$eval('video', async (v) => {
    // What the element plays, listened to beside it.
    const stream = (v as HTMLVideoElement & { captureStream(): MediaStream }).captureStream()
    const context = new AudioContext()
    await context.resume()
    const analyser = new AnalyserNode(context, { fftSize: 4096 })
    context.createMediaStreamSource(stream).connect(analyser)
    const samples = new Float32Array(analyser.fftSize)
    let loudest = 0
    for (const end = performance.now() + 4000; performance.now() < end;) {
      await new Promise((resolve) => requestAnimationFrame(resolve))
      analyser.getFloatTimeDomainData(samples)
      loudest = Math.max(loudest, ...samples)
    }
    await context.close()
    return loudest
  })

/** What the course page says, while the student stays in the player. */
const coursePage = () => student.page.evaluate(async (at) => (await fetch(at)).text(), `${courseSite}/courses/ps340`)

test('an announced lecture stands on the course page before it begins, and its page says when', async () => {
  await author.go(`${origin}/record?lecture=ash`)
  await author.find('region', 'Watching live')
  await author.click('button', 'Announce …')
  await author.click('button', 'Announce it')
  await author.see('It stands on the course page of PS 340')
  await author.see('announced for')
  await author.go(origin)
  await author.page.waitForFunction(() =>
    /live \w{3} \d+ \w{3}, \d\d:\d\d/.test(document.querySelector('a[href*="lecture=ash"]')?.textContent ?? ''),
  )
  await author.go(`${origin}/record?lecture=ash`)
  await author.see('announced for')

  await student.go(`${courseSite}/`)
  await student.page.select('#who', 's01')
  await student.click('button', 'Sign in')
  await student.see('My courses')
  await student.go(`${courseSite}/courses/ps340`)
  await student.see('live,')
  const title = await author.page.$eval('aside h1', (e) => e.textContent ?? '')
  await student.click('link', title)
  page = (await (await student.page.waitForSelector('iframe'))?.contentFrame())!
  await says('To be watched live on')
  await says('This page begins by itself.')
  expect([
    ...(await violations(page)),
    ...(await violations(student.page)),
    ...(await violations(author.page)),
  ]).toEqual([])
})

test('students see and hear it while it is recorded, and the lecturer sees how many watch', async () => {
  await author.click('switch', 'Lecture hall')
  await author.find('meter', 'Sound level of Lectern microphone')
  await author.click('button', 'Start recording')
  await author.click('button', 'Begin now')
  await author.recordFor(6)
  await page.waitForFunction(() => Number(document.querySelector('video')?.videoWidth) > 0, { timeout: 60_000 })
  await plays(5)
  expect(await seen()).toMatchObject({ videoWidth: 1280, videoHeight: 720, paused: false })
  expect((await seen()).frames).toBeGreaterThan(30)
  expect(await heard()).toBeGreaterThan(0.02)
  await says('Live')
  // The playlist's time begins with the first segment, a second or so into the take.
  const taken = Number(await author.page.$eval('[role=timer]', (e) => (e as HTMLElement).dataset.seconds))
  const late = taken - (await seen()).currentTime
  console.info(`seen ${late.toFixed(1)} s after it was recorded, at most`)
  expect(late).toBeLessThan(15)
  await author.see('1 student watches')
  await expect.poll(coursePage).toContain('live now')
  expect(await violations(page)).toEqual([])
})

lengthy('another picture is shown when the lecturer chooses it', async () => {
  await author.choose('Students see', 'Hall camera')
  await page.waitForFunction(() => document.querySelector('video')?.videoWidth === 640, { timeout: 60_000 })
  await plays(3)
})

lengthy('what is said in a pause is not sent, and it goes on by itself', async () => {
  await author.click('button', 'Pause')
  await says('The lecturer has paused.')
  const { playlist: before } = await live()
  await letPass(5)
  expect((await live()).playlist).toBe(before)
  await author.click('button', 'Go on')
  await page.waitForFunction(() => !document.body.innerText.includes('The lecturer has paused.'), { polling: 200 })
  await plays(4)
})

/** The playlist as the student's browser gets it. */
const live = async () => ({
  playlist: await page.evaluate(async () =>
    (
      await fetch(performance.getEntriesByType('resource').findLast((e) => e.name.endsWith('index.m3u8'))?.name ?? '')
    ).text(),
  ),
})

lengthy(
  'a connection that is gone for a while costs the recording nothing, and students see on afterwards',
  async () => {
    const sessions = new Map(
      await Promise.all([author, student].map(async (who) => [who, await who.page.createCDPSession()] as const)),
    )
    const cut = async (offline: boolean, who = author) => {
      await sessions.get(who)?.send('Network.enable')
      await sessions.get(who)?.send('Network.emulateNetworkConditions', {
        offline,
        latency: 0,
        downloadThroughput: -1,
        uploadThroughput: -1,
      })
    }
    await cut(true)
    await author.see('The server does not answer. The recording goes on')
    await says('Nothing comes from the lecture at present.', 60_000)
    await cut(false)
    await page.waitForFunction(() => !document.body.innerText.includes('Nothing comes'), {
      timeout: 60_000,
      polling: 200,
    })
    await plays(4)
    await author.page.waitForFunction(() => !document.body.innerText.includes('The server does not answer.'))
    await author.notSee('stopped:')
    // The student's own connection.
    await cut(true, student)
    await says('There is no connection to the lecture. It goes on here by itself', 60_000)
    await cut(false, student)
    await page.waitForFunction(() => !document.body.innerText.includes('There is no connection'), {
      timeout: 60_000,
      polling: 200,
    })
    await plays(3)
  },
)

const over = 'The lecture is over. If its recording is published, it will be here.'

test('when it is over that is said', async () => {
  await author.click('button', 'Stop')
  await says(over)
  await expect.poll(coursePage).toContain('was live on')
  await author.click('button', 'Keep it')
  await author.find('slider', 'Playhead', 60_000)
})

lengthy('a further take is seen again', async () => {
  await author.go(`${origin}/record?lecture=ash`)
  await author.click('switch', 'Lecture hall')
  await author.find('meter', 'Sound level of Lectern microphone')
  await author.click('button', 'Start recording')
  await page.waitForFunction((t) => !document.body.innerText.includes(t), { timeout: 60_000, polling: 200 }, over)
  await plays(3)
  await author.click('button', 'Stop')
  await says(over)
  await author.click('button', 'Keep it')
  await author.find('slider', 'Playhead', 60_000)
})

test('the recording is at the same link once it is published', async () => {
  // What was recorded is made whole first.
  const takes = async () =>
    (await stored<{ lectureId: string; state: string }>(author.page, 'takes')).filter((t) => t.lectureId === 'ash')
  const states = async () => (await takes()).map((t) => t.state)
  await expect.poll(states, { timeout: 60_000 }).toEqual(atLength ? ['whole', 'whole'] : ['whole'])
  await author.go(`${origin}/lecture/ash?step=released`)
  await author.find('slider', 'Playhead', 60_000)
  const length = Number(
    /of (\d+):([\d.]+)/
      .exec(await author.page.$eval('.times', (e) => (e as HTMLElement).innerText))
      ?.slice(1)
      .reduce((s, x) => `${60 * Number(s) + Number(x)}`),
  )
  // Everything is in it, also what students could not see; what was paused is folded away.
  expect(length).toBeGreaterThan(atLength ? 35 : 15)
  await author.click('button', 'Publish')
  await page.waitForSelector('input[aria-label=Position]', { timeout: 120_000 })
  expect(
    Math.abs(Number(await page.$eval('input[aria-label=Position]', (e) => (e as HTMLInputElement).max)) - length),
  ).toBeLessThan(1)
  // Students have it a moment before the author's page has noted that they do.
  await author.see('What students get is what stands here.')
  // It is announced no longer.
  await student.go(`${courseSite}/courses/ps340`)
  await student.notSee('was live on')
  await author.go(`${origin}/record?lecture=ash`)
  await author.find('button', 'Start recording')
  await author.notSee('Students watch live')
  expect([...author.errors, ...student.errors]).toEqual([])
})

test('what students could not play is told to the lecturer at once', async () => {
  await author.go(`${origin}/record?lecture=avalanche`)
  await author.click('button', 'Announce …')
  await author.click('button', 'Announce it')
  await author.see('announced for')
  // As a browser that refuses what is in it.
  await author.page.evaluate(() => {
    SourceBuffer.prototype.appendBuffer = () => {
      throw new Error('this sound is not understood')
    }
  })
  await author.click('switch', 'Lecture hall')
  await author.find('meter', 'Sound level of Lectern microphone')
  await author.click('button', 'Start recording')
  await author.click('button', 'Begin now')
  await author.see('Students cannot play what goes out: this sound is not understood.')
  await author.click('button', 'Stop')
  await author.click('button', 'Discard and start over')
  await author.click('button', 'Discard it')
  await author.find('button', 'Start recording')
})

test('an announcement can be taken back', async () => {
  await author.go(`${origin}/record?lecture=avalanche`)
  await author.see('announced for')
  await student.go(`${courseSite}/courses/ps115`)
  // It was held and discarded: it is not announced as if it were to come.
  await student.see('was live on')
  await author.click('button', 'Change …')
  await author.click('button', 'Take it back')
  await author.see('not announced')
  await student.page.reload()
  await student.notSee('was live on')
})
