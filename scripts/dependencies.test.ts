import { expect, it } from 'vitest'
import { sayAudit } from './dependencies.mjs'

it('what is known against packages is said by package', () => {
  expect(sayAudit('{"metadata":{},"vulnerabilities":{}}')).toBe('Nothing is known against any package.')
  const found = {
    a: { name: 'a', severity: 'high', via: [{ title: 'Reads too much' }] },
    b: { name: 'b', severity: 'low', via: ['a'] },
  }
  expect(sayAudit(JSON.stringify({ metadata: {}, vulnerabilities: found }))).toBe(
    'Something is known against 2 of the packages:\n  high: a, Reads too much\n  low: b',
  )
})
it('a registry that does not say is told from one that knows nothing', () => {
  expect(sayAudit('{"message":"405 Method Not Allowed"}')).toBe(
    'The registry does not say what is known against packages: 405 Method Not Allowed.',
  )
})
