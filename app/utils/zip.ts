/** ZIP archives, written and read a piece at a time; what is large stays on the disk. */
import { BlobReader, BlobWriter, configure, ZipReader, ZipWriter, type FileEntry } from '@zip.js/zip.js'

// It copies and sums up; that needs no worker of its own.
configure({ useWebWorkers: false })

/**
 * Files in one archive, not pressed together once more, as films cannot be.
 * @param signal stops it
 */
export async function zipFiles(
  files: readonly { name: string; data: Blob }[],
  onProgress: (share: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<Blob> {
  const zip = new ZipWriter(new BlobWriter('application/zip'), { level: 0, ...(signal && { signal }) })
  const whole = files.reduce((sum, { data }) => sum + data.size, 0)
  let done = 0
  for (const { name, data } of files) {
    const before = done
    const onprogress = (bytes: number) => {
      onProgress((before + bytes) / Math.max(1, whole))
      return undefined
    }
    await zip.add(name, new BlobReader(data), { onprogress })
    done += data.size
  }
  return zip.close()
}

/** What is in an archive, by its names. */
export interface OpenZip {
  /** Bytes of a file; null when it is not there. */
  sizeOf(name: string): number | null
  /**
   * One of its files, its bytes checked against its sum.
   * @throws {Error} with a sentence when it is not there, or damaged
   */
  read(name: string): Promise<Blob>
  close(): Promise<void>
}

/** @throws {Error} with a sentence when it is no archive, or one that is cut short */
export async function openZip(archive: Blob): Promise<OpenZip> {
  const zip = new ZipReader(new BlobReader(archive), { checkSignature: true })
  const entries = await zip.getEntries().catch((cause: unknown) => {
    throw new Error('This is no ZIP archive, or not all of one.', { cause })
  })
  const byName = new Map(entries.filter((e): e is FileEntry => !e.directory).map((e) => [e.filename, e]))
  return {
    sizeOf: (name) => byName.get(name)?.uncompressedSize ?? null,
    async read(name) {
      const entry = byName.get(name)
      if (!entry) throw new Error(`“${name}” is missing in the archive.`)
      return entry.getData(new BlobWriter()).catch((cause: unknown) => {
        throw new Error(`“${name}” in the archive is damaged.`, { cause })
      })
    },
    close: () => zip.close(),
  }
}
