/** Without a mouse, and for those who do not see the screen: the way by keyboard alone, and axe on every main view. */
import type { Frame } from 'puppeteer-core'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { lengthy } from './at-length'
import { AUTHOR_KEY } from './serve'
import { person, press as pressIn, sees, type Person } from './person'
import { violations } from './violations'
import { served } from './served'

const origin = served.origin
const courseSite = served.courseSite
let who: Person

beforeAll(async () => {
  who = await person()
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
})
afterAll(() => who.leave())

/** Signs a student in and opens a lecture; gives the player's frame. */
async function openAsStudent(place: string, student: string): Promise<Frame> {
  await who.go(`${courseSite}/`)
  if (await who.page.$('#who')) {
    await who.page.select('#who', student)
    await who.click('button', 'Sign in')
    await who.see('My courses')
  }
  await who.go(`${courseSite}/courses/ps201/items/${place}`)
  const frame = await (await who.page.waitForSelector('iframe'))?.contentFrame()
  if (!frame) throw new Error('no player')
  await frame.waitForSelector('video')
  return frame
}

describe('axe finds nothing serious on', () => {
  test.each([
    ['the term', '/', 'The term'],
    ['the recording room', '/record?lecture=meltwater', 'Nothing is switched on yet.'],
    ['tidying', '/lecture/glacier?step=tidied', 'Take out'],
    ['captions', '/lecture/glacier?step=captioned', 'Students see these captions'],
    ['questions', '/lecture/glacier?step=asked', 'Ask at the playhead'],
    ['releasing', '/lecture/glacier?step=released', 'What goes out'],
    ['results', '/lecture/glacier/results', 'Who may need a word'],
    ['marking', '/lecture/glacier/marking', 'What a good answer says'],
    ['a student', '/lecture/glacier/results/student?who=s04', 'What was watched'],
    ['finishes', '/finishes', 'None yet.'],
    ['the course site', `${courseSite}/`, 'Sign in'],
  ])('%s', async (_, path, sign) => {
    await who.go(new URL(path, origin).href)
    await who.see(sign)
    expect(await violations(who.page)).toEqual([])
  })
  test('the new lecture’s dialog', async () => {
    await who.go(origin)
    await who.click('button', 'New lecture in PS 201, week 4')
    await who.see('Bring in a file')
    expect(await violations(who.page)).toEqual([])
  })
  test('the transcript, with words chosen and struck', async () => {
    await who.go(`${origin}/lecture/glacier?step=tidied`)
    await who.click('tab', 'Transcript')
    await (await who.find('listbox', 'Transcript')).focus()
    for (const key of ['Home', 'ArrowRight', 'Delete', 'ArrowRight'] as const) await who.page.keyboard.press(key)
    await who.find('option', 'morning., struck')
    await who.type('Find in the transcript', 'ice')
    await who.see('2 found')
    expect(await violations(who.page)).toEqual([])
    await (await who.find('listbox', 'Transcript')).focus()
    for (const key of ['ArrowLeft', 'Backspace'] as const) await who.page.keyboard.press(key)
    await who.page.waitForFunction(() => document.querySelector('.word.struck') === null)
  })
  lengthy('the settings of a course, a further track, all times, problems, and a script', async () => {
    await who.go(origin)
    await who.click('button', 'Settings of PS 115')
    await who.see('Checked captions go on by themselves')
    expect(await violations(who.page)).toEqual([])
    await who.go(`${origin}/lecture/drilling?step=captioned`)
    await who.page.waitForSelector('.cues .words', { timeout: 60_000 })
    await who.click('button', 'Another track')
    await who.pick('More', 'Shift or stretch times')
    await who.page.click('.problems summary')
    await who.page.click('.cues .words')
    expect(await violations(who.page)).toEqual([])
    await who.pick('More', 'From a script')
    await who.type('Script', 'Ice keeps what fell on it, and nobody ever said this here.')
    await who.click('button', 'Lay it along what is said')
    await who.see('are found in what is said')
    expect(await violations(who.page)).toEqual([])
    expect(who.errors).toEqual([])
  })
  lengthy('what is put in, laid over, laid out and marked', { timeout: 120_000 }, async () => {
    await who.go(`${origin}/lecture/balance?step=tidied`)
    await who.page.waitForSelector('.lane.sound canvas', { timeout: 60_000 })
    for (const [tab, button] of [
      ['Put in', 'Title card'],
      ['Lay over', 'Text'],
      ['Lay over', 'Draw'],
      ['Layout', 'Change from the playhead on'],
      ['Layout', 'Place them by hand'],
      ['Chapters', 'Chapter at the playhead'],
      ['Links', 'Link card at the playhead'],
    ] as const) {
      await who.click('tab', tab)
      await who.click('button', button)
      expect(await violations(who.page), `${tab}: ${button}`).toEqual([])
    }
    await who.click('button', 'Lanes')
    // It begins to appear only now: at rest before that is nothing.
    await who.find('checkbox', 'Questions')
    expect(await violations(who.page), 'the choice of lanes').toEqual([])
    expect(who.errors).toEqual([])
  })
  lengthy('a finish, lectures that are picked, and what putting it on them says', async () => {
    await who.go(`${origin}/finishes`)
    await who.click('button', 'New finish')
    await who.find('textbox', 'Name of the finish')
    expect(await violations(who.page)).toEqual([])
    await who.go(origin)
    await who.click('button', 'Pick several')
    // By keyboard, as by mouse.
    await (await who.page.waitForSelector('a.card[role=checkbox]'))?.focus()
    await who.page.keyboard.press('Space')
    await who.see('1 lecture is picked.')
    await who.page.keyboard.press('Enter')
    await who.see('Press the lectures that you mean.')
    await who.click('button', 'All that are recorded')
    expect(await violations(who.page)).toEqual([])
    await who.click('button', 'None')
    await (
      await who.page.waitForSelector('::-p-xpath(//a[@role="checkbox"][.//span[text()="Oxygen isotopes"]])')
    )?.click()
    await who.click('button', 'Put on a finish …')
    await who.click('button', 'Put it on')
    await who.see('needs a look', 60_000)
    expect(await violations(who.page)).toEqual([])
    expect(who.errors).toEqual([])
  })
  test('the revisions, with what differs', async () => {
    await who.go(`${origin}/lecture/glacier?step=tidied`)
    await who.click('button', 'Revisions')
    await who.type('Name', 'as it is')
    await who.click('button', 'Keep')
    await who.click('button', 'What differs from as it is')
    await who.see('Nothing was changed since.')
    expect(await violations(who.page)).toEqual([])
  })
  test('the particulars', async () => {
    await who.go(`${origin}/lecture/glacier`)
    await who.click('button', 'Particulars')
    await who.find('combobox', 'Folder')
    expect(await violations(who.page)).toEqual([])
  })
  test('the player, also while it asks', async () => {
    const frame = await openAsStudent('place-glacier', 's01')
    await frame.waitForSelector('.transcript li')
    expect(await violations(frame)).toEqual([])
    await (await frame.waitForSelector('.mark'))?.click()
    await frame.waitForSelector('[role=dialog]')
    expect(await violations(frame)).toEqual([])
    expect(await violations(who.page)).toEqual([])
  })
})

