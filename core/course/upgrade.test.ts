import { expect, it } from 'vitest'
import { Term } from '../schema/term'
import { parseAs } from '../schema/validate'
import { countWeeks } from './term'
import { EarlierCourse, upgradeCourse } from './upgrade'

const earlier = (id: string, startsOn: string, weeks: number) =>
  parseAs(EarlierCourse, { id, code: 'PS 1', title: 'Ice', startsOn, weeks, captionsGoOn: true }, 'course')

it('gives courses that were together one term, and keeps what they said', () => {
  const [a, b, other] = [
    earlier('a', '2026-10-26', 8),
    earlier('b', '2026-10-26', 8),
    earlier('c', '2026-10-26', 60),
  ].map((course) => upgradeCourse(course, 'Europe/Oslo'))
  expect(a!.term).toEqual(b!.term)
  expect(other!.term.id).not.toBe(a!.term.id)
  expect(parseAs(Term, a!.term, 'term')).toMatchObject({ name: 'Term from 26 October 2026', lastDay: '2026-12-20' })
  expect([a, other].map((x) => countWeeks(x!.term))).toEqual([8, 60])
  expect(a!.course).toEqual({ id: 'a', code: 'PS 1', title: 'Ice', captionsGoOn: true, termId: a!.term.id })
})
it('begins a term on the Monday of the week that a course began in', () => {
  expect(upgradeCourse(earlier('a', '2026-10-28', 2), 'Etc/UTC').term).toMatchObject({
    ...{ firstDay: '2026-10-26', lastDay: '2026-11-08' },
  })
})
