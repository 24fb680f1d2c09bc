/** Two tabs on one lecture, a draft that ends late, an outbox across a republish: nobody's words are lost. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Page } from 'puppeteer-core'
import { isAnswerEvent } from '../../core/schema/attempt'
import { person, sees, type Person } from '../person'
import { storedDocument } from '../stored'
import { pause, say, times, TrialServer, answer, commit, film, place, send } from './server'
import { served } from '../served'

const origin = served.origin
let who: Person
beforeAll(async () => {
  who = await person({ devices: false })
})
afterAll(() => who.leave())

const cues = async () => {
  const row = await storedDocument(who.page, 'crystals', 'captions')
  if (!row) throw new Error('there are no captions')
  return row
}

test('two tabs that write into the captions of one lecture keep all that either wrote', async () => {
  await who.go(`${origin}/`)
  await who.see('The term')
  const tabs: Page[] = [who.page, await who.browser.newPage()]
  for (const tab of tabs) {
    await tab.goto(`${origin}/lecture/crystals?step=captioned`)
    await tab.waitForSelector('.cues .cue')
  }
  const ids = (await cues()).document.cues.map((c) => c.id)
  const rounds = times(30)
  const wrote = new Set<string>()
  for (let round = 0; round < rounds; round++) {
    await Promise.all(
      tabs.map(async (tab, t) => {
        // Each writes into a cue of its own, now and then both into one.
        const id = ids[round % 5 === 4 ? 0 : (2 * round + t) % ids.length]
        const text = `tab ${t} round ${round}`
        wrote.add(text)
        await tab.bringToFront()
        await tab.evaluate(
          (cue, value) => {
            document.querySelector<HTMLElement>(`[data-cue="${cue}"] .words`)?.click()
            return new Promise<void>((resolve) =>
              setTimeout(() => {
                const field = document.querySelector<HTMLTextAreaElement>(`[data-cue="${cue}"] textarea`)
                if (!field) throw new Error('the cue does not open')
                field.value = value
                field.dispatchEvent(new Event('input', { bubbles: true }))
                field.dispatchEvent(new Event('change', { bubbles: true }))
                field.blur()
                resolve()
              }, 60),
            )
          },
          id ?? '',
          text,
        )
      }),
    )
    await pause(200)
    const { document: track, conflicts } = await cues()
    const there = JSON.stringify([track, conflicts])
    // What was written in this round stands, or is shown to be decided; what is written over later is the writer's own
    // wish.
    for (const t of [0, 1]) if (round % 5 !== 4) expect(there).toContain(`tab ${t} round ${round}`)
    if (round % 5 === 4) expect([0, 1].some((t) => there.includes(`tab ${t} round ${round}`))).toBe(true)
  }
  say(`${rounds} rounds in two tabs, ${wrote.size} texts`)
  expect(who.errors).toEqual([])
})

test('answers given offline across a republish that takes a question away arrive, all that can', async () => {
  const server = new TrialServer()
  try {
    await server.start()
    await commit(server, 'p', await send(server, film('p', 'first', 3)))
    await place(server, 'pl', 'p')
    const token = await server.student('pl', 's1')
    const { version } = (await server.ask('GET', '/api/watch/pl', undefined, token)).body as { version: string }
    const student = await who.browser.newPage()
    // The player of a student who has gone offline with three answers kept on the device.
    await student.goto(`${server.address}/player/index.html#place=pl&token=${token}`)
    await student.waitForSelector('.mark')
    const offline = ['q0', 'q1', 'q2'].map((q, i) => ({ ...answer(`off${i}`, q), version }))
    await student.evaluate(
      (events) => localStorage.setItem('thaw-answers:pl:s1', JSON.stringify(events)),
      [...offline, { ...answer('nonsense', 'q9'), version }],
    )
    const next = film('p', 'second', 2)
    await commit(server, 'p', await send(server, next))
    await student.reload()
    await student.waitForFunction(() => localStorage.getItem('thaw-answers:pl:s1') === null, { timeout: 30_000 })
    expect((await server.responses('pl')).events.map((e) => isAnswerEvent(e.event) && e.event.questionId)).toEqual([
      'q0',
      'q1',
      'q2',
    ])
    await sees(student, 'One answer could not be taken.')
    say('three answers arrived, one that no version asks was refused and said')
  } finally {
    await server.leave()
  }
})
