import { ESLint } from 'eslint'
import { describe, expect, it } from 'vitest'

const root = new URL('..', import.meta.url).pathname
const eslint = new ESLint({ cwd: root })

async function complaints(file: string, code: string): Promise<string[]> {
  const [result] = await eslint.lintText(code, { filePath: root + file })
  return (result?.messages ?? []).filter((m) => m.ruleId === 'no-restricted-imports').map((m) => m.message)
}

describe('imports go one way', () => {
  it.each([
    ['core/time/x.ts', "import '../../media/probe'"],
    ['core/time/x.ts', "import { ref } from 'vue'"],
    ['core/time/x.ts', "import { Input } from 'mediabunny'"],
    ['core/time/x.ts', "import { readFile } from 'node:fs'"],
    ['media/x.ts', "import { db } from '../app/db/database'"],
    ['player/x.ts', "import '#media/probe'"],
    ['server/utils/x.ts', "import '../../app/services/ids'"],
    ['standins/hall/x.ts', "import '../../server/utils/storage'"],
  ])('%s may not say %s', async (file, code) => {
    expect(await complaints(file, code)).toHaveLength(1)
  })
  it.each([
    ['core/edit/x.ts', "import '../time/units'"],
    ['media/x.ts', "import '#core/time/units'"],
    ['app/services/x.ts', "import '#media/probe'"],
    ['server/utils/x.ts', "import '#standins/course-site/site'"],
  ])('%s may say %s', async (file, code) => {
    expect(await complaints(file, code)).toEqual([])
  })
})
