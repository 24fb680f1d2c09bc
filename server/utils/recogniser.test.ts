import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'

const folder = mkdtempSync(join(tmpdir(), 'thaw-recogniser-'))
afterEach(() => vi.unstubAllEnvs())

/** Loads the module with another program behind it. */
async function withProgram(script: string | null) {
  const program = join(folder, `p${Math.random().toString(36).slice(2)}`)
  if (script !== null) {
    writeFileSync(program, `#!/bin/sh\n${script}\n`)
    chmodSync(program, 0o755)
  }
  vi.stubEnv('THAW_RECOGNISER', program)
  vi.resetModules()
  return import('./recogniser')
}
async function hear(script: string, signal = new AbortController().signal) {
  const { recognise } = await withProgram(script)
  const words: string[] = []
  for await (const word of recognise('x.wav', signal)) words.push(word.text)
  return words
}

describe('the recogniser', () => {
  it('that is not installed is said to be missing', async () => {
    expect(await (await withProgram(null)).hasRecogniser()).toBe(false)
    expect(await (await withProgram('true')).hasRecogniser()).toBe(true)
  })
  it('gives words and passes over everything else', async () => {
    expect(
      await hear('echo "good morning"; echo "<s> 0 0.1 1"; echo "good(2) 0.1 0.3 0.5"; echo "morning 0.3 0.9 0.9"'),
    ).toEqual(['good', 'morning'])
  })
  it('that fails says so with what it complained of', async () => {
    await expect(hear('echo "no model" >&2; exit 3')).rejects.toThrow('The speech recogniser stopped (3). no model')
  })
  it('stops when nobody waits any more', async () => {
    const abort = new AbortController()
    setTimeout(() => abort.abort(), 100)
    await expect(hear('exec sleep 20', abort.signal)).rejects.toThrow()
    rmSync(folder, { recursive: true, force: true })
  }, 5000)
})
