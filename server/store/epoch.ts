/**
 * Whose a folder is: a file names who took it last, and whoever reads another name there has lost the folder and writes no
 * more. It stands behind the lock, for two machines on one disk, where no socket tells of the other.
 */
import { randomUUID } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { ifThere, replaceFile } from './durable'

/** Called before every write. @throws {FolderLost} */
export type Guard = () => Promise<void>

export class FolderLost extends Error {
  constructor(folder: string) {
    super(`Another Thaw server has taken the folder ${folder}. This one keeps nothing more; stop one of them.`)
    this.name = 'FolderLost'
  }
}

/**
 * Takes a folder with the first write: on a full disk that fails, and is tried with the next, and everything there is, is
 * served.
 * @param onLost told once, when another has taken it since
 */
export function takeFolder(folder: string, onLost: (error: FolderLost) => void): Guard {
  const path = join(folder, 'epoch')
  const mine = randomUUID()
  let taking: Promise<void> | null = null
  let lost: FolderLost | null = null
  const take = () =>
    (taking ??= replaceFile(path, mine).catch((error: unknown) => {
      taking = null
      throw error
    }))
  return async () => {
    if (!lost && !taking) return take()
    await taking
    if (!lost && (await ifThere(readFile(path, 'utf8'))) !== mine) {
      lost = new FolderLost(folder)
      onLost(lost)
    }
    if (lost) throw lost
  }
}
