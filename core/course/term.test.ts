import { describe, expect, it } from 'vitest'
import type { Term } from '../schema/term'
import { countWeeks, dayIn, instantOf, isDay, isTimeZone, meetingsIn, termProblems, weekOf, weeksOf } from './term'

const term = (firstDay: string, lastDay: string, more: Partial<Term> = {}): Term => ({
  ...{ id: 't', name: 'Term', firstDay, lastDay, holidays: [], timeZone: 'Europe/Oslo' },
  ...more,
})

describe('the weeks of a term', () => {
  it('begin on Mondays, also where the term begins or ends between', () => {
    const weeks = weeksOf(term('2026-10-28', '2026-11-10'))
    expect(weeks.map(({ number, from, to }) => [number, from, to])).toEqual([
      [1, '2026-10-26', '2026-11-01'],
      [2, '2026-11-02', '2026-11-08'],
      [3, '2026-11-09', '2026-11-15'],
    ])
  })
  it('go over the end of a year and over changes of the clock, a year long', () => {
    const year = term('2026-09-07', '2027-09-05')
    expect(countWeeks(year)).toBe(52)
    const weeks = weeksOf(year)
    expect(weeks.map((w) => w.from)).toEqual([...new Set(weeks.map((w) => w.from))])
    expect([weeks[16]?.from, weeks[17]?.from, weeks.at(-1)?.to]).toEqual(['2026-12-28', '2027-01-04', '2027-09-05'])
    for (const week of weeks) for (const day of [week.from, week.to]) expect(weekOf(year, day)).toBe(week.number)
    expect([weekOf(year, '2026-09-06'), weekOf(year, '2027-09-06')]).toEqual([0, 53])
  })
  it('are one for one day', () => {
    expect(weeksOf(term('2026-11-11', '2026-11-11'))).toHaveLength(1)
  })
  it('are free when nothing is taught from Monday to Friday, as far as they are in the term', () => {
    const holidays = [
      { name: 'Reading week', from: '2026-11-02', to: '2026-11-06' },
      { name: 'Founders’ day', from: '2026-11-11', to: '2026-11-11' },
      { name: 'Late start', from: '2026-10-29', to: '2026-10-30' },
    ]
    expect(weeksOf(term('2026-10-29', '2026-11-15', { holidays })).map((w) => [w.holidays, w.isFree])).toEqual([
      [['Late start'], true],
      [['Reading week'], true],
      [['Founders’ day'], false],
    ])
  })
})

describe('instants of a time zone', () => {
  it('follow its clock through the year', () => {
    expect(instantOf('2026-07-01', '10:15', 'Europe/Oslo')).toBe('2026-07-01T08:15:00.000Z')
    expect(instantOf('2026-12-01', '10:15', 'Europe/Oslo')).toBe('2026-12-01T09:15:00.000Z')
    expect(instantOf('2026-12-01', '00:10', 'Pacific/Kiritimati')).toBe('2026-11-30T10:10:00.000Z')
    expect(instantOf('2026-12-01', '23:50', 'Pacific/Pago_Pago')).toBe('2026-12-02T10:50:00.000Z')
    expect(instantOf('2026-12-01', '09:00', 'Asia/Kathmandu')).toBe('2026-12-01T03:15:00.000Z')
  })
  it('are the first where a time comes twice, and come after where it is missing', () => {
    expect(instantOf('2026-10-25', '02:30', 'Europe/Oslo')).toBe('2026-10-25T00:30:00.000Z')
    expect(instantOf('2026-03-29', '02:30', 'Europe/Oslo')).toBe('2026-03-29T01:30:00.000Z')
    expect(instantOf('2026-03-08', '02:30', 'America/New_York')).toBe('2026-03-08T07:30:00.000Z')
  })
  it('are of the day that it is there', () => {
    const late = Date.parse('2026-11-30T23:30:00Z')
    expect([dayIn('UTC', late), dayIn('Europe/Oslo', late), dayIn('America/New_York', late)]).toEqual([
      '2026-11-30',
      '2026-12-01',
      '2026-11-30',
    ])
  })
  it('are of zones that there are', () => {
    expect(['Europe/Oslo', 'UTC', 'Mars/Olympus', ''].map(isTimeZone)).toEqual([true, true, false, false])
  })
})

describe('when a course meets', () => {
  it('is the same by the clock on both sides of its change, and not on holidays or outside the term', () => {
    const autumn = term('2026-10-20', '2026-11-04', {
      holidays: [{ name: 'Away', from: '2026-11-03', to: '2026-11-03' }],
    })
    const meetings = [
      { weekday: 4, from: '14:00', to: '15:30' },
      { weekday: 1, from: '09:00', to: '10:00' },
      { weekday: 2, from: '09:00', to: '10:00' },
    ]
    const starts = [1, 2, 3].map((week) => meetingsIn(autumn, meetings, week).map((m) => m.from))
    expect(starts).toEqual([
      // Monday is before the term.
      ['2026-10-20T07:00:00.000Z', '2026-10-22T12:00:00.000Z'],
      ['2026-10-26T08:00:00.000Z', '2026-10-27T08:00:00.000Z', '2026-10-29T13:00:00.000Z'],
      ['2026-11-02T08:00:00.000Z'],
    ])
  })
})

describe('what is wrong with a term', () => {
  it.each([
    [term('2026-10-26', '2026-12-20'), []],
    [term('2026-10-26', '2026-12-20', { name: ' ' }), ['Give the term a name, such as Autumn 2026.']],
    [term('2026-02-30', '2026-12-20'), ['Choose the first day of the term.']],
    [term('2026-10-26', ''), ['Choose the last day of the term.']],
    [term('2026-10-26', '2026-10-25'), ['The last day is before the first.']],
    [term('2026-01-05', '2027-12-31'), ['A term has at most 60 weeks; this one has 104.']],
    [term('2026-10-26', '2026-12-20', { timeZone: 'Mars' }), ['“Mars” is not a time zone.']],
    [
      term('2026-10-26', '2026-12-20', { holidays: [{ name: 'Away', from: '2026-11-05', to: '2026-11-04' }] }),
      ['Away ends before it begins.'],
    ],
    [
      term('2026-10-26', '2026-12-20', { holidays: [{ name: 'Away', from: '2027-11-03', to: '2027-11-04' }] }),
      ['Away is outside the term.'],
    ],
  ])('is said', (given, says) => {
    expect(termProblems(given)).toEqual(says)
  })
  it('days are those of the calendar', () => {
    expect(['2028-02-29', '2026-02-29', '2026-13-01', 'x'].map(isDay)).toEqual([true, false, false, false])
  })
})
