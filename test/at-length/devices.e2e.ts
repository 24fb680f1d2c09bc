/** Recording through the browser's own devices, here Chromium's fake ones, and what is said when there are none. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, onTestFinished, test } from 'vitest'
import { lengthy } from '../at-length'
import { person } from '../person'
import { stored, storedFile } from '../stored'
import { served } from '../served'

const origin = served.origin

test('records a camera with the microphone and opens it on the desk', async () => {
  const who = await person()
  await who.go(`${origin}/record?lecture=avalanche`)
  await who.click('switch', 'Camera')
  await who.click('switch', 'Microphone')
  await who.page.waitForFunction(
    () => (document.querySelector('.pictures video') as HTMLVideoElement | null)?.videoWidth === 640,
  )
  // The fake microphone beeps: the meter has to move.
  await who.page.waitForFunction(
    () => Number(document.querySelector('[role=meter]')?.getAttribute('aria-valuenow')) > -40,
  )
  await who.click('button', 'Start recording')
  await who.recordFor(4)
  await who.click('button', 'Stop')
  await who.click('button', 'Keep it')
  await who.find('slider', 'Playhead', 60_000)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  expect(
    await who.page.$eval('.frame video', (v) => [
      (v as HTMLVideoElement).videoWidth,
      (v as HTMLVideoElement).videoHeight,
    ]),
  ).toEqual([640, 480])
  expect(who.errors).toEqual([])
  await who.leave()
})

lengthy('records a screen; a recording that is discarded, asked twice, can be brought back', async () => {
  const who = await person()
  await who.go(`${origin}/record?lecture=ash`)
  await who.click('switch', 'Screen')
  await who.see('No sound is switched on.')
  await who.click('button', 'Start recording')
  await who.recordFor(3)
  await who.click('button', 'Stop')
  await who.click('button', 'Discard and start over')
  await who.click('button', 'Discard it')
  await who.find('button', 'Start recording')
  // For a day it can be brought back.
  await who.click('button', 'Bring it back')
  await who.find('slider', 'Playhead', 60_000)
  expect(who.errors).toEqual([])
  await who.leave()
})

lengthy(
  'records a microphone of one channel and another rate at its pitch, and as much louder as its gain says, from when it is changed',
  async () => {
    const who = await person()
    onTestFinished(() => who.leave())
    await who.page.evaluateOnNewDocument(() => {
      navigator.mediaDevices.getUserMedia = async () => {
        const context = new AudioContext({ sampleRate: 44_100 })
        const tone = new OscillatorNode(context, { frequency: 1000 })
        const out = new MediaStreamAudioDestinationNode(context, { channelCount: 1 })
        tone.connect(new GainNode(context, { gain: 0.1 })).connect(out)
        tone.start()
        await context.resume()
        return out.stream
      }
    })
    await who.go(`${origin}/record?lecture=avalanche`)
    await who.click('switch', 'Microphone')
    await who.find('meter', 'Sound level of Microphone')
    await who.click('button', 'Start recording')
    await who.recordFor(4)
    await (await who.find('slider', 'Gain of Microphone')).focus()
    await who.page.keyboard.press('End')
    await who.recordFor(8)
    await who.click('button', 'Stop')
    await who.click('button', 'Keep it')
    await who.find('slider', 'Playhead', 60_000)

    const feed = (
      await stored<{ lectureId: string; feeds: { fileId: string; offset: number; duration: number }[] }>(
        who.page,
        'takes',
      )
    ).find((t) => t.lectureId === 'avalanche')?.feeds[0]
    const folder = mkdtempSync(join(tmpdir(), 'thaw-tone-'))
    onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
    const file = join(folder, 'tone.mp4')
    writeFileSync(file, await storedFile(who.page, feed?.fileId ?? ''))
    const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'f32le', '-ar', '48000', '-'], {
      maxBuffer: 1 << 28,
    })
    const both = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length))
    const side = (c: number) => both.filter((_, i) => i % 2 === c)
    const [left, right] = [side(0), side(1)]
    expect(left.length / 48_000).toBeCloseTo(feed?.duration ?? NaN, 1)
    // To the end of what was recorded: the page's own tone comes a moment after the clock began.
    expect((feed?.offset ?? 0) + left.length / 48_000).toBeGreaterThan(7.8)
    /**
     * A second of it: how loud it is (root mean square), and its pitch, Hz, by the median swing: where the page's own
     * tone falters on a busy machine, a swing is long, and the rest is not.
     */
    const second = (samples: Float32Array, from: number) => {
      const part = samples.subarray(from * 48_000, (from + 1) * 48_000)
      const rising = [...part.keys()].filter((i) => i > 0 && (part[i] ?? 0) >= 0 && (part[i - 1] ?? 0) < 0)
      const swings = rising
        .slice(1)
        .map((at, i) => at - (rising[i] ?? 0))
        .sort((a, b) => a - b)
      return {
        rms: Math.sqrt(part.reduce((sum, s) => sum + s * s, 0) / part.length),
        pitch: 48_000 / (swings[swings.length >> 1] ?? NaN),
      }
    }
    const [soft, loud] = [second(left, 2), second(left, 6)]
    expect(soft.rms).toBeCloseTo(0.1 / Math.SQRT2, 2)
    expect(20 * Math.log10(loud.rms / soft.rms)).toBeCloseTo(20 * Math.log10(4), 0)
    for (const { pitch } of [soft, loud]) expect(pitch).toBe(1000)
    expect(second(right, 6).rms).toBeCloseTo(loud.rms, 2)
    expect(who.errors).toEqual([])
  },
)

