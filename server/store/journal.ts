/**
 * One journal as a file: an entry a line, added at the end and flushed before anybody is told. Those who write at the
 * same moment share one flush. A last line without its end was never acknowledged: it is cut off. One whose entries can
 * be folded is written anew, beside the old file and then in its place, when it has grown to twice what they come to.
 */
import { open, readFile, rm } from 'node:fs/promises'
import { dirname } from 'node:path'
import { FILE_MODE, ifThere, makeFolder, replaceFile, syncFolder } from './durable'
import type { Guard } from './epoch'

export interface JournalFile<T> {
  read(): Promise<readonly T[]>
  append(decide: (held: readonly T[]) => readonly T[]): Promise<readonly T[]>
  /** Removes all of it, if `decide` says so of what is there then. @returns whether it did */
  remove(decide: (held: readonly T[]) => boolean): Promise<boolean>
  /** Whether something is being read or written, and it must not be forgotten. */
  busy(): boolean
}

export interface JournalSettings<T> {
  /** The entry of a line, or null when it cannot be read. */
  parse(line: string): T | null
  format(entry: T): string
  /** A line that cannot be read: it is told once, and the others are served. */
  onUnreadable(line: string): void
  /** Entries that say what all of them say. */
  fold?: ((held: readonly T[]) => T[]) | undefined
  /** Called before anything is written. */
  guard: Guard
  /** What could not be done and has cost nothing, such as folding on a full disk. */
  onTrouble(error: unknown): void
}

/** Entries that a journal has at least before it is folded. */
const FOLD_FROM = 64

interface Waiting<T> {
  decide(held: readonly T[]): readonly T[]
  resolve(held: readonly T[]): void
  reject(error: unknown): void
}

export function journalFile<T>(path: string, settings: JournalSettings<T>): JournalFile<T> {
  const { parse, format, onUnreadable, fold, guard, onTrouble } = settings
  let held: T[] | null = null
  /** Bytes of the file up to the end of its last whole line, and whether there is a file. */
  let length = 0
  let exists = false
  /** Whether something may stand behind `length`. */
  let torn = false
  let loading: Promise<T[]> | null = null
  let writing = false
  let waiting: Waiting<T>[] = []
  /** How many entries it may have before it is folded. */
  let room = FOLD_FROM

  async function load(): Promise<T[]> {
    const bytes = await ifThere(readFile(path))
    const entries: T[] = []
    if (bytes) {
      exists = true
      length = bytes.lastIndexOf(0x0a) + 1
      torn = bytes.length > length
      for (const line of bytes.toString('utf8', 0, length).split('\n')) {
        if (line === '') continue
        const entry = parse(line)
        if (entry === null) onUnreadable(line)
        else entries.push(entry)
      }
    }
    return entries
  }

  const entries = async (): Promise<T[]> => {
    if (held) return held
    loading ??= load().finally(() => (loading = null))
    return (held = await loading)
  }

  async function write(lines: Buffer): Promise<void> {
    await guard()
    if (!exists) await makeFolder(dirname(path))
    const file = await open(path, exists ? 'r+' : 'a+', FILE_MODE)
    try {
      if (torn) await file.truncate(length)
      torn = true
      for (let at = 0; at < lines.length;)
        at += (await file.write(lines, at, lines.length - at, length + at)).bytesWritten
      await file.datasync()
    } catch (error) {
      // What is there of it was not acknowledged. Should this not work either, it is done before the next entry.
      await file.truncate(length).then(
        () => (torn = false),
        () => undefined,
      )
      throw error
    } finally {
      await file.close()
    }
    if (!exists) await syncFolder(dirname(path))
    exists = true
    torn = false
    length += lines.length
  }

  /** Takes a turn: what of it cannot be decided is refused, the rest is written with one flush. */
  async function take(batch: readonly Waiting<T>[]): Promise<void> {
    const before = await entries()
    const all = [...before]
    const decided: Waiting<T>[] = []
    for (const one of batch)
      try {
        for (const entry of one.decide(all)) all.push(entry)
        decided.push(one)
      } catch (error) {
        one.reject(error)
      }
    if (all.length > before.length) {
      await write(linesOf(all.slice(before.length)))
      held = all
    }
    for (const { resolve } of decided) resolve(all)
    if (fold && all.length > room) await writeFolded(fold(all))
  }

  const linesOf = (entries: readonly T[]): Buffer => Buffer.from(entries.map((e) => `${format(e)}\n`).join(''))

  /** In place of all that is there. What was acknowledged is in either file, should this be cut off or fail. */
  async function writeFolded(folded: T[]): Promise<void> {
    room = Math.max(FOLD_FROM, 2 * folded.length)
    const lines = linesOf(folded)
    try {
      await guard()
      await replaceFile(path, lines)
      ;[held, length, torn] = [folded, lines.length, false]
    } catch (error) {
      // Whichever file stands there now is read anew.
      held = null
      onTrouble(error)
    }
  }

  async function work(): Promise<void> {
    writing = true
    while (waiting.length > 0) {
      const batch = waiting
      waiting = []
      try {
        await take(batch)
      } catch (error) {
        for (const { reject } of batch) reject(error)
      }
    }
    writing = false
  }

  const append = (decide: Waiting<T>['decide']) =>
    new Promise<readonly T[]>((resolve, reject) => {
      waiting.push({ decide, resolve, reject })
      if (!writing) void work()
    })

  async function remove(decide: (held: readonly T[]) => boolean): Promise<boolean> {
    // What was asked for before is written first; what comes while it goes waits for the file to be gone.
    while (writing) await append(() => [])
    writing = true
    try {
      if (!decide(await entries())) return false
      await guard()
      await rm(path, { force: true })
      if (exists) await syncFolder(dirname(path))
      held = []
      length = 0
      exists = torn = false
      return true
    } finally {
      void work()
    }
  }

  return { read: entries, busy: () => writing || loading !== null, append, remove }
}
