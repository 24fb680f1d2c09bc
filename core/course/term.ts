/**
 * The weeks of a term. Days are days of the calendar and know no clock; instants come of them only with the term's time
 * zone, by which an hour may be missing or come twice (IANA time zone database).
 */
import { min } from 'd3-array'
import type { Holiday, Meeting, Term } from '../schema/term'

/** ms */
const A_DAY = 24 * 60 * 60 * 1000
/** Most weeks that a term may have: a lecture names its week by a number up to this. */
export const MOST_WEEKS = 60

const toMs = (day: string) => Date.parse(`${day}T00:00:00Z`)
const toDay = (ms: number) => new Date(ms).toISOString().slice(0, 10)

/** Whether it is a day that there is: the 30th of February is none. */
export const isDay = (day: string): boolean =>
  /^\d{4}-\d{2}-\d{2}$/.test(day) && !Number.isNaN(toMs(day)) && toDay(toMs(day)) === day

export const addDays = (day: string, days: number): string => toDay(toMs(day) + days * A_DAY)

/** Days from one to another; negative when that is before. */
export const daysBetween = (from: string, to: string): number => Math.round((toMs(to) - toMs(from)) / A_DAY)

/** Day of the week, 1 (Monday) to 7 (ISO 8601). */
export const weekdayOf = (day: string): number => new Date(toMs(day)).getUTCDay() || 7

export const mondayOf = (day: string): string => addDays(day, 1 - weekdayOf(day))

type Span = Pick<Term, 'firstDay' | 'lastDay'>

export const countWeeks = ({ firstDay, lastDay }: Span): number =>
  Math.floor(daysBetween(mondayOf(firstDay), lastDay) / 7) + 1

/** The week in which a day lies, counted from 1; 0 and less before the term, more than it has after. */
export const weekOf = ({ firstDay }: Pick<Term, 'firstDay'>, day: string): number =>
  Math.floor(daysBetween(mondayOf(firstDay), day) / 7) + 1

export interface TermWeek {
  /** From 1. */
  number: number
  /** Its Monday and its Sunday, also where the term begins or ends between. */
  from: string
  to: string
  /** Names of the holidays in it, in order. */
  holidays: string[]
  /** Whether nothing is taught from Monday to Friday, as far as they are in the term. */
  isFree: boolean
}

const isIn = (day: string, { from, to }: Pick<Holiday, 'from' | 'to'>) => from <= day && day <= to
const isHoliday = ({ holidays }: Pick<Term, 'holidays'>, day: string) => holidays.some((h) => isIn(day, h))

/** The weeks of a term, in order. */
export function weeksOf(term: Pick<Term, 'firstDay' | 'lastDay' | 'holidays'>): TermWeek[] {
  const first = mondayOf(term.firstDay)
  return Array.from({ length: countWeeks(term) }, (_, i) => {
    const from = addDays(first, 7 * i)
    const days = Array.from({ length: 7 }, (_day, d) => addDays(from, d)).filter((day) =>
      isIn(day, { from: term.firstDay, to: term.lastDay }),
    )
    const working = days.filter((day) => weekdayOf(day) <= 5)
    const inIt = term.holidays.filter((h) => days.some((day) => isIn(day, h)))
    return {
      number: i + 1,
      from,
      to: addDays(from, 6),
      holidays: inIt.sort((a, b) => a.from.localeCompare(b.from)).map((h) => h.name),
      isFree: working.length > 0 && working.every((day) => isHoliday(term, day)),
    }
  })
}

export function isTimeZone(name: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: name }).resolvedOptions().timeZone !== ''
  } catch {
    // That is how a name is refused.
    return false
  }
}

/** What clocks show in a time zone, as if it was UTC, ms since the epoch. */
function clockIn(timeZone: string, ms: number): number {
  const parts = new Intl.DateTimeFormat('en-US', {
    timeZone,
    hourCycle: 'h23',
    year: 'numeric',
    month: 'numeric',
    day: 'numeric',
    hour: 'numeric',
    minute: 'numeric',
    second: 'numeric',
  }).formatToParts(ms)
  const of = (type: string) => Number(parts.find((p) => p.type === type)?.value)
  return Date.UTC(of('year'), of('month') - 1, of('day'), of('hour'), of('minute'), of('second'))
}

/** The day that it is in a time zone. @param ms since the epoch */
export const dayIn = (timeZone: string, ms: number): string => toDay(clockIn(timeZone, ms))

/**
 * When clocks in a time zone show a time: the first instant where it comes twice, the one after where it is missing.
 * @param time `hh:mm`
 * @returns ISO 8601 in UTC
 */
export function instantOf(day: string, time: string, timeZone: string): string {
  const shown = Date.parse(`${day}T${time}:00Z`)
  // What is shown differs from UTC by less than a day, and by the same before and after but for one change.
  const offsets = [-A_DAY, A_DAY].map((by) => clockIn(timeZone, shown + by) - (shown + by))
  const fitting = offsets.map((offset) => shown - offset).filter((ms) => clockIn(timeZone, ms) === shown)
  return new Date(fitting.length > 0 ? (min(fitting) ?? Infinity) : shown - (min(offsets) ?? Infinity)).toISOString()
}

/** When a course meets in a week, in order: not on holidays, and not outside the term. */
export function meetingsIn(term: Term, meetings: readonly Meeting[], week: number): { from: string; to: string }[] {
  const monday = addDays(mondayOf(term.firstDay), 7 * (week - 1))
  return meetings
    .map(({ weekday, from, to }) => ({ day: addDays(monday, weekday - 1), from, to }))
    .filter(({ day }) => isIn(day, { from: term.firstDay, to: term.lastDay }) && !isHoliday(term, day))
    .map(({ day, from, to }) => ({
      from: instantOf(day, from, term.timeZone),
      to: instantOf(day, to, term.timeZone),
    }))
    .sort((a, b) => a.from.localeCompare(b.from))
}

/** What is wrong with a term as it is written, a sentence each; nothing when it can be kept. */
export function termProblems(term: Omit<Term, 'id'>): string[] {
  const { name, firstDay, lastDay, holidays, timeZone } = term
  if (!name.trim()) return ['Give the term a name, such as Autumn 2026.']
  if (!isDay(firstDay)) return ['Choose the first day of the term.']
  if (!isDay(lastDay)) return ['Choose the last day of the term.']
  if (lastDay < firstDay) return ['The last day is before the first.']
  const problems: string[] = []
  if (countWeeks(term) > MOST_WEEKS)
    problems.push(`A term has at most ${MOST_WEEKS} weeks; this one has ${countWeeks(term)}.`)
  if (!isTimeZone(timeZone)) problems.push(`“${timeZone}” is not a time zone.`)
  for (const { name: what, from, to } of holidays) {
    const called = what.trim() || 'A holiday without a name'
    if (!what.trim()) problems.push('Give each holiday a name.')
    if (!isDay(from) || !isDay(to)) problems.push(`${called}: choose its first and last day.`)
    else if (to < from) problems.push(`${called} ends before it begins.`)
    else if (to < firstDay || from > lastDay) problems.push(`${called} is outside the term.`)
  }
  return problems
}
