// The built server, on a folder of its own, for what is measured through it.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { freePort, root } from '../setup.mjs'

export const KEY = 'a-key-for-benchmarks'

/**
 * @param {string} folder
 * @param {{ demo?: boolean }} [options] whether it has the demo's publications
 * @returns {Promise<{ origin: string, stop(): Promise<void> }>}
 */
export async function startServer(folder, { demo = false } = {}) {
  const port = String(await freePort())
  const child = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      PORT: port,
      NITRO_PORT: port,
      THAW_DATA: folder,
      THAW_AUTHOR_KEY: KEY,
      THAW_DEMO_FILES: demo ? join(root, 'demo/publications') : '',
      NODE_ENV: 'production',
    },
  })
  await new Promise((resolve) => child.stdout.on('data', (text) => String(text).includes('Listening') && resolve()))
  return {
    origin: `http://localhost:${port}`,
    stop: () =>
      new Promise((resolve) => {
        child.once('exit', resolve)
        child.kill()
      }),
  }
}
