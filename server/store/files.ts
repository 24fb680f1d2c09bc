/**
 * The store as files on one machine:
 *
 *     documents/<kind>/<id>.json            replaced whole
 *     journals/<kind>/<group>/<name>.jsonl  added to
 *     parts/<path>                          media, through unstorage
 *     set-aside/                            what could not be read
 *
 * One process holds a folder at a time, which is what lets it keep journals in memory and take turns without asking
 * anybody.
 */
import { createHash } from 'node:crypto'
import { readdir, readFile, rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Mutex } from 'async-mutex'
import type { Static, TSchema } from '@sinclair/typebox'
import { Type } from '@sinclair/typebox'
import { createStorage, type Driver } from 'unstorage'
import { parseAs } from '#core/schema/validate'
import { errorMessage } from '#core/text/error-message'
import { asideName, createFile, FILE_MODE, ifThere, makeFolder, removeFile, replaceFile } from './durable'
import { takeFolder } from './epoch'
import { journalFile, type JournalFile } from './journal'
import { holdFolder } from './lock.mjs'
import { partsDriver, partsOver, removeUnfinished } from './parts'
import { sealed, unsealed } from './sealed'
import type { Documents, Journals, Kept, Store } from './store'

/** Documents of a kind, small ones most of them, kept in memory. */
const MOST_DOCUMENTS = 1000
/** Characters of a document that is kept so. */
const MOST_LENGTH = 1 << 16
/** Journals kept in memory; the longest unused is read anew when it is asked for again. */
const MOST_JOURNALS = 2000
/** Entries of one start of the server; `seq` is the number of the start, and within it the number of the entry. */
const ENTRIES_PER_START = 2 ** 32

/** A line of a journal. */
const Line = Type.Object({ seq: Type.Integer({ minimum: 1 }), entry: Type.Unknown() })

const Starts = Type.Object({ starts: Type.Integer({ minimum: 0 }) })

export interface FileStoreSettings {
  folder: string
  /** Where parts of media go; files in the same folder when absent. */
  parts?: Driver
  log?(says: string): void
  /** Another process has taken the folder, and every write fails from now on. */
  onLost?(error: Error): void
}

/**
 * The last start of which a journal has an entry, where the count of starts is lost: numbers are never given twice, and
 * never become smaller.
 */
