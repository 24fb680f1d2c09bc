import { randomBytes } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { build } from 'vite'
import { afterAll, expect, it } from 'vitest'
import { entryLimit } from './entry-limit.mjs'

const folder = mkdtempSync(join(tmpdir(), 'thaw-entry-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

/** Builds an entry that imports and, when it is needed, fetches a file of 20 kB each. */
async function made(limit: number): Promise<unknown> {
  for (const name of ['now', 'later'])
    writeFileSync(join(folder, `${name}.js`), `export const text = '${randomBytes(15_000).toString('base64')}'`)
  writeFileSync(
    join(folder, 'entry.js'),
    "import { text } from './now.js'\nconsole.log(text, await import('./later.js'))",
  )
  const input = join(folder, 'entry.js')
  return build({
    ...{ configFile: false, logLevel: 'silent', root: folder, plugins: [entryLimit(limit)] },
    build: { write: false, modulePreload: false, rolldownOptions: { input } },
  })
}

it('lets an entry pass that is small enough, whatever is fetched later', async () => {
  await expect(made(20_000)).resolves.toBeDefined()
})
it('fails the build above the limit, and names what is large', async () => {
  await expect(made(10_000)).rejects.toThrow(/entry-\S+\.js and what it imports is \d+ kB gzipped, and may be 10: /)
})
