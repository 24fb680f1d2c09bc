import { expect, test } from 'vitest'
import { apply, newEdit } from '#core/edit/edit'
import { newChapterList } from '#core/marks/chapters'
import { newLinkList } from '#core/marks/links'
import type { Documents, Kind } from '#core/documents/kinds'
import type { Lecture } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import { newRow } from './documents'
import { fingerprints } from './fingerprint'

const lecture = {
  id: 'l',
  courseId: 'c',
  week: 1,
  title: 'Ice',
  description: '',
  createdAt: '2026-11-01T00:00:00Z',
} as Lecture
const edit = newEdit(recorded(60), 25)
const films = (documents: Partial<Documents>) => {
  const rows = Object.entries(documents).map(([kind, document]) => newRow('l', kind as Kind, document))
  return fingerprints({ lecture, recording: null, rows }).films
}

test('what is not seen in the result does not ask for it to be published again', () => {
  const before = films({ edit })
  expect(films({ edit: apply(edit, { do: 'split', id: 's', at: recorded(10) }) })).toBe(before)
  expect(films({ edit, chapters: newChapterList(), links: newLinkList() })).toBe(before)
})

test('what is seen does', () => {
  const before = films({ edit })
  const chapters = { ...newChapterList(), chapters: [{ id: 'a', at: recorded(1), title: 'A' }] }
  expect(films({ edit, chapters })).not.toBe(before)
  const box = { x: 0, y: 0, width: 0.1, height: 0.1 }
  expect(films({ edit: apply(edit, { do: 'watermark', watermark: { file: 'f', box, opacity: 1 } }) })).not.toBe(before)
})
