/** What is in a ZIP archive, as Debian's Python reads it: a program that has nothing to do with this one. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** By their paths in it. */
export function unzipped(archive: string): Map<string, Buffer> {
  const folder = mkdtempSync(join(tmpdir(), 'thaw-unzipped-'))
  try {
    execFileSync('python3', ['-m', 'zipfile', '-e', archive, folder])
    const paths = readdirSync(folder, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name))
    return new Map(paths.map((path) => [path.slice(folder.length + 1), readFileSync(path)]))
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
