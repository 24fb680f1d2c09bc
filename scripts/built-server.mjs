// The built server with the course site beside it, on a folder of its own: for tests, screenshots and what is measured.
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { freePort, root } from './setup.mjs'
import { startCourseSite } from './stand-ins.mjs'

/**
 * @param {{ data: string, key: string, port?: number, demo?: boolean, settings?: Record<string, string> }} options `data` is the
 * folder, `key` the author's; `demo` is whether it has the demo's publications; `settings` are further ones
 * @returns {Promise<{ origin: string, courseSite: string, launchSecret: string, stop(): Promise<void> }>}
 */
export async function startBuiltServer({ data, key, port: wanted, demo = false, settings = {} }) {
  const port = wanted ?? (await freePort())
  const origin = `http://localhost:${port}`
  const site = await startCourseSite({ data: join(data, 'course-site'), thaw: origin, demo })
  const server = spawn(process.execPath, [join(root, '.output', 'server', 'index.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      PORT: String(port),
      NITRO_PORT: String(port),
      THAW_DATA: data,
      THAW_AUTHOR_KEY: key,
      THAW_DEMO_FILES: demo ? join(root, 'demo', 'publications') : '',
      NODE_ENV: 'production',
      ...site.settings,
      ...settings,
    },
  })
  await new Promise((resolve, reject) => {
    server.stdout.on('data', (text) => String(text).includes('Listening') && resolve())
    server.once('exit', (code) => reject(new Error(`the server ended with ${code}`)))
  })
  return {
    origin,
    courseSite: site.address,
    launchSecret: site.settings.THAW_LAUNCH_SECRET,
    stop: () =>
      new Promise((resolve) => {
        site.stop()
        server.removeAllListeners('exit')
        server.once('exit', resolve)
        server.kill()
      }),
  }
}
