/** Recording through the browser's own devices, here Chromium's fake ones, and what is said when there are none. */
import { expect, inject, test } from 'vitest'
import { person } from './person'

const origin = inject('origin')

test('records a camera with the microphone and opens it on the desk', async () => {
  const who = await person()
  await who.go(`${origin}/record?lecture=avalanche`)
  await who.click('switch', 'Camera')
  await who.click('switch', 'Microphone')
  await who.page.waitForFunction(() => (document.querySelector('.pictures video') as HTMLVideoElement | null)?.videoWidth === 640)
  // The fake microphone beeps: the meter has to move.
  await who.page.waitForFunction(() => Number(document.querySelector('[role=meter]')?.getAttribute('aria-valuenow')) > -40)
  await who.click('button', 'Start recording')
  await who.recordFor(4)
  await who.click('button', 'Stop')
  await who.click('button', 'Keep it')
  await who.find('slider', 'Playhead', 60_000)
  await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
  expect(await who.page.$eval('.frame video', (v) => [(v as HTMLVideoElement).videoWidth, (v as HTMLVideoElement).videoHeight])).toEqual([640, 480])
  expect(who.errors).toEqual([])
  await who.leave()
})

test('records a screen; a recording that is discarded, asked twice, can be brought back', async () => {
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

test('says what to do when a device is refused or missing', async () => {
  const who = await person({ devices: false })
  await who.go(`${origin}/record?lecture=ash`)
  await who.click('switch', 'Camera')
  await who.page.waitForSelector('aside [role=alert]')
  expect(await who.page.$eval('aside [role=alert]', (e) => (e as HTMLElement).innerText)).toMatch(/refused the camera|No camera was found/)
  expect(await who.page.$eval('.el-switch.is-checked', () => true).catch(() => false)).toBe(false)
  expect(who.errors).toEqual([])
  await who.leave()
})
