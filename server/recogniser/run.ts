/** Runs a program to its end, so that it does not outlive the server and gives way to everything else. */
import { spawn } from 'node:child_process'
import { existsSync } from 'node:fs'

/** Linux ends a program with its parent when asked to, however the parent ends (prctl(2), PR_SET_PDEATHSIG). */
const WITH_PARENT = '/usr/bin/setpriv'
/** What is printed by a program that has gone wrong is not kept without end, bytes. */
const MOST = 16 * 2 ** 20

/**
 * @returns what it printed
 * @throws {Error} with a sentence when it fails or cannot be started
 */
export async function runProgram(program: string, args: readonly string[], signal: AbortSignal): Promise<string> {
  const command = ['/usr/bin/nice', '-n', '10', program, ...args]
  if (existsSync(WITH_PARENT)) command.unshift(WITH_PARENT, '--pdeathsig', 'KILL')
  const [first = program, ...rest] = command
  signal.throwIfAborted()
  const child = spawn(first, rest, { stdio: ['ignore', 'pipe', 'pipe'], detached: true })
  // With all that it started: in a group of its own.
  const end = () => {
    try {
      if (child.pid !== undefined) process.kill(-child.pid, 'SIGKILL')
    } catch (error) {
      // It has ended by itself.
      if ((error as NodeJS.ErrnoException).code !== 'ESRCH') throw error
    }
  }
  signal.addEventListener('abort', end)
  const printed: Buffer[] = []
  let size = 0
  let complaint = ''
  child.stdout.on('data', (data: Buffer) => {
    size += data.length
    if (size > MOST) end()
    else printed.push(data)
  })
  child.stderr.on('data', (data: Buffer) => {
    complaint = (complaint + data.toString()).slice(-500)
  })
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('error', reject)
    child.on('close', resolve)
  }).finally(() => signal.removeEventListener('abort', end))
  signal.throwIfAborted()
  if (code !== 0)
    throw new Error(
      `The speech recogniser stopped (${size > MOST ? 'it said too much' : (code ?? 'killed')}). ${complaint.trim()}`.trim(),
    )
  return Buffer.concat(printed).toString()
}
