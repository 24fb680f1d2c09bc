import { expect, test } from 'vitest'
import { copyrightNotice, licences, rightsProblem } from './rights'

const rights = { owner: 'Norrhaven Polar College', year: 2026, licence: 'All rights reserved', attribution: '' }

test('the notice names who, when, under which licence, and what else is to be named', () => {
  expect(copyrightNotice(rights)).toBe('© 2026 Norrhaven Polar College\nAll rights reserved')
  expect(copyrightNotice({ ...rights, licence: 'CC BY-SA 4.0', attribution: ' Map: Survey of Norrhaven ' })).toBe(
    '© 2026 Norrhaven Polar College\nCC BY-SA 4.0 · creativecommons.org/licenses/by-sa/4.0\nMap: Survey of Norrhaven',
  )
  expect(copyrightNotice({ ...rights, licence: 'CC0 1.0' })).not.toContain('©')
})

test('every Creative Commons licence that is offered says where it is read', () => {
  for (const licence of licences.filter((l) => l.startsWith('CC')))
    expect(copyrightNotice({ ...rights, licence })).toMatch(/creativecommons\.org\/\S+\d\.0/)
})

test('a lecture that nobody owns has no notice yet', () => {
  expect(rightsProblem(undefined)).toContain('do not say yet')
  expect(rightsProblem({ ...rights, owner: ' ' })).toContain('do not say yet')
  expect(rightsProblem(rights)).toBe('')
})
