import { expect, test } from 'vitest'
import { apply, editTimeMap, newEdit } from '../edit/edit'
import { newChapterList } from '../marks/chapters'
import { recorded } from '../time/units'
import { differences } from './differences'

const at = recorded
const edit = apply(newEdit(at(60), 25), { do: 'remove', id: 'a', from: at(10), to: at(12) })
const map = editTimeMap(edit)

test('what was added, dropped and changed is said, with where it stands', () => {
  const later = apply(
    apply(apply(edit, { do: 'move-edge', id: 'a', edge: 'to', at: at(14) }), {
      ...{ do: 'insert', id: 'i', at: at(5) },
      what: { kind: 'card', title: 'Ice', text: '', seconds: 4, ink: '#ffffff', ground: '#000000' },
    }),
    { do: 'layout', layout: 'camera' },
  )
  expect(differences('edit', edit, later, map)).toEqual([
    { kind: 'edit', how: 'changed', says: 'layout: camera', range: null },
    { kind: 'edit', how: 'added', says: 'Put in a card at 0:05.0 of the recording', range: { from: 5, to: 5 } },
    {
      kind: 'edit',
      how: 'changed',
      says: 'Took out 0:10.0 – 0:12.0 of the recording → Took out 0:10.0 – 0:14.0 of the recording',
      range: { from: 10, to: 14 },
    },
  ])
  expect(differences('edit', later, edit, map).map((d) => d.how)).toEqual(['changed', 'dropped', 'changed'])
  expect(differences('edit', edit, edit, map)).toEqual([])
})

test('a document that was not there differs by all that stands in it', () => {
  const chapters = { ...newChapterList(), chapters: [{ id: 'c', at: at(3), title: 'Gain' }] }
  expect(differences('chapters', null, chapters, map)).toEqual([
    { kind: 'chapters', how: 'added', says: '0:03.0  Gain', range: { from: 3, to: 3 } },
  ])
  expect(differences('chapters', chapters, null, map)).toEqual([
    { kind: 'chapters', how: 'dropped', says: '0:03.0  Gain', range: { from: 3, to: 3 } },
  ])
})

test('where something stands is said in the time of the result', () => {
  const chapters = {
    ...newChapterList(),
    chapters: [at(11), at(20)].map((at, i) => ({ id: `c${i}`, at, title: 'Loss' })),
  }
  expect(differences('chapters', null, chapters, map).map((d) => d.says)).toEqual(['cut out  Loss', '0:18.0  Loss'])
})