async function startsIn(journals: string): Promise<number> {
  const entries = (await ifThere(readdir(journals, { recursive: true, withFileTypes: true }))) ?? []
  let last = 0
  for (const entry of entries)
    if (entry.isFile() && entry.name.endsWith('.jsonl')) {
      const text = await readFile(join(entry.parentPath, entry.name), 'utf8')
      for (const [, seq] of text.matchAll(/^\{(?:"sum":"[0-9a-f]+",)?"seq":(\d+)/gm))
        last = Math.max(last, Math.floor(Number(seq) / ENTRIES_PER_START))
    }
  return last
}

/** File name of a journal: names of people may hold anything and be long. */
const journalName = (name: string) => createHash('sha256').update(name).digest('hex').slice(0, 40)

/**
 * Opens the store of a folder.
 * @throws {Error} with a sentence when another process holds the folder
 */
export async function openFileStore(settings: FileStoreSettings): Promise<Store> {
  const { folder, parts, log = console.error, onLost = (error) => log(error.message) } = settings
  await makeFolder(folder)
  const letGo = await holdFolder(folder)
  if (!letGo)
    throw new Error(`Another Thaw server uses the folder ${folder}. Stop it, or set THAW_DATA to another folder.`)
  const guard = takeFolder(folder, onLost)
  await removeUnfinished(folder)
  const turns = new Map<string, Mutex>()

  async function exclusive<T>(name: string, task: () => Promise<T>): Promise<T> {
    const mutex = turns.get(name) ?? new Mutex()
    turns.set(name, mutex)
    try {
      return await mutex.runExclusive(task)
    } finally {
      if (!mutex.isLocked()) turns.delete(name)
    }
  }

  /** Sets something aside and says so; the sentence stands beside it, for after a restart. */
  async function tellAside(name: string, move: (to: string) => Promise<void>, says: string): Promise<void> {
    const aside = join(folder, 'set-aside')
    await makeFolder(aside)
    const to = asideName(aside, name)
    await move(to)
    log(says)
    // Where there is no room for the sentence, the log has it.
    await writeFile(`${to}.says`, says, { mode: FILE_MODE }).catch((error: unknown) => log(String(error)))
  }

  function makeDocuments<S extends TSchema>(
    kind: string,
    schema: S,
    upgrade: (data: unknown, id: string) => unknown,
  ): Documents<Static<S>> {
    const path = (id: string) => join(folder, 'documents', kind, `${id}.json`)
    /** As read or written last, and that there is none; nobody else writes. */
    const held = new Map<string, Static<S> | null>()
    /** Counts changes: what was read while one went on is not held. */
    let changes = 0
    const hold = (id: string, value: Static<S> | null, size: number) => {
      held.delete(id)
      if (size > MOST_LENGTH) return
      held.set(id, value)
      for (const oldest of held.keys()) if (held.size > MOST_DOCUMENTS) held.delete(oldest)
    }
    const change = <T>(id: string, text: string, value: Static<S> | null, act: () => Promise<T>): Promise<T> =>
      exclusive(`document ${kind} ${id}`, async () => {
        changes++
        held.delete(id)
        await guard()
        const done = await act()
        changes++
        if (done !== false) hold(id, value, text.length)
        return done
      })
    async function load(id: string): Promise<Static<S> | null> {
      const text = await ifThere(readFile(path(id), 'utf8'))
      if (text === null) return null
      try {
        return parseAs(schema, upgrade(JSON.parse(unsealed(text)), id), `stored document (${kind})`)
      } catch (error) {
        const why = errorMessage(error)
        const move = async (to: string) => void (await ifThere(rename(path(id), to)))
        await tellAside(
          `${kind}-${id}.json`,
          move,
          `“${id}” (${kind}) could not be read and was set aside; everything else is served. ${why}`,
        )
        return null
      }
    }
    return {
      async read(id) {
        const known = held.get(id)
        if (known !== undefined) return known
        const before = changes
        const value = await load(id)
        if (before === changes && !(value && JSON.stringify(value).length > MOST_LENGTH)) hold(id, value, 0)
        return value
      },
      async write(id, value) {
        const text = JSON.stringify(value)
        await change(id, text, value, () => replaceFile(path(id), sealed(text)))
      },
      async create(id, value) {
        const text = JSON.stringify(value)
        return change(id, text, value, () => createFile(path(id), sealed(text)))
      },
      remove: (id) => change(id, '', null, () => removeFile(path(id))),
      async ids() {
        const names = (await ifThere(readdir(join(folder, 'documents', kind)))) ?? []
        return names.filter((n) => n.endsWith('.json')).map((n) => n.slice(0, -'.json'.length))
      },
    }
  }

  const kinds = new Map<string, unknown>()
  /** One for each kind, for all who ask, as it holds what was read. */
  function documents<S extends TSchema>(
    kind: string,
    schema: S,
    upgrade: (data: unknown, id: string) => unknown = (data) => data,
  ): Documents<Static<S>> {
    const one = (kinds.get(kind) as Documents<Static<S>> | undefined) ?? makeDocuments(kind, schema, upgrade)
    kinds.set(kind, one)
    return one
  }

  const counter = documents('starts', Starts)
  const starts = ((await counter.read('server'))?.starts ?? (await startsIn(join(folder, 'journals')))) + 1
  let given = 0
  let counted: Promise<void> | null = null
  /**
   * Before the first entry of this start. On a full disk that fails, and is tried with the next; everything there is,
   * is served.
   */
  function countStart(): Promise<void> {
    counted ??= counter.write('server', { starts }).catch((error: unknown) => {
      counted = null
      throw error
    })
    return counted
  }

  function journals<S extends TSchema>(
    kind: string,
    schema: S,
    idOf: (entry: Static<S>) => string,
    upgrade: (data: unknown) => unknown,
    fold?: (held: readonly Kept<Static<S>>[]) => Kept<Static<S>>[],
  ): Journals<Static<S>> {
    type Entry = Kept<Static<S>>
    const base = join(folder, 'journals', kind)
    const open = new Map<string, JournalFile<Entry>>()
    /** Appends under way, by group: a reader waits for them, as they may have smaller numbers than what it sees. */
    const underWay = new Map<string, Set<Promise<unknown>>>()

    function parse(line: string): Entry | null {
      try {
        const { seq, entry } = parseAs(Line, JSON.parse(unsealed(line)), 'journal entry')
        return { ...(parseAs(schema, upgrade(entry), 'journal entry') as Static<S> & object), seq } as Entry
      } catch {
        return null
      }
    }
    function at(group: string, file: string): JournalFile<Entry> {
      const key = `${group}/${file}`
      const known = open.get(key)
      if (known) {
        open.delete(key)
        open.set(key, known)
        return known
      }
      const onUnreadable = (line: string) => {
        const says = `An entry of a journal (${kind}, ${group}) could not be read and was passed over; the others are served.`
        void tellAside(`${kind}-${group}.jsonl`, (to) => writeFile(to, line, { mode: FILE_MODE }), says)
      }
      const made = journalFile<Entry>(join(base, group, file), {
        ...{ parse, onUnreadable, fold, guard },
        onTrouble: (error) => log(`A journal (${kind}, ${group}) could not be made shorter: ${errorMessage(error)}`),
        format: ({ seq, ...entry }) => sealed(JSON.stringify({ seq, entry })),
      })
      open.set(key, made)
      return made
    }
    function forget(): void {
      for (const [key, journal] of open) {
        if (open.size <= MOST_JOURNALS) return
        if (!journal.busy()) open.delete(key)
      }
    }

    return {
      async append(group, name, decide) {
        await countStart()
        const journal = at(group, `${journalName(name)}.jsonl`)
        const appended = journal.append((held) => {
          const ids = new Set(held.map((e) => idOf(e)))
          const fresh: Entry[] = []
          for (const entry of decide(held)) {
            if (ids.has(idOf(entry))) continue
            ids.add(idOf(entry))
            fresh.push({ ...(entry as Static<S> & object), seq: starts * ENTRIES_PER_START + ++given } as Entry)
          }
          return fresh
        })
        const here = underWay.get(group) ?? new Set()
        underWay.set(group, here.add(appended))
        try {
          return await appended
        } finally {
          here.delete(appended)
          if (here.size === 0) underWay.delete(group)
          forget()
        }
      },
      async read(group, name) {
        const entries = await at(group, `${journalName(name)}.jsonl`).read()
        forget()
        return entries
      },
      async remove(group, name, decide) {
        const removed = await at(group, `${journalName(name)}.jsonl`).remove(decide)
        forget()
        return removed
      },
      async readGroup(group, after) {
        await Promise.allSettled(underWay.get(group) ?? [])
        const files = ((await ifThere(readdir(join(base, group)))) ?? []).filter((n) => n.endsWith('.jsonl'))
        const all: Entry[] = []
        for (const file of files)
          for (const entry of await at(group, file).read()) if (entry.seq > after) all.push(entry)
        forget()
        return all.sort((a, b) => a.seq - b.seq)
      },
      groups: async () => (await ifThere(readdir(base))) ?? [],
    }
  }

  const known = new Map<string, unknown>()
  return {
    documents,
    journals<S extends TSchema>(
      kind: string,
      schema: S,
      idOf: (entry: Static<S>) => string,
      upgrade: (data: unknown) => unknown = (data) => data,
      fold?: (held: readonly Kept<Static<S>>[]) => Kept<Static<S>>[],
    ) {
      // One for all who ask, as it holds what is under way.
      const one = (known.get(kind) as Journals<Static<S>> | undefined) ?? journals(kind, schema, idOf, upgrade, fold)
      known.set(kind, one)
      return one
    },
    parts: partsOver(createStorage({ driver: parts ?? partsDriver(join(folder, 'parts')) }), guard),
    exclusive,
    async setAside() {
      const aside = join(folder, 'set-aside')
      const names = ((await ifThere(readdir(aside))) ?? []).filter((n) => !n.endsWith('.says'))
      return Promise.all(
        names.map(async (name) => ({
          name,
          // On a full disk there was no room for it, or for half of it.
          says:
            (await ifThere(readFile(join(aside, `${name}.says`), 'utf8'))) ||
            `“${name}” could not be read and was set aside; everything else is served.`,
        })),
      )
    },
    close: letGo,
  }
}
