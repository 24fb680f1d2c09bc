/** Starts the built application once for all end-to-end tests, on a free port, with data of its own. */
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { freePort } from '../scripts/setup.mjs'

declare module 'vitest' {
  export interface ProvidedContext {
    origin: string
    dataFolder: string
  }
}

export const AUTHOR_KEY = 'a-key-for-tests'
const entry = new URL('../.output/server/index.mjs', import.meta.url).pathname

export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  if (!existsSync(entry)) throw new Error('The application is not built. Run npm run build, or npm test.')
  const port = Number(process.env.THAW_TEST_PORT) || (await freePort())
  const dataFolder = await mkdtemp(join(tmpdir(), 'thaw-data-'))
  const server: ChildProcess = spawn(process.execPath, [entry], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      PORT: String(port),
      NITRO_PORT: String(port),
      THAW_DATA: dataFolder,
      THAW_AUTHOR_KEY: AUTHOR_KEY,
      THAW_DEMO_FILES: new URL('../demo/publications', import.meta.url).pathname,
      NODE_ENV: 'production',
    },
  })
  await new Promise<void>((resolve, reject) => {
    server.stdout?.on('data', (text: Buffer) => {
      if (text.toString().includes('Listening')) resolve()
    })
    server.once('exit', (code) => reject(new Error(`the server ended with ${code}`)))
  })
  project.provide('origin', `http://localhost:${port}`)
  project.provide('dataFolder', dataFolder)
  return async () => {
    server.removeAllListeners('exit')
    server.kill()
    await rm(dataFolder, { recursive: true, force: true })
  }
}
