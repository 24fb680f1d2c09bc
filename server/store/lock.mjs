// Says that a process holds a folder: a socket that the kernel closes when the process ends, however it ends. Plain
// JavaScript, as the start command needs it before anything is installed.
import { createHash } from 'node:crypto'
import { realpath, rm } from 'node:fs/promises'
import { connect, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * @param {string} path
 * @returns {Promise<import('node:net').Server | null>} null when something listens there, or did
 */
const listens = (path) =>
  new Promise((resolve, reject) => {
    const server = createServer((socket) => socket.destroy())
    server.once('error', (/** @type {NodeJS.ErrnoException} */ error) =>
      error.code === 'EADDRINUSE' ? resolve(null) : reject(error),
    )
    server.listen(path, () => resolve(server))
    // A server that has nothing else to do may end.
    server.unref()
  })

/**
 * @param {string} path
 * @returns {Promise<boolean>}
 */
const answers = (path) =>
  new Promise((resolve) => {
    const socket = connect(path)
    socket.once('connect', () => {
      socket.destroy()
      resolve(true)
    })
    socket.once('error', () => resolve(false))
  })

/**
 * @param {string} folder
 * @returns {Promise<(() => Promise<void>) | null>} what lets go of the folder; null when another process on this machine
 * holds it
 */
export async function holdFolder(folder) {
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
  const held = server
  return held && (() => new Promise((resolve) => held.close(() => resolve())))
}
