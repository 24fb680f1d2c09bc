import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Student } from '../schema/attempt'
import { parseAs } from '../schema/validate'
import { FIRST_ISSUER, personKey, sayStudent, upgradeStudent } from './people'

describe('people', () => {
  const claim = fc.oneof(
    fc.string({ minLength: 1, maxLength: 40 }),
    fc.constantFrom(FIRST_ISSUER, '["a","b"]', `["${FIRST_ISSUER}","b"]`, 'a', 'b'),
  )
  const person = fc.record({ issuer: claim, subject: claim })
  it('have one key each, and no two of them the same', () => {
    fc.assert(
      fc.property(person, person, (a, b) => {
        const same = a.issuer === b.issuer && a.subject === b.subject
        expect(personKey(a) === personKey(b)).toBe(same)
      }),
      { numRuns: 2000 },
    )
  })
  it('of when there was one site keep their key, and are told by it', () => {
    const now = parseAs(Student, upgradeStudent({ id: 's1', name: 'Aino' }), 'student')
    expect([now, personKey(now), sayStudent(now)]).toEqual([
      { issuer: FIRST_ISSUER, subject: 's1', name: 'Aino' },
      's1',
      'Aino',
    ])
    expect(upgradeStudent({ id: 's1', name: '' })).toEqual({ issuer: FIRST_ISSUER, subject: 's1' })
    expect(upgradeStudent(now)).toBe(now)
  })
  it('may have no name, and are not nobody', () => {
    const person = parseAs(Student, { issuer: 'https://site.example', subject: '7' }, 'student')
    expect(sayStudent(person)).toBe('No name (7)')
    for (const wrong of [{ issuer: '', subject: '7' }, { issuer: 'x', subject: 'a'.repeat(256) }, { subject: '7' }])
      expect(() => parseAs(Student, wrong, 'student')).toThrow()
  })
})
