/** Terms and courses of one's own: set up, imported, changed, copied, archived and deleted, and how the board shows them. */
import { mkdtempSync, writeFileSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { ElementHandle } from 'puppeteer-core'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { outOfReach } from '../out-of-reach'
import { person, type Person } from '../person'
import { AUTHOR_KEY } from '../serve'
import { store, stored } from '../stored'
import { violations } from '../violations'
import { served } from '../served'

const origin = served.origin
const folder = mkdtempSync(join(tmpdir(), 'thaw-courses-'))
let who: Person
beforeAll(async () => {
  who = await person({ from: undefined, devices: false })
  await who.go(`${origin}/#key=${AUTHOR_KEY}`)
  await (await who.page.waitForSelector('::-p-text(Start my own)'))?.click()
})
afterAll(async () => {
  await who.leave()
  await rm(folder, { recursive: true, force: true })
})

const click = (role: string, name: string) => who.click(role, name)
/** Sets a day in a field of days. */
async function setDay(field: string, day: string): Promise<void> {
  await click('combobox', field)
  await who.page.keyboard.down('Control')
  await who.page.keyboard.press('a')
  await who.page.keyboard.up('Control')
  await who.page.keyboard.type(day)
  await who.page.keyboard.press('Enter')
}
async function importFile(name: string, text: string): Promise<void> {
  writeFileSync(join(folder, name), text)
  const input = (await who.page.waitForSelector('[aria-label="Table of courses"]')) as ElementHandle<HTMLInputElement>
  await input.uploadFile(join(folder, name))
}
const board = () =>
  who.page.$$eval('.board thead th', (all) => all.map((th) => th.textContent?.replace(/\s+/g, ' ').trim()))

test('an empty board says what to do first, and a lecture can be begun without a course', async () => {
  await who.see('Begin with your term')
  expect(await violations(who.page)).toEqual([])
  await click('button', 'New lecture')
  await who.type('Title', 'Begun before all else')
  await who.see('goes to no course yet')
  await click('button', 'Record Camera, screen or the hall')
  await who.see('Goes to no course yet')
  await who.go(origin)
  await who.see('Begun before all else')
})

test('a term is refused in words until it makes sense, and goes over a new year with its holidays', async () => {
  await click('button', 'Set up a term')
  await click('button', 'Save')
  await who.see('Give the term a name')
  await who.type('Name', 'Long term')
  await setDay('First day', '5 Oct 2026')
  await setDay('Last day', '1 Oct 2026')
  await click('button', 'Save')
  await who.see('The last day is before the first.')
  await setDay('Last day', '3 Oct 2027')
  await who.see('52 weeks')
  await click('combobox', 'Time zone')
  await who.page.keyboard.type('Oslo')
  await click('option', 'Europe/Oslo')
  await click('button', 'Add a holiday')
  await who.type('Name of holiday 1', 'New Year')
  const [from, to] = await who.page.$$('.holiday .el-range-input')
  await from?.click()
  await who.page.keyboard.type('21 Dec 2026')
  await to?.click()
  await who.page.keyboard.type('3 Jan 2027')
  await who.page.keyboard.press('Enter')
  await who.see('2 of them without teaching')
  expect(await outOfReach(who.page)).toEqual([])
  await click('button', 'Save')
  await who.see('Long term has no courses yet')
})

test('courses come from a table: what would be added is seen first, and what cannot be, by its line', async () => {
  await click('button', 'Import from CSV')
  await importFile('none.csv', 'Name;Room\nIce;1\n')
  await who.see('Code and Title are missing')
  const lines = Array.from({ length: 60 }, (_, i) => `C ${i + 1};Course ${i + 1};T. Eacher;de;Mon 10:15-12:00`)
  await importFile(
    'all.csv',
    ['Code;Title;Lecturer;Language;Meets', ...lines, 'C 1;Again;;;', 'X;Late;;;Mon 25:00'].join('\r\n'),
  )
  await who.see('2 lines cannot be imported; the others can')
  await who.see('Line 62: C 1 is in line 2 already.')
  await who.see('Line 63:')
  await click('button', 'Add 60 courses')
  await who.see('60 courses added to Long term.')
  expect(await board()).toHaveLength(53)
  expect((await board())[12]).toMatch(/^Week 12 21 Dec.*New Year$/)
  expect((await board())[13]).toMatch(/^Week 13 28 Dec/)
  expect((await board())[26]).toMatch(/^Week 26 29 Mar/)
  await who.see('C 1')
  // Only what is near is drawn; the last one comes when it is scrolled to.
  expect(await who.page.$$eval('.board tbody th', (all) => all.length)).toBeLessThan(30)
  await who.page.$eval('.board', (b) => b.scrollTo(0, 1e6))
  await who.see('Course 60')
})

test('fourteen lectures of one course stand in their weeks, also where two are in one', async () => {
  const courses = await stored<{ id: string; code: string }>(who.page, 'courses', 'own')
  const courseId = courses.find((c) => c.code === 'C 1')?.id
  for (let i = 0; i < 14; i++) {
    const lecture = { id: `many-${i}`, courseId, week: 1 + Math.floor(i / 2), title: `Lecture ${i}`, description: '' }
    await store(who.page, 'lectures', { ...lecture, createdAt: '2026-10-05T08:00:00.000Z' }, 'own')
  }
  await who.go(origin)
  await who.see('Lecture 13')
  expect(await who.page.$$eval('.board .card', (all) => all.length)).toBe(14)
})

test('a lecture is given a course later', async () => {
  const card = await who.page.waitForSelector('.unplaced a.card')
  await card?.click()
  await who.see('Goes to no course yet')
  await click('button', 'Particulars')
  await who.choose('Course', 'C 2 Course 2')
  await who.see('goes to C 2 Course 2, week 1')
  await who.page.keyboard.press('Escape')
  await who.see('Goes to C 2 Course 2, week 1.')
  await who.go(origin)
  await who.see('Begun before all else')
  expect(await who.page.$('.unplaced')).toBeNull()
})

test('a course is changed, copied, archived and deleted, with a sentence of what depends on it', async () => {
  await click('link', 'Courses')
  await click('button', 'Edit C 3')
  await who.type('Title', 'Changed')
  await click('button', 'Add a day and time')
  await click('button', 'Save')
  await who.see('Mon 10:15–12:00, Tue 10:15–12:00')
  await who.pick('More for C 3', 'Copy …')
  await click('button', 'Save')
  await who.find('button', 'More for C 3 (copy)')
  await who.pick('More for C 3 (copy)', 'Archive')
  await who.see('Show archived (1)')
  await who.pick('More for C 2', 'Delete …')
  await who.see('1 lecture stays, without a course.')
  expect(await violations(who.page)).toEqual([])
  await click('button', 'Delete the course')
  await who.notSee('Course 2\t')
  expect(await outOfReach(who.page)).toEqual([])
})

test('a term is copied with its courses, archived and deleted', async () => {
  await who.pick('More for Long term', 'Copy …')
  await who.type('Name', 'Next term')
  await click('button', 'Copy the term')
  await who.find('button', 'More for Next term')
  await click('link', 'Term')
  await who.choose('Term', 'Next term')
  await who.see('Next term, 4 Oct 2027 – 1 Oct 2028')
  await who.see('To make the first lecture')
  await click('link', 'Courses')
  await who.pick('More for Long term', 'Archive')
  await click('link', 'Term')
  await who.see('Next term, 4 Oct 2027')
  expect(await who.page.$('[aria-label="Term"][role=combobox]')).toBeNull()
  await click('link', 'Courses')
  await who.pick('More for Next term', 'Delete …')
  await who.see('59 courses are deleted with it: C 1, C 3, C 4, C 5, C 6 and 54 more.')
  await click('button', 'Delete the term')
  await who.see('All your terms are archived.')
  await click('link', 'Term')
  await who.see('Begin with your term')
  await who.see('Begun before all else')
  expect(who.errors).toEqual([])
})
