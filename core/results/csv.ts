/**
 * Comma-separated values (RFC 4180) that open in a spreadsheet as numbers. Text that a spreadsheet would run
 * as a formula is led by an apostrophe (OWASP, CSV injection): a name is never code.
 */
import { csvFormatRow } from 'd3-dsv'
import type { Results } from './results'

export type CsvValue = string | number | null

function field(value: CsvValue): string {
  if (value === null || (typeof value === 'number' && !Number.isFinite(value))) return ''
  return typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value)
}

/** Rows to CSV, CRLF-ended, led by a byte order mark so that spreadsheets read UTF-8. */
export function toCsv(rows: readonly (readonly CsvValue[])[]): string {
  return '\ufeff' + rows.map((row) => csvFormatRow(row.map(field)) + '\r\n').join('')
}

/** One row per student. */
export function studentsCsv(results: Results): string {
  return toCsv([
    [
      'Student',
      'Student id',
      'Of site',
      'Right',
      'Partly right',
      'Wrong',
      'Not marked yet',
      'Unanswered',
      'Points',
      'Possible',
      'Per cent',
      'Last answer (UTC)',
    ],
    ...results.students.map((r) => [
      r.student.name ?? '',
      r.student.subject,
      r.student.issuer,
      r.right,
      r.partly,
      r.wrong,
      r.unmarked,
      r.unanswered,
      r.points,
      r.possible,
      r.percent,
      r.lastAnswerAt,
    ]),
  ])
}

/** One row per answer of each question. */
export function questionsCsv(results: Results): string {
  return toCsv([
    ['Question', 'Answer', 'Right answer', 'Given by', 'Answered'],
    ...results.questions.flatMap((q) =>
      q.counts.map((c) => [q.prompt, c.text, c.right === null ? null : c.right ? 1 : 0, c.count, q.answered]),
    ),
  ])
}
