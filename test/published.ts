/** What the server stored, read from its files as another program would. */
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { PublicationManifest } from '../core/schema/publication'

interface Published {
  manifest: PublicationManifest
  /** Puts one of its files together from its stored parts. @returns where it is then */
  fileOf(name: string): string
}

function publication(dataFolder: string, title: string): Published {
  const read = <T>(...path: string[]) => JSON.parse(readFileSync(join(dataFolder, 'documents', ...path), 'utf8')) as T
  for (const name of readdirSync(join(dataFolder, 'documents', 'publications'))) {
    const { current } = read<{ current: string }>('publications', name)
    const { manifest } = read<{ manifest: PublicationManifest }>('versions', `${current}.json`)
    if (manifest.title !== title) continue
    const fileOf = (part: string) => {
      const media = join(dataFolder, 'parts', 'media', current, part)
      const file = join(dataFolder, `judged-${manifest.id}-${part}`)
      const parts = readdirSync(media).sort()
      writeFileSync(file, Buffer.concat(parts.map((p) => readFileSync(join(media, p)))), { mode: 0o600 })
      return file
    }
    return { manifest, fileOf }
  }
  throw new Error(`nothing is published as ${title}`)
}

/** The published film of a lecture's first picture, or of another, and the time map's length (s) that its manifest carries. */
export function published(dataFolder: string, title: string, feed = 0): { file: string; duration: number } {
  const { manifest, fileOf } = publication(dataFolder, title)
  return { file: fileOf(manifest.feeds[feed]?.file ?? ''), duration: manifest.duration }
}

/** The published stills of a lecture as one picture, and for each the stretch that it stands for (s) and its place (px). */
export function publishedStills(
  dataFolder: string,
  title: string,
): { file: string; stills: { from: number; to: number; x: number; y: number; width: number; height: number }[] } {
  const { manifest, fileOf } = publication(dataFolder, title)
  if (!manifest.stills) throw new Error(`${title} was published without stills`)
  const { file, every, columns, width, height } = manifest.stills
  const stills = Array.from({ length: Math.ceil(manifest.duration / every) }, (_, i) => ({
    from: i * every,
    to: Math.min(manifest.duration, (i + 1) * every),
    x: (i % columns) * width,
    y: Math.floor(i / columns) * height,
    ...{ width, height },
  }))
  return { file: fileOf(file), stills }
}
