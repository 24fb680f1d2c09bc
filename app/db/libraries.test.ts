import { beforeEach, describe, expect, it } from 'vitest'
import {
  adopt,
  chooseLibrary,
  databaseName,
  forget,
  openLibrary,
  ownerOfEarlier,
  type LibraryPlaces,
} from './libraries'

function memory() {
  const kept = new Map<string, string>()
  return {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
    removeItem: (key: string) => void kept.delete(key),
  }
}
let places: LibraryPlaces
beforeEach(() => (places = { tab: memory(), all: memory() }))
const otherTab = (): LibraryPlaces => ({ tab: memory(), all: places.all })

describe('libraries', () => {
  it('are none before one is chosen, and each has a database of its own', () => {
    expect(openLibrary(places)).toBeNull()
    expect(databaseName('own', places)).not.toBe(databaseName('demo', places))
  })
  it('stay open in a tab while another goes to the other one, which a new tab opens', () => {
    chooseLibrary('own', places)
    const other = otherTab()
    chooseLibrary('demo', other)
    expect([openLibrary(places), openLibrary(other), openLibrary(otherTab())]).toEqual(['own', 'demo', 'demo'])
  })
  it('go on in the database of an earlier version, until that is removed', () => {
    adopt('own', places)
    chooseLibrary('own', places)
    expect([databaseName('own', places), databaseName('demo', places)]).toEqual(['thaw', 'thaw-demo'])
    forget('own', places)
    expect([databaseName('own', places), openLibrary(places)]).toEqual(['thaw-own', 'own'])
  })
  it('take what is written elsewhere for nothing', () => {
    places.all.setItem('thaw-library', 'nonsense')
    places.all.setItem('thaw-library-names', '{torn')
    expect([openLibrary(places), databaseName('demo', places)]).toEqual([null, 'thaw-demo'])
  })
})

describe('a database of an earlier version', () => {
  const demo = { lectures: ['flow', 'ash'], courses: ['ps201'] }
  it('is the demo’s when nothing was added', () => {
    expect(ownerOfEarlier(demo, demo)).toBe('demo')
    expect(ownerOfEarlier({ lectures: ['flow'], courses: ['ps201'] }, demo)).toBe('demo')
  })
  it('is one’s own with any lecture or course of one’s own', () => {
    expect(ownerOfEarlier({ ...demo, lectures: ['flow', 'mine'] }, demo)).toBe('own')
    expect(ownerOfEarlier({ ...demo, courses: ['ps201', 'oc1'] }, demo)).toBe('own')
  })
})
