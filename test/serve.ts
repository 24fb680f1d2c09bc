/**
 * Starts the built application for the end-to-end tests, once for each worker, on free ports and with data of its own, and
 * prepares a browser's profile with the demo term.
 */
import { existsSync } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { TestProject } from 'vitest/node'
import { launchChromium } from '../scripts/chromium.mjs'
import { openDemo } from '../scripts/open-demo.mjs'
import { startBuiltServer } from '../scripts/built-server.mjs'
import { startCaptioning } from '../scripts/stand-ins.mjs'

/** A server, what stands beside it, and a browser's profile for it. */
export interface Served {
  origin: string
  /** Where the course site that ships stands. */
  courseSite: string
  /** Where the captioning service that ships stands. */
  captioning: string
  dataFolder: string
  /** A profile in which the demo term is laid out and looked through. */
  profile: string
}

declare module 'vitest' {
  export interface ProvidedContext {
    /** One for each worker. */
    served: Served[]
  }
}

export const AUTHOR_KEY = 'a-key-for-tests'
const entry = fileURLToPath(new URL('../.output/server/index.mjs', import.meta.url))

export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  if (!existsSync(entry)) throw new Error('The application is not built. Run npm run build, or npm test.')
  const started = await Promise.allSettled(Array.from({ length: project.config.maxWorkers }, (_, i) => serve(i)))
  const running = started.flatMap((s) => (s.status === 'fulfilled' ? [s.value] : []))
  const end = async () => {
    for (const { end } of running) await end()
  }
  const failed = started.find((s) => s.status === 'rejected')
  if (failed) {
    await end()
    throw failed.reason
  }
  project.provide(
    'served',
    running.map(({ served }) => served),
  )
  return end
}

async function serve(i: number): Promise<{ served: Served; end: () => Promise<void> }> {
  const dataFolder = await mkdtemp(join(tmpdir(), 'thaw-data-'))
  const captioning = await startCaptioning({ data: join(dataFolder, 'captioning'), pace: 1 })
  const server = await startBuiltServer({
    ...{ data: dataFolder, key: AUTHOR_KEY, demo: true, settings: captioning.settings },
    ...(process.env.THAW_TEST_PORT && { port: Number(process.env.THAW_TEST_PORT) + i }),
  }).catch((error: unknown) => {
    captioning.stop()
    throw error
  })
  const stop = async () => {
    captioning.stop()
    await server.stop()
  }
  const profile = await prepareProfile(server.origin).catch(async (error: unknown) => {
    await stop()
    throw error
  })
  return {
    served: {
      ...{ origin: server.origin, courseSite: server.courseSite, captioning: captioning.address },
      ...{ dataFolder, profile },
    },
    end: async () => {
      await stop()
      for (const folder of [dataFolder, profile]) await rm(folder, { recursive: true, force: true })
    },
  }
}

/**
 * Lays the demo term out and looks its lectures through, once: every browser that begins with nothing would do so
 * beside what is tested.
 */
async function prepareProfile(origin: string): Promise<string> {
  const profile = await mkdtemp(join(tmpdir(), 'thaw-profile-'))
  const browser = await launchChromium({ profile, devices: false })
  const page = await browser.newPage()
  await openDemo(page, origin)
  await page.waitForFunction(isLookedThrough, { timeout: 110_000, polling: 500 })
  // Where a test wants captions drafted of what comes, it says so: the recogniser takes all there is of the machine.
  await page.evaluate(draftNothing)
  await browser.close()
  return profile
}

/** In the page: whether every take has been analysed. */
async function isLookedThrough(): Promise<boolean> {
  const asked = <T>(request: IDBRequest<T>) =>
    new Promise<T>((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error)
    })
  if (!(await indexedDB.databases()).some(({ name }) => name === 'thaw-demo')) return false
  const database = await asked(indexedDB.open('thaw-demo'))
  try {
    if (!database.objectStoreNames.contains('jobs')) return false
    const reading = database.transaction(['settings', 'takes', 'jobs'])
    const [seeded, takes, jobs] = await Promise.all([
      asked(reading.objectStore('settings').get('seeded')),
      asked(reading.objectStore('takes').count()),
      asked(reading.objectStore('jobs').getAll() as IDBRequest<{ kind: string; state: string }[]>),
    ])
    const failed = jobs.find((j) => j.state === 'failed')
    if (failed) throw new Error(`The demo could not be looked through: ${JSON.stringify(failed)}`)
    return Boolean(seeded) && jobs.filter((j) => j.kind === 'analyse' && j.state === 'done').length >= takes
  } finally {
    database.close()
  }
}

/** Runs in the page. */
async function draftNothing(): Promise<void> {
  const ask = <T>(request: IDBRequest<T>) =>
    new Promise<T>((resolve, reject) => {
      request.onsuccess = () => resolve(request.result)
      request.onerror = () => reject(request.error as Error)
    })
  const database = await ask(indexedDB.open('thaw-demo'))
  const courses = database.transaction('courses', 'readwrite').objectStore('courses')
  for (const course of (await ask(courses.getAll())) as object[])
    await ask(courses.put({ ...course, draftsOnArrival: false }))
  database.close()
}
