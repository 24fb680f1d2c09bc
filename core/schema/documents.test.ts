import { readdirSync, readFileSync } from 'node:fs'
import { Ajv } from 'ajv'
import { describe, expect, it } from 'vitest'
import { newTrack, readTrack } from '../captions/track'
import { newEdit } from '../edit/edit'
import { readEdit } from '../edit/upgrade'
import { recorded } from '../time/units'
import { DemoQuestions, DemoTerm } from './demo'
import { documents, standalone } from './documents'
import { InvalidDocument, parseAs } from './validate'
import { readQuestionSet } from '../questions/set'

const docs = new URL('../../docs/', import.meta.url)
const read = (url: URL): unknown => JSON.parse(readFileSync(url, 'utf8'))

describe('the schemas that are given out', () => {
  it('are those that the application uses', () => {
    expect(readdirSync(new URL('schemas/', docs)).sort()).toEqual(
      Object.keys(documents)
        .map((n) => `${n}.json`)
        .sort(),
    )
    for (const [name, schema] of Object.entries(documents))
      expect(read(new URL(`schemas/${name}.json`, docs)), `${name}: run npx tsx scripts/write-schemas.ts`).toEqual(
        JSON.parse(JSON.stringify(standalone(schema))),
      )
  })
  it.each(Object.keys(documents))('%s is a schema by itself, without this project', (name) => {
    expect(() =>
      new Ajv({ strict: true, allowUnionTypes: true, discriminator: true }).compile(
        read(new URL(`schemas/${name}.json`, docs)) as object,
      ),
    ).not.toThrow()
  })
  it('say no to a field nobody knows, in every document', () => {
    const edit = newEdit(recorded(10), 25)
    expect(() => parseAs(documents['edit-document']!, { ...edit, extra: 1 }, 'edit document')).toThrow(/“extra”/)
    expect(() =>
      parseAs(documents['caption-track']!, { ...newTrack({ cues: [] }, 'file'), extra: 1 }, 'caption track'),
    ).toThrow(InvalidDocument)
  })
})

describe('the examples in docs/formats.md', () => {
  const text = readFileSync(new URL('formats.md', docs), 'utf8')
  const examples = [...text.matchAll(/```json (\S+)\n([\s\S]*?)```/g)].map(([, name, body]) => ({
    name: name ?? '',
    body: body ?? '',
  }))
  it('are there', () => expect(examples.length).toBeGreaterThanOrEqual(6))
  it.each(examples)('$name can be read', ({ name, body }) => {
    const schema = documents[name]
    if (!schema) throw new Error(`there is no document called ${name}`)
    const data: unknown = JSON.parse(body)
    // A file may leave out what is as in an edit in which nothing has been done.
    expect(() => (name === 'edit-document' ? readEdit(data) : parseAs(schema, data, name))).not.toThrow()
  })
})

describe('the demo term', () => {
  const term = parseAs(DemoTerm, read(new URL('../public/demo/term.json', docs)), 'demo term')
  it('holds documents that the application itself would read', () => {
    for (const { edit, captions } of term.lectures) {
      if (edit) expect(readEdit(edit)).toEqual(edit)
      if (captions) expect(readTrack(captions)).toEqual(captions)
    }
    const sets = parseAs(DemoQuestions, read(new URL('../demo/publications/questions.json', docs)), 'demo questions')
    expect(Object.keys(sets).length).toBeGreaterThan(3)
    for (const set of Object.values(sets)) expect(readQuestionSet(set)).toEqual(set)
  })
  it('shows lectures in every state', () => {
    const states = term.lectures.map((l) =>
      [l.take ? 'recorded' : 'planned', l.captions?.state ?? 'none', l.release ? 'released' : 'kept'].join(' '),
    )
    for (const state of [
      'planned none kept',
      'recorded none kept',
      'recorded draft kept',
      'recorded checked released',
      'recorded on released',
      'recorded on kept',
    ])
      expect(states).toContain(state)
  })
  it('has media for every take, none over 4 MB', () => {
    for (const file of term.lectures.flatMap((l) => l.take?.feeds ?? []).map((f) => f.file))
      expect(readFileSync(new URL(`../public/demo/media/${file}`, docs)).length).toBeLessThan(4 * 2 ** 20)
  })
})
