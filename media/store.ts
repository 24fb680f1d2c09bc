/**
 * Where output goes while it is made, so that it never has to sit in memory: files in the origin's private file
 * system (the application), or a server on this machine that writes them (the command line). Written at any position.
 */
import { StreamTarget, type StreamTargetChunk } from 'mediabunny'

const FOLDER = 'scratch'
/** Bytes written together, and how many such pieces may be on their way to the server at once. */
const CHUNK = 2 << 20
const UNDERWAY = 3

const FULL = 'The browser’s storage is full. Nothing was lost; make room and try again.'

/** A place for the files of one output. Paths are plain names. */
export interface Store {
  open(path: string): Promise<StreamTarget>
  /** Writes a small file at once. */
  put(path: string, text: string): Promise<void>
  /** Bytes of a file that was written. */
  read(path: string, at: number, length: number): Promise<Uint8Array>
  /** Writes over bytes of a file that was written. */
  write(path: string, at: number, bytes: Uint8Array<ArrayBuffer>): Promise<void>
  /** Moves everything from `from` on `by` bytes towards the beginning; the file is shorter by as much then. */
  moveUp(path: string, from: number, by: number): Promise<void>
  /** Closes everything. */
  finish(): Promise<void>
  /** Closes and removes everything. */
  discard(): Promise<void>
}

/** How a worker is told where to write. */
export type StoreAddress = { kind: 'scratch'; name: string } | { kind: 'http'; url: string }

export const openStore = (address: StoreAddress): Store =>
  address.kind === 'scratch' ? scratchStore(address.name) : httpStore(address.url)

const streamTo = (write: (chunk: StreamTargetChunk) => void | Promise<void>) =>
  new StreamTarget(new WritableStream<StreamTargetChunk>({ write }), { chunked: true, chunkSize: CHUNK })

async function folder(): Promise<FileSystemDirectoryHandle> {
  return (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true })
}

const scratchName = (name: string, path: string) => `${name}~${path}`

/** Only in a dedicated worker, where synchronous access handles exist. */
function scratchStore(name: string): Store {
  const open = new Map<string, FileSystemSyncAccessHandle>()
  const close = () => {
    for (const access of open.values()) {
      access.flush()
      access.close()
    }
    open.clear()
  }
  const create = async (path: string) => {
    const handle = await (await folder()).getFileHandle(scratchName(name, path), { create: true })
    const access = await handle.createSyncAccessHandle()
    access.truncate(0)
    open.set(path, access)
    return ({ data, position }: { data: BufferSource; position: number }) => {
      if (access.write(data, { at: position }) < data.byteLength) throw new Error(FULL)
    }
  }
  const known = (path: string) => {
    const access = open.get(path)
    if (!access) throw new Error(`${path} is not being written.`)
    return access
  }
  return {
    open: async (path) => streamTo(await create(path)),
    async read(path, at, length) {
      const bytes = new Uint8Array(length)
      return bytes.subarray(0, known(path).read(bytes, { at }))
    },
    async write(path, at, bytes) {
      if (known(path).write(bytes, { at }) < bytes.byteLength) throw new Error(FULL)
    },
    async moveUp(path, from, by) {
      const access = known(path)
      const size = access.getSize()
      const block = new Uint8Array(4 * CHUNK)
      for (let at = from; at < size; at += block.length)
        access.write(block.subarray(0, access.read(block, { at })), { at: at - by })
      access.truncate(size - by)
    },
    async put(path, text) {
      const write = await create(path)
      write({ data: new TextEncoder().encode(text), position: 0 })
    },
    async finish() {
      close()
    },
    async discard() {
      close()
      await removeScratch(name)
    },
  }
}

/**
 * `PUT url/path?at=POSITION` with the bytes, `GET url/path?at=POSITION&length=N` for reading, `POST
 * url/path?from=POSITION&by=N` moves what follows towards the beginning; `POST url?finish` when all are there; `DELETE
 * url` removes all of it. Each piece waits for its turn in a scratch file: bodies made of bytes are slow, and blobs of
 * bytes stay in memory for long.
 */
