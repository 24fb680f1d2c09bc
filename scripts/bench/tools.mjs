// What the benchmarks share: ffmpeg, timing, the browser's memory, and inputs that are made once.
import { execFileSync, spawnSync } from 'node:child_process'
import { existsSync, readdirSync, readFileSync, renameSync } from 'node:fs'
import { join } from 'node:path'

export const ffmpeg = (...args) =>
  void execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], {
    stdio: ['ignore', 'ignore', 'inherit'],
    maxBuffer: 1 << 28,
  })
export const ffmpegSays = (...args) => spawnSync('ffmpeg', args, { encoding: 'utf8', maxBuffer: 1 << 28 }).stderr

/** Runs something and gives seconds and its value. */
export async function timed(run) {
  const start = process.hrtime.bigint()
  const value = await run()
  return { seconds: Number(process.hrtime.bigint() - start) / 1e9, value }
}

/** A file made once: `make(path)` writes it under a passing name first. */
export async function made(folder, name, make, say) {
  const path = join(folder, name)
  if (existsSync(path)) return path
  say(`making ${name} …`)
  const dot = name.lastIndexOf('.')
  const passing = join(folder, `${name.slice(0, dot)}.making${name.slice(dot)}`)
  await make(passing)
  renameSync(passing, path)
  return path
}

export const round = (x, digits = 2) => Number(x.toFixed(digits))

/** Proportional set size of a process and all it started, MB: what it really takes, shared pages counted once. */
export function memoryOf(pid) {
  const children = new Map()
  for (const entry of readdirSync('/proc')) {
    if (!/^\d+$/.test(entry)) continue
    try {
      const parent = Number(/^\d+ \(.*\) \S (\d+)/s.exec(readFileSync(`/proc/${entry}/stat`, 'utf8'))?.[1])
      children.set(parent, [...(children.get(parent) ?? []), Number(entry)])
    } catch (error) {
      // It ended meanwhile.
      if (error.code !== 'ENOENT' && error.code !== 'ESRCH') throw error
    }
  }
  let kilobytes = 0
  const visit = (id) => {
    try {
      kilobytes += Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${id}/smaps_rollup`, 'utf8'))?.[1] ?? 0)
    } catch (error) {
      if (error.code !== 'ENOENT' && error.code !== 'ESRCH' && error.code !== 'EACCES') throw error
    }
    for (const child of children.get(id) ?? []) visit(child)
  }
  visit(pid)
  return kilobytes / 1024
}

/** Runs something and gives, besides its time and value, the browser's highest memory, MB. */
export async function watched(engine, run) {
  const pid = engine.browser.process().pid
  let peak = memoryOf(pid)
  const timer = setInterval(() => void (peak = Math.max(peak, memoryOf(pid))), 500)
  try {
    return { ...(await timed(run)), megabytes: Math.max(peak, memoryOf(pid)) }
  } finally {
    clearInterval(timer)
  }
}

/** An edit that takes these stretches (s) out, and does whatever else is given. */
export const editOf = (ranges, more = []) => {
  const commands = [...ranges.map(([from, to], i) => ({ do: 'remove', id: `cut${i}`, from, to })), ...more]
  return { format: 'thaw-edit', version: 1, duration: 0, frameRate: 0, commands, applied: commands.length }
}

/** Twelve (or any number of) stretches spread over a length (s), off the key frames and off the seconds. */
export const spread = (length, count) =>
  Array.from({ length: count }, (_, i) => {
    // A different place between two key frames each time.
    const from = ((i + 0.37) * length) / count + 1.2333 + ((i * 1.37) % 5)
    return [from, from + Math.min(7.4, length / count / 4)]
  })

export const keptOf = (ranges, length) => {
  const out = []
  let at = 0
  for (const [from, to] of ranges) {
    if (from > at) out.push([at, from])
    at = to
  }
  if (at < length) out.push([at, length])
  return out
}
