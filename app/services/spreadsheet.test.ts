import { BlobReader, TextWriter, ZipReader, type FileEntry } from '@zip.js/zip.js'
import { expect, it } from 'vitest'
import { workbookOf } from './spreadsheet'

it('a workbook has numbers as numbers, dates as dates, and no text as a formula', async () => {
  const at = new Date('2026-11-28T18:30:00.000Z')
  const rows = [
    ['=1+1', 2.5, at, null],
    ['@x\u0000\ud800', -2, null, Number.NaN],
  ]
  const book = await workbookOf([
    { name: 'A/B', columns: ['Text', 'Number', 'When', 'None'], rows },
    { name: 'Second', columns: ['x'], rows: [] },
  ])
  const files = new Map<string, string>()
  for (const entry of await new ZipReader(new BlobReader(book)).getEntries())
    if (!entry.directory) files.set(entry.filename, await (entry as FileEntry).getData(new TextWriter()))
  expect(files.get('xl/workbook.xml')).toMatch(/name="A B".*name="Second"/s)
  const sheet = files.get('xl/worksheets/sheet1.xml') ?? ''
  expect(sheet).not.toMatch(/<f>|<f /)
  expect(sheet).toMatch(/<c r="B2"[^>]*><v>2\.5<\/v>/)
  expect(sheet).toMatch(/<c r="B3"[^>]*><v>-2<\/v>/)
  // Days since the 30th of December 1899, in UTC (ECMA-376, part 1, 18.17.4).
  const serial = at.getTime() / 86_400_000 + 25_569
  expect(Number(/<c r="C2"[^>]*><v>([^<]+)<\/v>/.exec(sheet)?.[1])).toBeCloseTo(serial, 6)
  const strings = files.get('xl/sharedStrings.xml') ?? sheet
  expect(strings).toContain('=1+1')
  expect(strings).toMatch(/@x</)
})