function httpStore(url: string): Store {
  const name = `http-${crypto.randomUUID()}`
  const underway = new Set<Promise<void>>()
  let pieces = 0
  let failed: unknown = null
  const tell = async (address: string, init: RequestInit) => {
    const answer = await fetch(address, init)
    if (!answer.ok) throw new Error(await answer.text())
  }
  const put = async (address: string, data: Uint8Array<ArrayBuffer>): Promise<void> => {
    const all = await folder()
    const piece = scratchName(name, String(pieces++))
    const handle = await all.getFileHandle(piece, { create: true })
    const access = await handle.createSyncAccessHandle()
    const written = access.write(data, { at: 0 })
    access.close()
    if (written < data.byteLength) throw new Error(FULL)
    await tell(address, { method: 'PUT', body: await handle.getFile() })
    await all.removeEntry(piece)
  }
  /** Sends without waiting for the answer, unless too much is on its way; what went wrong is told at the next call. */
  const send = async (address: string, data: Uint8Array<ArrayBuffer>): Promise<void> => {
    while (underway.size >= UNDERWAY) await Promise.race(underway)
    if (failed) throw failed
    const sending: Promise<void> = put(address, data)
      .catch((error: unknown) => void (failed ??= error))
      .finally(() => underway.delete(sending))
    underway.add(sending)
  }
  return {
    put: (path, text) => send(`${url}/${encodeURIComponent(path)}?at=0`, new TextEncoder().encode(text)),
    async open(path) {
      const address = `${url}/${encodeURIComponent(path)}`
      // The first file is the one that counts: it is announced before any other.
      await tell(`${address}?at=0`, { method: 'PUT', body: '' })
      let end = 0
      return streamTo(async ({ data, position }) => {
        // What is written over must not be overtaken by what it replaces, nor by what replaces it in turn.
        const over = position < end
        if (over) await Promise.all(underway)
        end = Math.max(end, position + data.byteLength)
        await send(`${address}?at=${position}`, data.slice())
        if (over) await Promise.all(underway)
      })
    },
    async read(path, at, length) {
      await Promise.all(underway)
      if (failed) throw failed
      const answer = await fetch(`${url}/${encodeURIComponent(path)}?at=${at}&length=${length}`)
      if (!answer.ok) throw new Error(await answer.text())
      return new Uint8Array(await answer.arrayBuffer())
    },
    async write(path, at, bytes) {
      await tell(`${url}/${encodeURIComponent(path)}?at=${at}`, { method: 'PUT', body: bytes })
    },
    async moveUp(path, from, by) {
      await tell(`${url}/${encodeURIComponent(path)}?from=${from}&by=${by}`, { method: 'POST' })
    },
    async finish() {
      await Promise.all(underway)
      if (failed) throw failed
      await tell(`${url}?finish`, { method: 'POST' })
    },
    async discard() {
      await Promise.all(underway)
      await removeScratch(name)
      await tell(url, { method: 'DELETE' })
    },
  }
}

/** A scratch file that is written and read by the one who opened it. */
export interface ScratchFile {
  /** @throws {Error} with a sentence when the storage is full */
  write(at: number, bytes: ArrayBufferView<ArrayBuffer>): void
  /** Fewer bytes at the end of what was written. */
  read(at: number, length: number): Uint8Array<ArrayBuffer>
  remove(): Promise<void>
}

/** Opens a scratch file, only in a dedicated worker; left behind, it goes with the others of its name. */
export async function openScratch(name: string, path: string): Promise<ScratchFile> {
  const all = await folder()
  const file = scratchName(name, path)
  const access = await (await all.getFileHandle(file, { create: true })).createSyncAccessHandle()
  access.truncate(0)
  return {
    write(at, bytes) {
      if (access.write(bytes, { at }) < bytes.byteLength) throw new Error(FULL)
    },
    read(at, length) {
      const bytes = new Uint8Array(length)
      return bytes.subarray(0, access.read(bytes, { at }))
    },
    async remove() {
      access.close()
      await all.removeEntry(file)
    },
  }
}

/** A scratch file for reading, after its store was finished. */
export async function readScratch(name: string, path: string): Promise<File> {
  return (await (await folder()).getFileHandle(scratchName(name, path))).getFile()
}

/** Removes the scratch files of one name; none being there is fine. */
export async function removeScratch(name: string): Promise<void> {
  const all = await folder()
  for (const found of await filesIn(all)) if (found.startsWith(`${name}~`)) await all.removeEntry(found)
}

/** Writes so many bytes to a scratch file, so that they are taken on the disk too; whoever removes it has them free. */
export async function fillScratch(name: string, bytes: number): Promise<void> {
  const handle = await (await folder()).getFileHandle(scratchName(name, 'fill'), { create: true })
  const access = await handle.createSyncAccessHandle()
  try {
    const block = new Uint8Array(1 << 20)
    for (let at = 0; at < bytes; at += block.length) access.write(block, { at })
    access.flush()
  } finally {
    access.close()
  }
}

/**
 * How many bytes the browser would still let this application store, up to `most` (a whole number): asked of a file
 * that is made longer without anything being written, as what browsers state of their storage is rounded or made up.
 * Within 2 %, never too much. What other programs leave on the disk is not seen by this.
 */
export async function measureFree(name: string, most: number): Promise<number> {
  const directory = await folder()
  const file = scratchName(name, 'measure')
  const isFull = (error: unknown) => error instanceof DOMException && error.name === 'QuotaExceededError'
  let access: FileSystemSyncAccessHandle | null = null
  try {
    const opened = (access = await (await directory.getFileHandle(file, { create: true })).createSyncAccessHandle())
    const fits = (bytes: number) => {
      try {
        opened.truncate(bytes)
        return true
      } catch (error) {
        if (isFull(error)) return false
        throw error
      } finally {
        // Given back at once: others are writing meanwhile.
        opened.truncate(0)
      }
    }
    let low = 0
    let high = most
    if (fits(high)) return high
    while (high - low > Math.max(1 << 20, 0.02 * low)) {
      const middle = Math.floor((low + high) / 2)
      if (fits(middle)) low = middle
      else high = middle
    }
    return low
  } catch (error) {
    // Where more is kept than is allowed, not even an empty file can be made.
    if (isFull(error)) return 0
    throw error
  } finally {
    access?.close()
    if (access) await directory.removeEntry(file)
  }
}

/** Names under which scratch files are there: after a reload, what killed jobs left behind. */
export async function listScratch(): Promise<string[]> {
  return [...new Set((await filesIn(await folder())).map((f) => f.split('~')[0] ?? f))]
}

async function filesIn(directory: FileSystemDirectoryHandle): Promise<string[]> {
  const names: string[] = []
  for await (const name of directory.keys()) names.push(name)
  return names
}
