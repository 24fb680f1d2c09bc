/** A page may be left at any moment, also while its workers start, and the page that comes next lives. */
import { readdirSync } from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { leavePublishing, person, type Person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { say, times } from './server'
import { served } from '../served'

const origin = served.origin
const built = new URL('../../.output/public/_nuxt/', import.meta.url)
const workers = readdirSync(built).filter((name) => /worker.*\.js$/.test(name))
let who: Person

beforeAll(async () => {
  who = await person({ devices: false })
})
afterAll(async () => {
  await who.leave()
})

test('pages are left while their media workers start', async () => {
  const media = workers.find((name) => name.startsWith('worker-'))
  const rounds = times(100)
  for (let time = 0; time < rounds; time++) {
    await who.go(`${origin}/player/index.html?${time}`)
    // Over the whole time that a start takes, from the request to the first line that runs.
    await who.page.evaluate(
      async (url, ms) => {
        for (let one = 0; one < 3; one++) new Worker(url, { type: 'module' })
        await new Promise((resolve) => setTimeout(resolve, ms))
      },
      `/_nuxt/${media}`,
      (time * 10) % 400,
    )
  }
  await who.go(origin)
  await who.see('The term')
  expect(who.errors).toEqual([])
  say(`${rounds} pages left, none crashed`)
})

test('desks are left while their lecture is published', async () => {
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
  const rounds = times(100)
  await leavePublishing(who, `${origin}/lecture/drilling`, rounds)
  await who.see('Publish again')
  expect(who.errors).toEqual([])
  say(`${rounds} desks left while publishing, none crashed`)
})