/** Presses Tab until what has the focus is called `name`, as a person does. */
async function tabTo(name: string | RegExp, most = 260): Promise<void> {
  const focused = async () => {
    const frame = who.page.frames().find((f) => f.url().includes('/player/'))
    const target =
      (await who.page.evaluate(() => document.activeElement?.tagName)) === 'IFRAME' && frame ? frame : who.page
    return target.evaluate(() => {
      const e = document.activeElement
      const id = e?.id
      return (
        e?.getAttribute('aria-label') ??
        (id ? document.querySelector(`label[for="${id}"]`)?.textContent : null) ??
        e?.closest('label')?.textContent ??
        e?.textContent ??
        ''
      )
        .replace(/\s+/g, ' ')
        .trim()
    })
  }
  const passed: string[] = []
  for (let i = 0; i < most; i++) {
    await who.page.keyboard.press('Tab')
    const now = await focused()
    if (typeof name === 'string' ? now === name : name.test(now)) return
    passed.push(now.slice(0, 30))
  }
  throw new Error(`Tab never reached ${String(name)}; it passed ${[...new Set(passed)].join(' · ')}`)
}
const press = async (...keys: string[]) => {
  for (const key of keys) await who.page.keyboard.press(key as 'Enter')
}
async function chord(...keys: string[]): Promise<void> {
  for (const key of keys.slice(0, -1)) await who.page.keyboard.down(key as 'Control')
  await who.page.keyboard.press(keys.at(-1) as 'z')
  for (const key of keys.slice(0, -1).reverse()) await who.page.keyboard.up(key as 'Control')
}

