// Keeps what every page waits for small: the build fails when the entry and all that it imports is more than a limit.
import { gzipSync } from 'node:zlib'

/** Most that the entry's JavaScript may be, gzipped, bytes. */
export const ENTRY_LIMIT = 250_000

/**
 * What the entry has a browser fetch before anything is shown, gzipped, largest first.
 * @param {Record<string, { type: string, code?: string, imports?: string[] }>} bundle by file name
 * @param {string} entry file name
 * @returns {{ file: string, size: number }[]} sizes in bytes
 */
export function entryFiles(bundle, entry) {
  const files = new Set([entry])
  for (const file of files) for (const next of bundle[file]?.imports ?? []) files.add(next)
  return [...files]
    .map((file) => ({ file, size: gzipSync(bundle[file]?.code ?? '').length }))
    .sort((a, b) => b.size - a.size)
}

/** @returns {import('vite').Plugin} */
export const entryLimit = (limit = ENTRY_LIMIT) => ({
  name: 'thaw:entry-limit',
  generateBundle(_, bundle) {
    for (const chunk of Object.values(bundle)) {
      if (chunk.type !== 'chunk' || !chunk.isEntry) continue
      const files = entryFiles(bundle, chunk.fileName)
      const size = files.reduce((sum, f) => sum + f.size, 0)
      if (size > limit)
        this.error(
          `${chunk.fileName} and what it imports is ${Math.ceil(size / 1000)} kB gzipped, and may be ${limit / 1000}: ${files
            .slice(0, 5)
            .map((f) => `${f.file} ${Math.ceil(f.size / 1000)} kB`)
            .join(', ')}. Import what single pages need where they need it.`,
        )
    }
  },
})
