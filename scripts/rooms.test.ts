import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ESLint } from 'eslint'
import { describe, expect, it } from 'vitest'

const root = fileURLToPath(new URL('..', import.meta.url))
const eslint = new ESLint({ cwd: root })

async function complaints(file: string, code: string): Promise<string[]> {
  const [result] = await eslint.lintText(code, { filePath: root + file })
  return (result?.messages ?? []).filter((m) => m.ruleId === 'no-restricted-imports').map((m) => m.message)
}

describe('what routes have without importing it', () => {
  it('is told by its name: no two files export the same', () => {
    const folder = join(root, 'server/utils')
    const names = readdirSync(folder)
      .filter((name) => name.endsWith('.ts') && !name.endsWith('.test.ts'))
      .flatMap((name) =>
        [
          ...readFileSync(join(folder, name), 'utf8').matchAll(
            /^export (?:async )?(?:const|function\*?|class) (\w+)/gm,
          ),
        ].map(([, exported]) => exported ?? ''),
      )
    expect(names.length).toBeGreaterThan(100)
    expect(names.filter((name, i) => names.indexOf(name) < i)).toEqual([])
  })
})

describe('imports go one way', () => {
  it.each([
    ['core/time/x.ts', "import '../../media/probe'"],
    ['core/time/x.ts', "import { ref } from 'vue'"],
    ['core/time/x.ts', "import { Input } from 'mediabunny'"],
    ['core/time/x.ts', "import { readFile } from 'node:fs'"],
    ['core/time/x.ts', "import { readFile } from 'fs'"],
    ['core/time/x.ts', "import dayjs from 'dayjs'"],
    ['core/time/x.ts', "import { nanoid } from 'nanoid'"],
    ['core/time/x.ts', "import '#media/probe'"],
    ['core/time/x.ts', "import '~/db/database'"],
    ['media/x.ts', "import { db } from '../app/db/database'"],
    ['player/x.ts', "import '#media/probe'"],
    ['server/utils/x.ts', "import '../../app/services/ids'"],
    ['server/utils/x.ts', "import '#standins/course-site/site'"],
    ['standins/hall/x.ts', "import '../../server/utils/storage'"],
  ])('%s may not say %s', async (file, code) => {
    expect(await complaints(file, code)).not.toEqual([])
  })
  it.each([
    ['core/edit/x.ts', "import '../time/units'"],
    ['core/edit/x.ts', "import { bisector } from 'd3-array'"],
    ['core/edit/x.ts', "import { Type } from '@sinclair/typebox'"],
    ['media/x.ts', "import '#core/time/units'"],
    ['app/services/x.ts', "import '#media/probe'"],
    ['app/services/x.ts', "import '#player/RichText'"],
  ])('%s may say %s', async (file, code) => {
    expect(await complaints(file, code)).toEqual([])
  })
  it('as the table of the rooms in docs/architecture.md says', async () => {
    const names = ['core', 'media', 'player', 'standins', 'server', 'app']
    const rows = readFileSync(join(root, 'docs/architecture.md'), 'utf8')
      .split('\n')
      .flatMap((line) => {
        const [, room = '', may = ''] = /^\| `(\w+)\/` \|.*\| ([^|]+) \|$/.exec(line) ?? []
        return names.includes(room) ? [{ room, may }] : []
      })
    expect(rows.map(({ room }) => room).sort()).toEqual([...names].sort())
    for (const { room, may } of rows)
      for (const other of names.filter((name) => name !== room)) {
        const isAllowed = (await complaints(`${room}/deep/x.ts`, `import '#${other}/x'`)).length === 0
        expect(isAllowed, `${room} imports from ${other}`).toBe(may.split(/\W+/).includes(other))
      }
    const { may = '' } = rows.find(({ room }) => room === 'core') ?? {}
    const packages = [...may.matchAll(/`([^`]+)`/g)].map(([, name]) => name)
    expect(packages.length).toBeGreaterThan(5)
    for (const name of packages) expect(await complaints('core/deep/x.ts', `import '${name}'`)).toEqual([])
  })
  it('in every file that there is', async () => {
    const files = ['core', 'media', 'player', 'standins', 'server', 'app'].flatMap((room) =>
      readdirSync(join(root, room), { recursive: true, encoding: 'utf8' })
        .filter((name) => /\.(ts|vue)$/.test(name) && !/\.test\.ts$|\.d\.ts$/.test(name))
        .map((name) => `${room}/${name}`),
    )
    expect(files.length).toBeGreaterThan(200)
    // Only the lines that import: what else is in a file is no matter here, and to look at all of it takes long.
    for (const file of files) {
      const imports = [...readFileSync(join(root, file), 'utf8').matchAll(/(?:from|import)\s+'([^']+)'/g)].map(
        ([, name]) => `import '${name}'`,
      )
      expect(await complaints(file.replace(/\.vue$/, '.ts'), imports.join('\n')), file).toEqual([])
    }
  }, 60_000)
})
