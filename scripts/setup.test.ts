import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'

const root = fileURLToPath(new URL('..', import.meta.url))

/** The nearest tsconfig.json at or above a folder, which is the one that Vite goes by. */
function nearestConfig(folder: string): string {
  const here = join(folder, 'tsconfig.json')
  return existsSync(here) ? here : nearestConfig(dirname(folder))
}

/** A configuration and those that it extends, one after the other. */
function chain(config: string): string[] {
  const parent = /"extends":\s*"([^"]+)"/.exec(readFileSync(config, 'utf8'))?.[1]
  return [config, ...(parent ? chain(join(dirname(config), parent)) : [])]
}

describe('what is built before the pages are', () => {
  const configs = ['player', 'standins', 'media'].flatMap((room) =>
    readdirSync(join(root, room), { recursive: true, encoding: 'utf8' })
      .filter((path) => path.endsWith('vite.config.ts'))
      .map((path) => join(room, path)),
  )

  it('is the player, the stand-ins and the engine', () => expect(configs.length).toBeGreaterThanOrEqual(3))

  it.each(configs)('%s needs nothing that only the build of the pages makes', (config) => {
    const chained = chain(nearestConfig(dirname(join(root, config))))
    for (const file of chained) {
      expect(existsSync(file), file).toBe(true)
      expect(readFileSync(file, 'utf8'), file).not.toContain('.nuxt')
    }
  })
})
