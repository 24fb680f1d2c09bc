/**
 * Room for what is being written: a file in the origin's private file system, written at any position from a
 * worker, so that output never has to sit in memory. The caller reads it as a `File` and then removes it.
 */
import { StreamTarget, type StreamTargetChunk } from 'mediabunny'

const FOLDER = 'scratch'

export interface ScratchFile {
  name: string
  target: StreamTarget
  /** Closes the file and gives it for reading. Call once, after the output is finalised. */
  finish(): Promise<File>
  /** Closes and removes it. */
  discard(): Promise<void>
}

async function folder(): Promise<FileSystemDirectoryHandle> {
  return (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true })
}

/** Opens a new scratch file. Only in a dedicated worker, where synchronous access handles exist. */
export async function openScratch(name: string): Promise<ScratchFile> {
  const handle = await (await folder()).getFileHandle(name, { create: true })
  const access = await handle.createSyncAccessHandle()
  access.truncate(0)
  let closed = false
  const close = () => {
    if (closed) return
    closed = true
    access.flush()
    access.close()
  }
  const writable = new WritableStream<StreamTargetChunk>({
    write({ data, position }) {
      const written = access.write(data, { at: position })
      if (written < data.byteLength) throw new Error('The browser’s storage is full. Nothing was lost; make room and try again.')
    },
  })
  return {
    name,
    target: new StreamTarget(writable, { chunked: true, chunkSize: 1 << 20 }),
    async finish() {
      close()
      return handle.getFile()
    },
    async discard() {
      close()
      await removeScratch(name)
    },
  }
}

/** Removes a scratch file; one that is not there is fine. */
export async function removeScratch(name: string): Promise<void> {
  try {
    await (await folder()).removeEntry(name)
  } catch (error) {
    if (!(error instanceof DOMException && error.name === 'NotFoundError')) throw error
  }
}

/** Names of scratch files that are there: after a reload, what a killed job left behind. */
export async function listScratch(): Promise<string[]> {
  const names: string[] = []
  for await (const name of (await folder()).keys()) names.push(name)
  return names
}
