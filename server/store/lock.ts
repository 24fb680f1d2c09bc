/** Says that a process holds a folder: a socket that the kernel closes when the process ends, however it ends. */
import { createHash } from 'node:crypto'
import { realpath, rm } from 'node:fs/promises'
import { connect, createServer, type Server } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const listens = (path: string): Promise<Server | null> =>
  new Promise((resolve, reject) => {
    const server = createServer((socket) => socket.destroy())
    server.once('error', (error: NodeJS.ErrnoException) =>
      error.code === 'EADDRINUSE' ? resolve(null) : reject(error),
    )
    server.listen(path, () => resolve(server))
    // A server that has nothing else to do may end.
    server.unref()
  })

const answers = (path: string): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = connect(path)
    socket.once('connect', () => {
      socket.destroy()
      resolve(true)
    })
    socket.once('error', () => resolve(false))
  })

/**
 * @returns what lets go of the folder
 * @throws {Error} with a sentence when another process on this machine holds it
 */
export async function holdFolder(folder: string): Promise<() => Promise<void>> {
  const name = createHash('sha256')
    .update(await realpath(folder))
    .digest('hex')
    .slice(0, 24)
  const path = process.platform === 'win32' ? `\\\\.\\pipe\\thaw-${name}` : join(tmpdir(), `thaw-${name}.sock`)
  let server = await listens(path)
  if (!server && !(await answers(path))) {
    // Left by a process that was killed.
    await rm(path, { force: true })
    server = await listens(path)
  }
  if (!server)
    throw new Error(`Another Thaw server uses the folder ${folder}. Stop it, or set THAW_DATA to another folder.`)
  const held = server
  return () => new Promise((resolve) => held.close(() => resolve()))
}
