/** A first start in a folder with a space and an umlaut, on a machine without any of the programs that Debian adds. */
import { execFileSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, expect, test } from 'vitest'
import { forTests } from '../../scripts/setup.mjs'
import { lookAround, start, warnings } from '../first-start.mjs'
import { say } from './server'

const root = fileURLToPath(new URL('../..', import.meta.url))
const folder = await mkdtemp(join(tmpdir(), 'thaw-first-'))
afterAll(() => rm(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 300 }))

/** Hides files from a command by laying an empty one over each, for that command alone. */
const without = (files: string[]) => [
  ...['unshare', '--mount', 'sh', '-c'],
  ...[`${files.map((file) => `mount --bind /dev/null '${file}'`).join(' && ')} && exec "$@"`, 'sh'],
]

test('starts from a path with a space and an umlaut, without Debian’s extras', async () => {
  const checkout = join(folder, 'Hörsaal 3, zweiter Versuch')
  execFileSync('git', ['clone', '-q', root, checkout])
  const extras = forTests.flatMap(({ program }) => program).filter((file) => existsSync(file))
  const first = await start(checkout, [], without(extras))
  expect(warnings(first.said)).toEqual([])
  await lookAround(first.said).finally(first.stop)
  const second = await start(checkout, [], without(extras))
  await second.stop()
  say(`first start ${Math.round(first.seconds)} s, second ${second.seconds.toFixed(1)} s`)
})
