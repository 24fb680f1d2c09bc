/** Tables as an Office Open XML workbook (ECMA-376), numbers as numbers, dates as dates, and no text ever as a formula. */
import type { Cell, ResultTable } from '#core/results/tables'

/** Most that a cell holds, characters. */
const MOST = 32_767
// What XML cannot hold at all (XML 1.0, 2.2).
const NOT_XML =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g

const cellOf = (value: Cell) => {
  if (value === null || (typeof value === 'number' && !Number.isFinite(value))) return null
  if (typeof value === 'number') return { type: Number, value }
  if (value instanceof Date) return { type: Date, value, format: 'yyyy-mm-dd hh:mm' }
  return { type: String, value: value.replace(NOT_XML, '').slice(0, MOST) }
}

/** A sheet for each table, under its name. */
export async function workbookOf(tables: readonly ResultTable[]): Promise<Blob> {
  const { default: write } = await import('write-excel-file/universal')
  const sheets = tables.map(({ name, columns, rows }) => ({
    sheet: name.replace(/[\\/?*[\]:]/g, ' ').slice(0, 31),
    stickyRowsCount: 1,
    columns: columns.map((column) => ({ width: Math.min(40, Math.max(12, column.length)) })),
    data: [
      columns.map((value) => ({ type: String, value, fontWeight: 'bold' as const })),
      ...rows.map((r) => r.map(cellOf)),
    ],
  }))
  return write(sheets).toBlob()
}