test('the way can be gone by keyboard alone, from the cut to the answer', async () => {
  await who.go(origin)
  await who.see('Layers and weak layers')
  await tabTo(/^\S*Layers and weak layers|Layers and weak layers/)
  await press('Enter')
  await who.find('slider', 'Playhead', 60_000)

  // Tidy: mark with I and O, take out with Delete, undo and redo, then move an edge of the seam.
  await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
  await press('ArrowRight', 'ArrowRight', 'i', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'o', 'Delete')
  await who.see('Took out 0:02.0 – 0:05.0')
  await chord('Control', 'z')
  await who.see('Nothing is taken out.')
  await chord('Control', 'Shift', 'Z')
  await who.see('3 s taken out')
  await tabTo(/^Removed part of 3 s/)
  await press('Enter')
  await tabTo('End of the removed part')
  await chord('Shift', 'ArrowRight')
  await who.see('4 s taken out')

  // Ask, with the key for it, and write the question.
  await who.page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur())
  await press('ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'q')
  await tabTo('Question')
  await who.page.keyboard.type('What grows on clear nights?')
  await tabTo('Choice 1')
  await who.page.keyboard.type('Surface hoar')
  await tabTo('Choice 2')
  await who.page.keyboard.type('Rain')
  await tabTo('Remove choice 3')
  await press('Enter')
  await who.page.waitForFunction(() => document.querySelectorAll('.choice').length === 3)
  await who.page.evaluate(() => document.querySelector<HTMLElement>('[aria-label="Choice 2"]')?.focus())
  await tabTo('Remove choice 3')
  await press('Enter')
  await who.see('Complete. Saved as you write.')

  // Release.
  await who.page.evaluate(() => document.querySelector<HTMLElement>('#content')?.focus())
  await tabTo('Release: Not on a course page yet')
  await press('Enter')
  await who.see('What goes out')
  await tabTo('Publish')
  await press('Enter')
  await who.see('What students get is what stands here.', 180_000)

  // Watch and answer, as a student of that course.
  await who.go(`${courseSite}/`)
  await who.page.evaluate(() => document.querySelector<HTMLFormElement>('form[action$="sign-out"]')?.submit())
  await who.see('Sign in')
  await tabTo(/Student|Aino/)
  await press('ArrowDown', 'ArrowDown')
  await tabTo('Sign in')
  await press('Enter')
  await who.see('My courses')
  await tabTo('PS 115 Reading Snow')
  await press('Enter')
  await who.see('Layers and weak layers')
  await tabTo('Layers and weak layers')
  await press('Enter')
  const frame = await (await who.page.waitForSelector('iframe'))?.contentFrame()
  await frame?.waitForSelector('video')
  await tabTo('Play')
  await press('Enter')
  await frame?.waitForSelector('[role=dialog]', { timeout: 60_000 })
  await tabTo(/Surface hoar/)
  await press('Space')
  await tabTo('Hand in answer')
  await press('Enter')
  await sees(frame!, 'Right – 1 of 1.')
  await tabTo('Go on watching')
  await press('Enter')
  await frame?.waitForFunction(() => !document.querySelector('video')?.paused)
  expect(who.errors).toEqual([])
})

