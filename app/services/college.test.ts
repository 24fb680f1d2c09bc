import 'fake-indexeddb/auto'
import { expect, it } from 'vitest'
import { db } from '~/db/database'
import { accentProblem, collegeOf, saveCollege } from './college'

it.each([
  ['#1b4b57', true],
  ['#767676', false],
  ['#6e6e6e', true],
  ['#ffcc00', false],
  ['#ffffff', false],
  ['#000000', true],
])('a colour on which white cannot be read is refused: %s', (colour, isGood) => {
  expect(accentProblem(colour) === '').toBe(isGood)
})
it('is kept as it was set; nothing else is', async () => {
  expect(await collegeOf()).toEqual({ name: '', accent: null, logo: null })
  await saveCollege({ name: 'Lakeside', accent: '#224466', logo: null })
  expect(await collegeOf()).toMatchObject({ name: 'Lakeside', accent: '#224466' })
  const logo = 'data:text/html;base64,AAAA'
  await expect(saveCollege({ name: 'x', accent: null, logo })).rejects.toThrow(/logo/)
  await db.settings.put({ key: 'college', value: '{' })
  expect(await collegeOf()).toMatchObject({ name: '' })
})
