/** What the server stored, read from its files as another program would. */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { PublicationManifest } from '../core/schema/publication'

/**
 * The published film of a lecture's first picture, or of another, put together from its stored parts, and the time map's
 * length (s) that its manifest carries.
 */
export function published(dataFolder: string, title: string, feed = 0): { file: string; duration: number } {
  const read = <T>(...path: string[]) => JSON.parse(readFileSync(join(dataFolder, 'documents', ...path), 'utf8')) as T
  for (const name of readdirSync(join(dataFolder, 'documents', 'publications'))) {
    const { current } = read<{ current: string }>('publications', name)
    const { manifest } = read<{ manifest: PublicationManifest }>('versions', `${current}.json`)
    if (manifest.title !== title) continue
    const media = join(dataFolder, 'parts', 'media', current, manifest.feeds[feed]?.file ?? '')
    const file = join(dataFolder, `judged-${name}-${feed}.mp4`)
    writeFileSync(
      file,
      Buffer.concat(
        readdirSync(media)
          .sort()
          .map((p) => readFileSync(join(media, p))),
      ),
      { mode: 0o600 },
    )
    return { file, duration: manifest.duration }
  }
  throw new Error(`nothing is published as ${title}`)
}