test('an answer outlives a lost connection and a closed tab', async () => {
  const frame = await openAsStudent('place-balance', 's03')
  await frame.waitForSelector('.mark')
  const mark = await frame.$eval('.mark', (m) => m.getAttribute('aria-label') ?? '')
  // Seeded answers are the demo's; this student has to be one without.
  const fresh = mark.includes('not answered') ? frame : await openFresh()
  // The film comes first, then what asks the questions.
  await fresh.waitForFunction(() => {
    const fetched = performance.getEntriesByType('resource').map(({ name }) => name)
    const wanted = [...document.querySelectorAll<HTMLLinkElement>('link[rel=modulepreload]')].map((link) => link.href)
    return (
      fetched.some((name) => /\/QuestionSheet-.*\.js$/.test(name)) && wanted.every((name) => fetched.includes(name))
    )
  })
  await network(false)
  await (await fresh.waitForSelector('.mark'))?.click()
  await (await fresh.waitForSelector('[role=dialog] input[type=radio]'))?.click()
  await pressIn(fresh, 'button', 'Hand in answer')
  await sees(fresh, 'Your answer is kept on this device')
  await who.page.goto('about:blank')
  await network(true)
  const again = await openFreshAgain()
  await again.waitForFunction(
    () => document.querySelector('.mark')?.getAttribute('aria-label')?.includes(', answered'),
    { timeout: 30_000 },
  )
  await again.waitForFunction(() => Object.keys(localStorage).every((k) => !k.startsWith('thaw-answers:')))
})

const network = (connected: boolean) =>
  who.page.emulateNetworkConditions(connected ? null : { offline: true, download: -1, upload: -1, latency: 0 })

let freshStudent = ''
/** Signs in as students of the course until one has not answered yet. */
async function openFresh(): Promise<Frame> {
  for (let i = 4; i <= 24; i++) {
    await who.go(`${courseSite}/`)
    await who.page.evaluate(() => document.querySelector<HTMLFormElement>('form[action$="sign-out"]')?.submit())
    await who.see('Sign in')
    freshStudent = `s${String(i).padStart(2, '0')}`
    const frame = await openAsStudent('place-balance', freshStudent)
    await frame.waitForSelector('.mark')
    if ((await frame.$eval('.mark', (m) => m.getAttribute('aria-label') ?? '')).includes('not answered')) return frame
  }
  throw new Error('every student has answered')
}
const openFreshAgain = () => openAsStudent('place-balance', freshStudent)

test('without a key nothing is asked that is refused, and no page complains on its console', async () => {
  const visitor = await person()
  try {
    const said: string[] = []
    visitor.page.on('console', (m) => m.type() === 'error' && said.push(`${visitor.page.url()}: ${m.text()}`))
    await visitor.go(origin)
    await visitor.see('The term')
    for (const [path, sign] of [
      ['/', 'The term'],
      ['/record?lecture=meltwater', 'Nothing is switched on yet.'],
      ['/lecture/glacier?step=tidied', 'Take out'],
      ['/lecture/glacier?step=captioned', 'Students see these captions'],
      ['/lecture/glacier?step=asked', 'Ask at the playhead'],
      ['/lecture/glacier?step=released', 'What goes out'],
      ['/lecture/glacier/results', 'Nothing has been fetched yet.'],
      ['/lecture/glacier/marking', 'Marking'],
      ['/finishes', 'None yet.'],
      ['/orders/ps201', 'PS 201'],
      ['/words/ps201', 'PS 201'],
      ['/courses', 'Courses'],
      ['/activity', 'Activity log'],
    ] as const) {
      await visitor.go(`${origin}${path}`)
      await visitor.see(sign)
      // Films go on being fetched: what is asked after all that the page asked is answered after it.
      await visitor.page.evaluate(async () => (await fetch('/api/author/session')).status)
    }
    expect(said).toEqual([])
  } finally {
    await visitor.leave()
  }
})
