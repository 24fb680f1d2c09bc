// Starts the stand-ins that ship, each a process of its own on this machine alone: for `npm start`, tests and tools.
import { spawn } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { captioningProgram, courseSiteProgram, freePort, portIsFree } from './setup.mjs'

/** The port that is wanted, or another when something else has it. */
const portFrom = async (wanted) => (wanted && (await portIsFree(wanted)) ? wanted : freePort())

/**
 * @typedef {object} StandIn
 * @property {string} address without a slash at its end
 * @property {Record<string, string>} settings by which the server is connected to it
 * @property {(signal?: NodeJS.Signals) => void} stop
 */

/**
 * Starts a program and waits until it says that it listens.
 * @param {string} what what it is called when it does not start
 */
function started(what, program, args) {
  const child = spawn(process.execPath, [program, ...args], { stdio: ['ignore', 'pipe', 'inherit', 'ipc'] })
  return new Promise((resolve, reject) => {
    child.once('error', reject)
    child.once('exit', (code) => reject(new Error(`The ${what} did not start (it ended with ${code}).`)))
    child.stdout.once('data', () => {
      child.removeAllListeners('exit')
      child.stdout.resume()
      resolve(child)
    })
  })
}

/**
 * @param {{ port?: number, data: string, thaw: string, demo?: boolean }} options `port` is taken when it is free; `thaw` is the
 * address of Thaw's server; `demo` is whether the demo's courses and students are there
 * @returns {Promise<StandIn>}
 */
export async function startCourseSite({ port: wanted, data, thaw, demo = false }) {
  const port = await portFrom(wanted)
  const launch = `${thaw}/api/watch/launch`
  const args = ['--port', String(port), '--data', data, '--launch', launch, ...(demo ? ['--demo'] : [])]
  const child = await started('practice course site', courseSiteProgram, args)
  const address = `http://localhost:${port}`
  const shared = (name) => readFile(join(data, name), 'utf8')
  return {
    address,
    settings: {
      THAW_COURSE_SITE: address,
      THAW_COURSE_SITE_KEY: await shared('key'),
      THAW_LAUNCH_SECRET: await shared('launch-secret'),
    },
    stop: (signal) => void child.kill(signal),
  }
}

/**
 * @param {{ port?: number, data: string, listener?: string, pace?: number }} options `port` is taken when it is free; `listener` is
 * a program that recognises speech; `pace` is how long an order takes, s
 * @returns {Promise<StandIn>}
 */
export async function startCaptioning({ port: wanted, data, listener, pace }) {
  const port = await portFrom(wanted)
  const args = ['--port', String(port), '--data', data, ...(listener ? ['--listener', listener] : [])]
  const child = await started('practice captioning service', captioningProgram, [
    ...args,
    ...(pace === undefined ? [] : ['--pace', String(pace)]),
  ])
  const address = `http://localhost:${port}`
  return { address, settings: { THAW_CAPTIONING: address }, stop: (signal) => void child.kill(signal) }
}
