/**
 * Comma-separated values (RFC 4180) that open in a spreadsheet as numbers. Text that a spreadsheet would run
 * as a formula is led by an apostrophe (OWASP, CSV injection): a name is never code.
 */
import { csvFormatRow } from 'd3-dsv'
import type { Cell, ResultTable } from './tables'

function field(value: Cell): string {
  if (value === null || (typeof value === 'number' && !Number.isFinite(value))) return ''
  if (value instanceof Date) return value.toISOString()
  return typeof value === 'string' && /^[=+\-@\t\r]/.test(value) ? `'${value}` : String(value)
}

/** Rows to CSV, CRLF-ended, led by a byte order mark so that spreadsheets read UTF-8. */
export function toCsv(rows: readonly (readonly Cell[])[]): string {
  return '\ufeff' + rows.map((row) => csvFormatRow(row.map(field)) + '\r\n').join('')
}

export const tableCsv = ({ columns, rows }: ResultTable): string => toCsv([columns, ...rows])
