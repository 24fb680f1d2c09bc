/** What the server stored, read from its files as another program would. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/**
 * The published media of a lecture, put together from its stored parts, and the time map's length (s) that its
 * manifest carries. Folders that an upload left empty hold nothing and are passed over.
 */
export function published(dataFolder: string, title: string): { file: string; duration: number } {
  const pub = join(dataFolder, 'pub')
  for (const id of readdirSync(pub))
    for (const version of readdirSync(join(pub, id, 'v'))) {
      const folder = join(pub, id, 'v', version)
      if (!existsSync(join(folder, 'manifest.json'))) continue
      const manifest = JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8')) as { title: string; duration: number }
      if (manifest.title !== title) continue
      const parts = readdirSync(join(folder, 'media.mp4')).sort().map((p) => readFileSync(join(folder, 'media.mp4', p)))
      const file = join(dataFolder, `judged-${id}.mp4`)
      writeFileSync(file, Buffer.concat(parts))
      return { file, duration: manifest.duration }
    }
  throw new Error(`nothing is published as ${title}`)
}
