import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { foldersOf, isInside, readFolder, sayFolder, sayWhere } from './folders'

const lecture = (courseId: string, folder?: string) => ({ courseId, ...(folder !== undefined && { folder }) })

describe('folders', () => {
  it('of a course are those its lectures are in, and all that hold them', () => {
    const lectures = [
      lecture('a', 'Slopes/North'),
      lecture('a', 'Fieldwork'),
      lecture('a'),
      lecture('a', ''),
      lecture('b', 'Other'),
      lecture('a', 'Slopes/North'),
    ]
    expect(foldersOf(lectures, 'a')).toEqual(['Fieldwork', 'Slopes', 'Slopes/North'])
    expect(foldersOf(lectures, 'c')).toEqual([])
    expect(
      foldersOf(
        ['Trip 10', 'trip 9', 'Álftanes'].map((f) => lecture('a', f)),
        'a',
      ),
    ).toEqual(['Álftanes', 'trip 9', 'Trip 10'])
  })
  it('are read as typed, with spaces and empty names put right', () => {
    expect(readFolder('  Fieldwork /  North   face / ', [])).toBe('Fieldwork/North face')
    expect(readFolder(' / ', ['Fieldwork'])).toBe('')
  })
  it('are the one that is there when only capitals differ, at every level, and no other', () => {
    const known = ['Fieldwork', 'Fieldwork/Slopes', 'Slopes']
    expect(readFolder('fieldwork/SLOPES/New', known)).toBe('Fieldwork/Slopes/New')
    expect(readFolder('slopes/fieldwork', known)).toBe('Slopes/fieldwork')
    expect(readFolder('Fieldworks', known)).toBe('Fieldworks')
    expect(readFolder('Forêt', ['Foret'])).toBe('Forêt')
  })
  it('read twice are the same, and are then among the course’s', () => {
    const typed = fc
      .array(fc.string({ unit: fc.constantFrom('a', 'B', 'é', ' ', '/', '9') }))
      .map((parts) => parts.join('/'))
    fc.assert(
      fc.property(typed, typed, (one, other) => {
        const known = foldersOf([lecture('a', readFolder(one, []))], 'a')
        const folder = readFolder(other, known)
        expect(readFolder(folder, known)).toBe(folder)
        expect(folder === '' || foldersOf([lecture('a', folder)], 'a').includes(folder)).toBe(true)
      }),
    )
  })
  it('hold what is in them and in folders inside them', () => {
    expect(['', 'A', 'A/B', 'AB', 'B/A'].filter((f) => isInside(f, 'A'))).toEqual(['A', 'A/B'])
    expect(['', 'A'].filter((f) => isInside(f, ''))).toEqual(['', 'A'])
  })
  it('are said with the course and the week', () => {
    const course = { code: 'PS 115', title: 'Reading Snow' }
    expect(sayWhere(course, { week: 3 })).toBe('PS 115 Reading Snow, week 3')
    expect(sayWhere(course, { week: 3, folder: 'Fieldwork/Slopes' })).toBe(
      'PS 115 Reading Snow, week 3, folder Fieldwork › Slopes',
    )
    expect(sayFolder('')).toBe('')
  })
})
