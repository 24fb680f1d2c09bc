/**
 * Debian's pocketsphinx as a process: words come out as it hears them. One runs at a time, as it fills a core;
 * others wait their turn.
 */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'
import { access } from 'node:fs/promises'
import { resolve } from 'node:path'
import { createInterface } from 'node:readline'
import { readSphinxLine } from '#core/captions/sphinx'
import type { Word } from '#core/schema/captions'

const PROGRAM = process.env.THAW_RECOGNISER ?? '/usr/bin/pocketsphinx_continuous'

/** Where sound lies while it is listened to; whatever a killed server left there is removed at the next start. */
export const speechFolder = (): string => resolve(process.env.THAW_DATA ?? '.data', 'speech')

/** Linux ends a program with its parent when asked to, however the parent ends (prctl(2), PR_SET_PDEATHSIG). */
const WITH_PARENT = '/usr/bin/setpriv'

/** Whether the recogniser is installed here. */
export async function hasRecogniser(): Promise<boolean> {
  try {
    await access(PROGRAM)
    return true
  } catch {
    return false
  }
}

export const RECOGNISER_MISSING =
  'The speech recogniser is not installed on the server. On Debian: apt-get install pocketsphinx pocketsphinx-en-us. Everything else works without it; captions can also be written by hand or come as a file.'

/**
 * Recognises a WAVE file (16 kHz, mono, 16 bit).
 * @throws {Error} with a sentence when the process fails
 */
export async function* recognise(wav: string, signal: AbortSignal): AsyncGenerator<Word> {
  const command = [PROGRAM, '-infile', wav, '-time', 'yes', '-logfn', '/dev/null']
  if (existsSync(WITH_PARENT)) command.unshift(WITH_PARENT, '--pdeathsig', 'KILL')
  const [program = PROGRAM, ...args] = command
  const child = spawn(program, args, { stdio: ['ignore', 'pipe', 'pipe'], signal })
  let complaint = ''
  child.stderr.on('data', (data: Buffer) => {
    complaint = (complaint + data.toString()).slice(-500)
  })
  const ended = new Promise<number | null>((resolve, reject) => {
    child.on('error', reject)
    child.on('close', resolve)
  })
  // A failure is looked at below, after the last line.
  ended.catch(() => undefined)
  for await (const line of createInterface({ input: child.stdout })) {
    const word = readSphinxLine(line)
    if (word) yield word
  }
  const code = await ended
  if (code !== 0) throw new Error(`The speech recogniser stopped (${code ?? 'killed'}). ${complaint.trim()}`)
}
