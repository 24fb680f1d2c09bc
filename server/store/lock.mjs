// Says that a process holds a folder: a socket that the kernel closes when the process ends, however it ends. Plain
// JavaScript, as the start command needs it before anything is installed.
import { createHash } from 'node:crypto'
import { realpath, rm, symlink } from 'node:fs/promises'
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

/** The socket in a folder that is held. */
const NAME = '.held.sock'
/** What a disk says that keeps no sockets; then one stands with the system's temporary files. */
const NO_SOCKETS = ['EPERM', 'EOPNOTSUPP', 'ENOTSUP', 'ENOSYS']
/** Bytes that a socket's path may have on every system (`sun_path`, with its end). */
const MOST_PATH = 100

/** @param {string} real */
const nameOf = (real) => `thaw-${createHash('sha256').update(real).digest('hex').slice(0, 24)}`

/**
 * Where the socket of a folder stands: in it, so that whoever sees the folder sees that it is held, in another container
 * too. A path that is too long is gone to by a link.
 * @param {string} folder
 */
async function socketIn(folder) {
  const real = await realpath(folder)
  const name = nameOf(real)
  if (process.platform === 'win32') return `\\\\.\\pipe\\${name}`
  if (Buffer.byteLength(join(real, NAME)) <= MOST_PATH) return join(real, NAME)
  const link = join(tmpdir(), name)
  await symlink(real, link).catch((/** @type {NodeJS.ErrnoException} */ error) => {
    if (error.code !== 'EEXIST') throw error
  })
  return join(link, NAME)
}

/**
 * @param {string} folder
 * @returns {Promise<(() => Promise<void>) | null>} what lets go of the folder; null when another process on this machine
 * holds it
 */
export async function holdFolder(folder) {
  let path = await socketIn(folder)
  let server = await listens(path).catch(async (/** @type {NodeJS.ErrnoException} */ error) => {
    if (!NO_SOCKETS.includes(error.code ?? '')) throw error
    path = join(tmpdir(), `${nameOf(await realpath(folder))}.sock`)
    return listens(path)
  })
  if (!server && !(await answers(path))) {
    // Left by a process that was killed.
    await rm(path, { force: true })
    server = await listens(path)
  }
  const held = server
  return held && (() => new Promise((resolve) => held.close(() => resolve())))
}
