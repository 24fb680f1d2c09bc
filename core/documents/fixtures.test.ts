/** One file of every version of every kind that was ever written: each is read for good. */
import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { checkPublication } from '../packages/publication'
import { readKeys, readPlace, readPublished } from '../packages/upgrade'
import type { EditDocument } from '../schema/edit'
import { kinds, type Kind } from './kinds'

const folder = new URL('../../test/fixtures/', import.meta.url)
const names = readdirSync(folder).map((name) => name.replace('.json', ''))
const read = (name: string): unknown => JSON.parse(readFileSync(new URL(`${name}.json`, folder), 'utf8'))
const of = (kind: string) => names.filter((name) => name.startsWith(`${kind}-`))

describe('what was written before', () => {
  it('has a file for each kind of document, and for publications', () => {
    for (const kind of [...Object.keys(kinds), 'publication', 'place']) expect(of(kind), kind).not.toEqual([])
  })
  it.each((Object.keys(kinds) as Kind[]).flatMap((kind) => of(kind).map((name) => [name, kind] as const)))(
    '%s is read as one of the present version, and read again as the same',
    (name, kind) => {
      const document = kinds[kind].read(read(name))
      expect(kinds[kind].read(JSON.parse(JSON.stringify(document)))).toEqual(document)
      for (const list of Object.keys(kinds[kind].lists))
        expect((document as unknown as Record<string, unknown[]>)[list], list).not.toEqual([])
    },
  )
  it.each(of('publication'))('%s fits together', (name) => {
    const { manifest, set, keys } = read(name) as { manifest: unknown; set?: unknown; keys: unknown }
    const now = readPublished(manifest, set)
    expect(() =>
      checkPublication({ manifest: now.manifest, captions: [], sets: [{ set: now.set, keys: readKeys(keys) }] }),
    ).not.toThrow()
    expect(now.set.checkpoints).toHaveLength(1)
  })
  it.each(of('place'))('%s is a place where its set is asked', (name) => {
    expect(readPlace(read(name)).sets).toHaveLength(1)
  })
  it('holds what it came to: cuts of version 1 that met are one, later ones stay apart', () => {
    const removed = (name: string) =>
      (kinds.edit.read(read(name)) as EditDocument).removed.map((r) => [r.id, r.from, r.to])
    expect(removed('edit-1')).toEqual([['b', 10, 30]])
    for (const name of ['edit-2', 'edit-3'])
      expect(removed(name)).toEqual([
        ['a', 10, 20],
        ['b', 18, 30],
      ])
    expect((kinds.edit.read(read('edit-2')) as EditDocument).layout).toBe('inset')
  })
})
