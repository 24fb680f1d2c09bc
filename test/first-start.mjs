// What a newcomer does with a checkout in which nothing was installed or built: `npm start`, the printed address in a
// browser, a lecture's desk; then a second start. `node test/first-start.mjs` does it with this checkout, ahead of npm
// test; a trial does it in awkward places. Node's own modules only, until something is installed.
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { chromium, freePort, installDebian, installPackages } from '../scripts/setup.mjs'

const root = fileURLToPath(new URL('..', import.meta.url))

/** What installing or building leaves behind. */
const LEFTOVERS = ['node_modules', '.nuxt', '.output', '.build', '.data', 'public/player']

/** A start that takes longer has failed, s: a slow machine takes three times as long as is meant. */
const LONGEST = 300

/**
 * Runs `npm start` until it says that Thaw is running.
 * @param {string} folder the checkout
 * @param {string[]} [flags] of the start command
 * @param {string[]} [inside] a command that runs another one, such as `['unshare', '-m', …]`
 * @returns {Promise<{ seconds: number, said: string, stop: () => Promise<void> }>} what it printed, and after how long
 */
export async function start(folder, flags = [], inside = []) {
  const began = Date.now()
  const [program, ...args] = [...inside, 'npm', 'start', '--', '--port', String(await freePort()), ...flags]
  const child = spawn(program, args, { cwd: folder, stdio: ['ignore', 'pipe', 'pipe'], detached: true })
  let said = ''
  await new Promise((resolve, reject) => {
    const fails = (why) => reject(new Error(`npm start ${why}. It said:\n${said}`))
    const timer = setTimeout(() => fails(`was not done after ${LONGEST} s`), LONGEST * 1000)
    const listen = (text) => {
      said += text
      if (!said.includes('Stop with Ctrl C')) return
      clearTimeout(timer)
      resolve()
    }
    child.stdout.on('data', listen)
    child.stderr.on('data', listen)
    child.once('error', reject)
    child.once('exit', (code) => fails(`ended with ${code}`))
  }).catch((error) => {
    // It may have ended by itself, with its group: why is what is to be told.
    if (child.pid && child.exitCode === null && child.signalCode === null) process.kill(-child.pid, 'SIGKILL')
    throw error
  })
  child.removeAllListeners('exit')
  const stop = async () => {
    const ended = once(child, 'exit')
    process.kill(-child.pid, 'SIGINT')
    await ended
  }
  return { seconds: (Date.now() - began) / 1000, said, stop }
}

/**
 * Opens the address that the start printed for the instructor, and the first lecture there, by what the screen says.
 * @param {string} said what the start printed
 */
export async function lookAround(said) {
  const { launchChromium } = await import('../scripts/chromium.mjs')
  const { openDemo } = await import('../scripts/open-demo.mjs')
  const address = /For the instructor\s+(\S+)/.exec(said)?.[1]
  if (!address) throw new Error(`No address for the instructor was printed:\n${said}`)
  const browser = await launchChromium({ devices: false })
  try {
    const page = await browser.newPage()
    page.setDefaultTimeout(60_000)
    await openDemo(page, address)
    const card = await page.waitForSelector('a.card[href^="/lecture/"]')
    await card.click()
    await page.waitForSelector('::-p-aria([name="Play"][role="button"])')
    await page.waitForSelector('.lane.sound canvas')
  } finally {
    await browser.close()
  }
}

/** What the practice course site shows to somebody who comes to it. @param {string} said what the start printed */
export async function courseSite(said) {
  const address = /Practice course site\s+(\S+)/.exec(said)?.[1]
  if (!address) return null
  const page = await (await fetch(address)).text()
  if (!page.includes('Sign in')) throw new Error(`Nobody can sign in at ${address}:\n${page}`)
  return address
}

/** Lines that warn, but for those about npm's settings on the machine, which are not this project's. */
export const warnings = (said) =>
  said.split('\n').filter((line) => /\bwarn/i.test(line) && !/npm warn unknown .* config/i.test(line))

async function checkThisCheckout() {
  const left = LEFTOVERS.filter((name) => existsSync(join(root, name)))
  if (left.length > 0) throw new Error(`This is not what a newcomer has: there is ${left.join(', ')} already.`)
  const first = await start(root)
  console.log(
    `First start: ${Math.round(first.seconds)} s\n${first.said.replace(/#key=\S+|(asks for it:).*/g, '$1 …')}`,
  )
  if (warnings(first.said).length > 0) throw new Error(`It warned:\n${warnings(first.said).join('\n')}`)
  try {
    installDebian([chromium])
    await installPackages()
    await lookAround(first.said)
    if (!(await courseSite(first.said))) throw new Error('No practice course site was started.')
  } finally {
    await first.stop()
  }
  const second = await start(root, ['--no-stand-ins'])
  await second.stop()
  if (/practice/i.test(second.said)) throw new Error(`Stand-ins were started all the same:\n${second.said}`)
  console.log(`The page and a lecture’s desk opened. Second start: ${second.seconds.toFixed(1)} s`)
}

if (process.argv[1] === fileURLToPath(import.meta.url))
  await checkThisCheckout().catch((error) => {
    console.error(`\nThe first start failed. ${error.message}`)
    process.exit(1)
  })
