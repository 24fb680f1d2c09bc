/** One's own work and the demo: each by itself, gone to, left and removed whole; and what an earlier version kept. */
import { afterAll, beforeAll, expect, test } from 'vitest'
import { person, sees, type Person } from './person'
import { AUTHOR_KEY } from './serve'
import { violations } from './violations'
import { served } from './served'

const origin = served.origin
let who: Person
beforeAll(async () => {
  who = await person({ devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await who.see('The term')
})
afterAll(() => who.leave())

const MENU = {
  own: 'My lectures',
  demo: 'Norrhaven Polar College demo',
}
const databases = () => who.page.evaluate(async () => (await indexedDB.databases()).map((d) => d.name).sort())

test('what an earlier version kept is carried over: the demo as the demo', async () => {
  // As that version had it: one database for both, whose courses said when they begin.
  await who.go(`${origin}/api/about`)
  const lectures = await who.page.evaluate(async () => {
    const asked = <T>(request: IDBRequest<T>) =>
      new Promise<T>((resolve, reject) => {
        request.onsuccess = () => resolve(request.result)
        request.onerror = () => reject(request.error as Error)
      })
    const now = await asked(indexedDB.open('thaw-demo'))
    const names = [...now.objectStoreNames].filter((n) => n !== 'terms')
    const opening = indexedDB.open('thaw', 220)
    opening.onupgradeneeded = () => {
      for (const name of names) {
        const { keyPath, indexNames, ...store } = now.transaction(name).objectStore(name)
        const made = opening.result.createObjectStore(name, { keyPath, autoIncrement: store.autoIncrement })
        for (const index of indexNames) {
          const { keyPath: path, multiEntry, unique } = now.transaction(name).objectStore(name).index(index)
          if (index !== 'termId') made.createIndex(index, path, { multiEntry, unique })
        }
      }
    }
    const earlier = await asked(opening)
    for (const name of names) {
      const rows = (await asked(now.transaction(name).objectStore(name).getAll())) as Record<string, unknown>[]
      const keys = await asked(now.transaction(name).objectStore(name).getAllKeys())
      const writing = earlier.transaction(name, 'readwrite').objectStore(name)
      rows.forEach((row, i) => {
        if (row.key === 'college' || row.key === 'term') return
        const { termId, meetings: _, ...course } = row
        writing.put(
          termId ? { ...course, startsOn: '2026-10-26', weeks: 8 } : row,
          writing.keyPath === null ? keys[i] : undefined,
        )
      })
    }
    const count = await asked(now.transaction('lectures').objectStore('lectures').count())
    now.close()
    earlier.close()
    await asked(indexedDB.deleteDatabase('thaw-demo'))
    localStorage.clear()
    sessionStorage.clear()
    return count
  })
  await who.go(origin)
  await who.see('The term')
  await who.see('Term from 26 October 2026')
  await who.page.waitForFunction((n) => document.querySelectorAll('.card').length === n, {}, lectures)
  expect(await databases()).toContain('thaw')
  expect(await databases()).not.toContain('thaw-demo')
  await who.page.waitForFunction(() => document.querySelectorAll('.still[style]').length >= 7)
})

test('one goes to one’s own lectures and back, and neither has anything of the other', async () => {
  await who.pick(MENU.demo, 'Go to my own lectures')
  await who.see('Begin with your term')
  await who.notSee('PS 201')
  await who.click('button', 'New lecture')
  await who.type('Title', 'Only mine')
  await who.click('button', 'Record Camera, screen or the hall')
  await who.see('Goes to no course yet')
  await who.go(origin)
  await who.see('Only mine')
  await who.pick(MENU.own, 'Look around the demo')
  await who.see('What a glacier is')
  await who.notSee('Only mine')
})

test('two tabs may each have another one open', async () => {
  const other = await who.browser.newPage()
  await other.goto(origin)
  await sees(other, 'What a glacier is')
  await (await other.waitForSelector('header .library'))?.click()
  await (await other.waitForSelector('::-p-text(Go to my own lectures)'))?.click()
  await sees(other, 'Only mine')
  await other.close()
  await who.page.reload()
  await who.see('What a glacier is')
})

test('the college is named, and a colour that cannot be read is refused', async () => {
  await who.pick(MENU.demo, 'College name, logo and colour …')
  await who.type('Name', 'Lakeside College')
  const colour = (value: string) =>
    who.page.$eval(
      '#college-accent',
      (input, v) => {
        ;(input as HTMLInputElement).value = v
        input.dispatchEvent(new Event('input', { bubbles: true }))
      },
      value,
    )
  await colour('#ffcc00')
  await who.see('This colour is too light')
  expect(await who.page.$eval('.el-dialog__footer .el-button--primary', (b) => (b as HTMLButtonElement).disabled)).toBe(
    true,
  )
  await colour('#224466')
  await who.notSee('This colour is too light')
  expect(await violations(who.page)).toEqual([])
  await who.click('button', 'Save')
  await who.see('Lakeside College')
  await expect
    .poll(() => who.page.$eval('html', (e) => getComputedStyle(e).getPropertyValue('--tarn').trim()))
    .toBe('#224466')
})

test('the demo is removed whole, which other tabs are told, and can be set up anew', async () => {
  const other = await who.browser.newPage()
  await other.goto(origin)
  await other.evaluate(() => sessionStorage.setItem('thaw-library', 'demo'))
  await other.reload()
  await sees(other, 'What a glacier is')
  await who.page.bringToFront()
  await who.pick('Lakeside College demo', 'Remove the demo …')
  await who.see('Your own lectures stay.')
  await who.click('button', 'Remove the demo')
  await who.see('Only mine')
  await sees(other, 'Only mine')
  await other.close()
  expect(await databases()).toEqual(['thaw-own'])
  await who.pick(MENU.own, 'Look around the demo')
  await who.see('What a glacier is', 110_000)
  await who.see('Norrhaven Polar College')
  expect(await databases()).toEqual(['thaw-demo', 'thaw-own'])
  await who.pick(MENU.demo, 'Go to my own lectures')
  await who.see('Only mine')
  await who.pick(MENU.own, 'Delete all my lectures …')
  await who.see('deleted for good')
  await who.click('button', 'Delete all of them')
  await who.see('What a glacier is')
  expect(await databases()).toEqual(['thaw-demo'])
  expect(who.errors).toEqual([])
})

test('where a server has no demo, none is offered', async () => {
  const fresh = await person({ from: undefined, devices: false })
  try {
    await fresh.page.setRequestInterception(true)
    fresh.page.on('request', (request) =>
      new URL(request.url()).pathname === '/api/about'
        ? void request.respond({ contentType: 'application/json', body: '{"demo":false}' })
        : void request.continue(),
    )
    await fresh.go(origin)
    await fresh.see('Start my own')
    await fresh.notSee('demo')
    // The address with the key may be opened where the page is open already.
    await fresh.go(`${origin}/#key=${AUTHOR_KEY}`)
    const session = () => fresh.page.evaluate(async () => (await (await fetch('/api/author/session')).json()) as object)
    await expect.poll(session).toMatchObject({ signedIn: true })
    expect(fresh.page.url()).toBe(`${origin}/`)
    expect(await violations(fresh.page)).toEqual([])
  } finally {
    await fresh.leave()
  }
})
