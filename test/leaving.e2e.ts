/** A page may be left at any moment, also while its workers start, and the page that comes next lives. */
import { readdirSync, readFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { lengthy } from './at-length'
import { leavePublishing, person, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { letPass } from './at-rest'
import { served } from './served'

const origin = served.origin
const built = new URL('../.output/public/_nuxt/', import.meta.url)
const workers = readdirSync(built).filter((name) => /worker.*\.js$/.test(name))
let who: Person

beforeAll(async () => {
  who = await person({ devices: false })
})
afterAll(async () => {
  await who.leave()
})

test('no worker asks for import.meta, which ends Chromium’s renderer when the page is left before the worker runs', () => {
  expect(workers.length).toBeGreaterThanOrEqual(2)
  for (const name of workers) expect(readFileSync(new URL(name, built), 'utf8')).not.toContain('import.meta')
})

lengthy('the desk is left while its lecture is published, and the page that comes next lives', async () => {
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
  await leavePublishing(who, `${origin}/lecture/drilling`, 12)
  await who.see('Publish again')
  expect(who.errors).toEqual([])
})

test('pages are left while their media workers start', async () => {
  const media = workers.find((name) => name.startsWith('worker-'))
  for (let time = 0; time < 4; time++) {
    await who.go(`${origin}/player/index.html?${time}`)
    // Over the whole time that a start takes, from the request to the first line that runs.
    await who.page.evaluate((url) => {
      for (let one = 0; one < 3; one++) new Worker(url, { type: 'module' })
    }, `/_nuxt/${media}`)
    await letPass(time / 10)
  }
  await who.go(origin)
  await who.see('The term')
  expect(who.errors).toEqual([])
})