test('says what to do when a device is refused or missing', async () => {
  const who = await person({ devices: false })
  await who.go(`${origin}/record?lecture=ash`)
  await who.click('switch', 'Camera')
  await who.page.waitForSelector('aside [role=alert]')
  expect(await who.page.$eval('aside [role=alert]', (e) => (e as HTMLElement).innerText)).toMatch(
    /refused the camera|No camera was found/,
  )
  expect(await who.page.$eval('.el-switch.is-checked', () => true).catch(() => false)).toBe(false)
  expect(who.errors).toEqual([])
  await who.leave()
})

test('says what to do about a device that does not come, and is ready for the next try', async () => {
  const who = await person()
  onTestFinished(() => who.leave())
  // What the browser answers first on each visit; the next time it gives the camera.
  await who.page.evaluateOnNewDocument(() => {
    const real = navigator.mediaDevices.getUserMedia.bind(navigator.mediaDevices)
    let refusal = new URL(location.href).searchParams.get('refusal')
    navigator.mediaDevices.getUserMedia = (wanted) => {
      if (!refusal) return real(wanted)
      const error = new DOMException('no', refusal)
      refusal = null
      return Promise.reject(error)
    }
  })
  for (const [refusal, says] of [
    ['NotReadableError', 'Another program is using the camera'],
    ['NotAllowedError', 'You or the browser refused the camera. Allow it in the address bar'],
    ['OverconstrainedError', 'The device chosen for the camera is not there any more.'],
    ['NotFoundError', 'No camera was found. Plug it in'],
  ] as const) {
    await who.go(`${origin}/record?lecture=ash&refusal=${refusal}`)
    await who.click('switch', 'Camera')
    await who.see(says)
    await who.see('Nothing is switched on yet.')
    await who.click('switch', 'Camera')
    await who.page.waitForSelector('[aria-label="Live picture: Camera"]')
    await who.notSee(says)
  }
  expect(who.errors).toEqual([])
})

lengthy('a share that is ended from the browser’s own bar is said, and camera and microphone go on', async () => {
  const who = await person()
  onTestFinished(() => who.leave())
  await who.go(`${origin}/record?lecture=ash`)
  for (const name of ['Screen', 'Camera', 'Microphone']) await who.click('switch', name)
  await who.find('meter', 'Sound level of Microphone')
  await who.click('button', 'Start recording')
  await who.click('button', 'Begin now')
  await who.recordFor(3)
  await who.unplug('Screen')
  await who.see('Screen: sharing was ended from the browser’s own bar.')
  await who.recordFor(8)
  await who.click('button', 'Stop')
  await who.click('button', 'Keep it')
  await who.find('slider', 'Playhead', 60_000)
  const feeds =
    (await stored<{ lectureId: string; feeds: { kind: string; duration: number }[] }>(who.page, 'takes')).find(
      (t) => t.lectureId === 'ash',
    )?.feeds ?? []
  const length = (kind: string) => feeds.find((f) => f.kind === kind)?.duration ?? NaN
  // Its last picture stands to the end.
  expect(length('screen')).toBeGreaterThan(1.5)
  expect(length('screen')).toBeLessThan(length('camera') + 0.5)
  expect(length('camera')).toBeGreaterThan(7)
  expect(length('sound')).toBeGreaterThan(7)
  expect(who.errors).toEqual([])
})
