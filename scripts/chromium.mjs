// Starts Debian's Chromium through puppeteer-core, the same way for tests, screenshots and the demo's makers.
import { constants, existsSync } from 'node:fs'
import { cp, mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, join } from 'node:path'
import puppeteer from 'puppeteer-core'

export const chromiumPath =
  process.env.CHROMIUM ??
  ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'].find((p) => existsSync(p))

/**
 * Copies the profile of a browser that is closed. Chromium's lock on it is a link that leads nowhere, and is left out.
 * @param {string} from
 * @param {string} to
 */
export const copyProfile = (from, to) =>
  cp(from, to, {
    recursive: true,
    mode: constants.COPYFILE_FICLONE,
    filter: (path) => !basename(path).startsWith('Singleton'),
  })

/**
 * @param {{ profile?: string, from?: string, args?: string[], width?: number, height?: number, devices?: boolean,
 * patient?: boolean, network?: boolean }} [options] `profile` is kept when given, otherwise one is made, as a copy of `from` where that is
 * given, and removed on close; `devices: false` leaves out the fake camera, microphone and screen; a `patient` one
 * waits for an answer of the browser as long as it takes; `network: false` listens to no requests, as who does has each
 * page keep up to 200 MB of what it was answered, films too
 */
export async function launchChromium(options = {}) {
  if (!chromiumPath)
    throw new Error(
      'Chromium is not installed. On Debian: apt-get install chromium; elsewhere set CHROMIUM to its path.',
    )
  const fresh = options.profile ? null : await mkdtemp(join(tmpdir(), 'thaw-chromium-'))
  if (fresh && options.from) await copyProfile(options.from, fresh)
  const browser = await puppeteer.launch({
    executablePath: chromiumPath,
    headless: true,
    userDataDir: options.profile ?? fresh ?? undefined,
    defaultViewport: { width: options.width ?? 1280, height: options.height ?? 800 },
    // A render is one call, and so is a wait: this is longer than any wait of a test, and shorter than a test may take.
    // Who interrupts is answered by whoever started the browser.
    networkEnabled: options.network ?? true,
    protocolTimeout: options.patient ? 0 : 270_000,
    ...(options.patient && { handleSIGINT: false, handleSIGTERM: false, handleSIGHUP: false }),
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      ...(options.devices === false ? [] : ['--use-fake-device-for-media-stream', '--use-fake-ui-for-media-stream']),
      '--autoplay-policy=no-user-gesture-required',
      '--mute-audio',
      ...(options.args ?? []),
    ],
  })
  if (fresh)
    browser.once(
      'disconnected',
      () =>
        void rm(fresh, { recursive: true, force: true, maxRetries: 5, retryDelay: 200 }).catch((error) =>
          console.warn(`could not remove ${fresh}: ${error.message}`),
        ),
    )
  return browser
}
