import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createContext, runInContext } from 'node:vm'
import { build, type Rolldown } from 'vite'
import { afterAll, describe, expect, it } from 'vitest'
import { Finish } from '../core/schema/finish'
import { QuestionSet } from '../core/schema/questions'
import { parseAs } from '../core/schema/validate'
import { newQuestionSet } from '../core/questions/set'
import { oneRight } from '../test/questions'
import { compiledSchemas } from './compiled-schemas.mjs'
import { rooms } from './rooms.mjs'

const folder = mkdtempSync(join(tmpdir(), 'thaw-checks-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** What a page would be given for a module that sets `checked`. */
async function built(module: string): Promise<string> {
  const entry = join(folder, 'entry.js')
  writeFileSync(entry, `import { parseAs } from '#core/schema/validate'\n${module}`)
  const made = (await build({
    ...{ configFile: false, logLevel: 'silent', root: folder, plugins: [compiledSchemas()] },
    resolve: { alias: rooms },
    build: { write: false, modulePreload: false, minify: true, rolldownOptions: { input: entry } },
  })) as Rolldown.RolldownOutput
  return made.output[0].code
}
const says = (check: () => unknown): unknown => {
  try {
    return check()
  } catch (error) {
    return (error as Error).message
  }
}

describe('checks that are made when a page is built', () => {
  it('say what Ajv says, where no text may be run as code', { timeout: 60_000 }, async () => {
    const code = await built(`
      import { Finish } from '#core/schema/finish'
      import { QuestionSet as SetSchema } from '#core/schema/questions'
      // One whose schema is made of parts of others, though there are none in a page.
      import { readKeys } from '#core/packages/upgrade'
      globalThis.readKeys = readKeys
      globalThis.finish = (data) => parseAs(Finish, data, 'finish')
      globalThis.questions = (data) => parseAs(SetSchema, data, 'question set')`)
    const page = createContext({}, { codeGeneration: { strings: false, wasm: false } })
    runInContext(code, page)
    const there = (what: string, data: unknown) =>
      says(() => runInContext(`JSON.stringify(${what}(${JSON.stringify(data)}))`, page))
    const here = (schema: typeof Finish | typeof QuestionSet, what: string, data: unknown) =>
      says(() => JSON.stringify(parseAs(schema, data, what)))

    const set = newQuestionSet('Ice')
    const { open, key } = oneRight('q', { a: 'ice', b: 'snow' }, { explanation: 'because' })
    const asked = { ...set, checkpoints: [{ id: 'c', at: 3, questions: [{ open, key }] }] }
    expect(here(QuestionSet, 'question set', asked)).toContain('"ice"')
    const wrong = [
      ...[asked, set, {}, null, { ...asked, more: 1 }, { ...asked, title: 'x'.repeat(5000) }],
      { ...asked, checkpoints: [{ id: 'c', at: -3, questions: [{ open, key }] }] },
      { ...asked, checkpoints: [{ id: 'c', at: 3, questions: [{ open: { ...open, kind: 'riddle' }, key }] }] },
      { ...asked, checkpoints: [{ id: 'c', at: 3, questions: [{ open: { ...open, prompt: [{ a: 1 }] }, key }] }] },
    ]
    for (const data of wrong) expect(there('questions', data)).toBe(here(QuestionSet, 'question set', data))
    for (const data of [{}, { version: 1, id: 'f', name: '' }, 7])
      expect(there('finish', data)).toBe(here(Finish, 'finish', data))
  })
  it('are made of schemas alone that a module of core exports', { timeout: 60_000 }, async () => {
    await expect(built("parseAs({ type: 'string' }, 'x', 'text')")).rejects.toThrow('not made on the spot')
    await expect(built("const Text = { type: 'string' }\nparseAs(Text, 'x', 'text')")).rejects.toThrow(
      'Text has to be exported by a module of core/',
    )
  })
})
