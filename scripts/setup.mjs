// What the start and test commands share: installing what is missing, building what is stale, saying what is wrong.
// Node's own modules only, as nothing is installed yet when this runs.
import { execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { fileURLToPath } from 'node:url'
import { join } from 'node:path'
import { holdFolder } from '../server/store/lock.mjs'
import { Steps } from './steps.mjs'

export const root = fileURLToPath(new URL('..', import.meta.url))

/** Ends the process with a sentence a person can act on. */
export function fail(sentence) {
  console.error(`\n${sentence}`)
  process.exit(1)
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19))
    fail(`Thaw needs Node 20.19 or newer; this is ${process.version}. Install a newer Node and try again.`)
}

/** Runs a program with its output shown. */
export function run(program, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { cwd: root, stdio: 'inherit', ...options })
    child.on('error', reject)
    child.on('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`${[program, ...args].join(' ')} ended with ${code}`)),
    )
  })
}

const read = (file) => (existsSync(file) ? readFileSync(file, 'utf8') : '')
const digest = (text) => createHash('sha256').update(text).digest('hex')

/** Packages that this machine gets by the lock file: paths below the root, without those of other systems. */
function lockedPackages(withTests) {
  const { packages } = JSON.parse(read(join(root, 'package-lock.json')))
  const fits = (list, mine) => !list || list.includes(mine) || (list[0].startsWith('!') && !list.includes(`!${mine}`))
  return Object.entries(packages)
    .filter(
      ([path, { dev, os, cpu }]) =>
        path && (withTests || !dev) && fits(os, process.platform) && fits(cpu, process.arch),
    )
    .map(([path]) => join(root, path, 'package.json'))
}

/** What is installed: `none`, `running` (what starting takes), or `tests` (all), by the lock file as it is now. */
function installed() {
  const [lock, what] = read(packagesStamp).split(' ')
  return lock === digest(read(join(root, 'package-lock.json'))) ? what : 'none'
}
const packagesStamp = join(root, 'node_modules', '.thaw-lock')
const hasPackages = (withTests) => (withTests ? installed() === 'tests' : installed() !== 'none')

/**
 * Installs the packages when the lock file is not the one they were installed from.
 * @param {{ withTests?: boolean, steps?: Steps }} [options] with what the tests and the makers of the demo need, or only
 * what starting needs
 */
export async function installPackages({ withTests = true, steps = new Steps(1) } = {}) {
  if (hasPackages(withTests)) return
  steps.begin('Installing packages')
  const wanted = lockedPackages(withTests)
  const timer = setInterval(() => steps.tell(`${wanted.filter(existsSync).length} of ${wanted.length}`), 1000)
  // What starting needs is there already: the rest is added to it.
  const how = installed() === 'running' ? ['install', '--no-save'] : ['ci']
  const which = withTests ? '--include=dev' : '--omit=dev'
  try {
    await runQuietly('npm', [...how, which, '--no-audit', '--no-fund', '--loglevel=error'])
  } catch (error) {
    fail(
      `The packages could not be installed (${error.message}). Check that the npm registry can be reached, then try again.`,
    )
  } finally {
    clearInterval(timer)
  }
  writeFileSync(packagesStamp, `${digest(read(join(root, 'package-lock.json')))} ${withTests ? 'tests' : 'running'}`)
  steps.end()
}

const appSources = [
  'app',
  'core',
  'media',
  'player',
  'server',
  'standins',
  'public',
  'nuxt.config.ts',
  'package-lock.json',
  // What the configurations import.
  'scripts/build-steps.mjs',
  'scripts/element-styles.mjs',
  'scripts/rooms.mjs',
  'scripts/worker-urls.mjs',
]

const engineSources = ['core', 'media', 'package-lock.json', 'scripts/rooms.mjs']

/** One digest over the contents of every source. */
function sourceState(sources) {
  const lines = []
  const visit = (path) => {
    const full = join(root, path)
    if (!existsSync(full) || path === 'public/player') return
    const stat = statSync(full)
    if (stat.isDirectory()) for (const name of readdirSync(full).sort()) visit(`${path}/${name}`)
    else if (!/\.test\.ts$/.test(path)) lines.push(`${path} ${stat.size} ${digest(readFileSync(full))}`)
  }
  sources.forEach(visit)
  return digest(lines.join('\n'))
}

/** Programs that run quietly: they end with this one. */
const children = new Set()
process.on('exit', () => children.forEach((child) => child.kill()))

/** Runs a program quietly; what it said is shown only when it fails. `onMessage` hears what the program tells by IPC. */
function runQuietly(program, args, { onMessage, ...options } = {}) {
  return new Promise((resolve, reject) => {
    const stdio = ['ignore', 'pipe', 'pipe', ...(onMessage ? ['ipc'] : [])]
    const child = spawn(program, args, { cwd: root, stdio, ...options })
    children.add(child)
    child.once('close', () => children.delete(child))
    let said = ''
    const listen = (data) => {
      said = (said + data).slice(-8000)
    }
    child.stdout.on('data', listen)
    child.stderr.on('data', listen)
    if (onMessage) child.on('message', (message) => onMessage(message, child))
    child.on('error', reject)
    child.on('exit', (code) => {
      if (code === 0) return resolve()
      console.error(said)
      reject(new Error(`${[program, ...args].join(' ')} ended with ${code}`))
    })
  })
}

/** The stand-ins that ship, as they are built. */
export const captioningProgram = join(root, '.build', 'captioning', 'captioning.mjs')
export const courseSiteProgram = join(root, '.build', 'course-site', 'course-site.mjs')

const buildStamp = join(root, '.build', 'state')
const isBuilt = (state) =>
  read(buildStamp) === state &&
  [join(root, '.output', 'server', 'index.mjs'), captioningProgram, courseSiteProgram].every((file) => existsSync(file))

/** How many steps a build has. */
const BUILD_STEPS = 2

/** Builds the player, the stand-ins and the application when a source has changed since the last build. */
export async function buildWhenStale(steps = new Steps(BUILD_STEPS)) {
  const state = sourceState(appSources)
  if (isBuilt(state)) return
  // What is half built when this is cut off is no build of any state.
  rmSync(buildStamp, { force: true })
  const vite = (config) =>
    runQuietly(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build', '-c', config])
  const nuxt = (onMessage) =>
    runQuietly(process.execPath, [join(root, 'node_modules/nuxt/bin/nuxt.mjs'), 'build'], {
      env: { ...process.env, NODE_ENV: 'production' },
      onMessage,
    })
  try {
    steps.begin('Building the pages and the player')
    const small = Promise.all(
      ['player', 'standins/captioning', 'standins/course-site'].map((room) => vite(`${room}/vite.config.ts`)),
    )
    await Promise.all([
      small,
      nuxt(({ modules, server }, child) => {
        if (!server) return steps.tell(`${modules} files`)
        small.then(
          () => {
            steps.begin('Building the server')
            child.send('go on')
          },
          () => child.kill(),
        )
      }),
    ])
  } catch (error) {
    fail(`The build did not work (${error.message}). The lines above say why.`)
  }
  mkdirSync(join(root, '.build'), { recursive: true })
  writeFileSync(buildStamp, state)
  steps.end()
}

/**
 * Installs and builds what starting takes, one command after the other.
 * @param {(sentence: string) => void} say what is told before it begins, where there is something to do
 */
export async function prepareStart(say) {
  const work = () => (hasPackages(false) ? 0 : 1) + (isBuilt(sourceState(appSources)) ? 0 : BUILD_STEPS)
  if (work() === 0) return
  let letGo = await holdFolder(root)
  if (!letGo) say('Another command is preparing this folder. Waiting until it is done …')
  while (!letGo) {
    await new Promise((resolve) => setTimeout(resolve, 500))
    letGo = await holdFolder(root)
  }
  const count = work()
  if (count > 0) {
    say(hasPackages(false) ? 'Thaw has changed and is built again.' : 'A first start takes about a minute and a half.')
    const steps = new Steps(count)
    await installPackages({ withTests: false, steps })
    await buildWhenStale(steps)
  }
  await letGo()
}

const A_DAY = 24 * 60 * 60 * 1000

/**
 * The folder of the engine's page, named by the state of its sources and built when it is not there. Several may ask at
 * once: each builds apart from the others, and the first to end gives it its name.
 */
export async function engineFolder(quiet = false) {
  const folder = join(root, '.build', `engine-${sourceState(engineSources).slice(0, 16)}`)
  if (existsSync(folder)) return folder
  if (!quiet) console.error('Building the engine …')
  const part = `${folder}.part-${process.pid}`
  await runQuietly(process.execPath, [
    ...[join(root, 'node_modules/vite/bin/vite.js'), 'build', '-c', 'media/vite.config.ts', '--outDir', part],
  ])
  try {
    renameSync(part, folder)
  } catch (error) {
    if (!existsSync(folder)) throw error
    rmSync(part, { recursive: true })
  }
  // What others may still be using stays.
  for (const name of readdirSync(join(root, '.build'))) {
    const old = join(root, '.build', name)
    if (/^engine-/.test(name) && old !== folder && Date.now() - statSync(old).mtimeMs > A_DAY)
      rmSync(old, { recursive: true, force: true })
  }
  return folder
}

/** The port from --port, PORT, or `fallback`. */
export function chosenPort(fallback) {
  const at = process.argv.findIndex((a) => a === '--port' || a.startsWith('--port='))
  const text =
    at < 0
      ? (process.env.PORT ?? String(fallback))
      : process.argv[at].includes('=')
        ? process.argv[at].split('=')[1]
        : process.argv[at + 1]
  const port = Number(text)
  if (!Number.isInteger(port) || port < 1 || port > 65_535)
    fail(`“${text}” is not a port. Give a number from 1 to 65535, such as --port 3000.`)
  return port
}

/** Whether nothing listens on the port yet. */
export function portIsFree(port) {
  return new Promise((resolve) => {
    const probe = createServer()
    probe.once('error', () => resolve(false))
    probe.listen(port, () => probe.close(() => resolve(true)))
  })
}

/** A port on which nothing listens. */
export function freePort() {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })
}

/** Where Debian puts a plug-in of GStreamer's, on the usual kinds of machine. */
const gstreamer = (name) =>
  ['x86_64', 'aarch64'].map((kind) => `/usr/lib/${kind}-linux-gnu/gstreamer-1.0/libgst${name}.so`)

/** The browser of tests and of the command line. */
export const chromium = {
  name: 'chromium',
  program: [process.env.CHROMIUM || '/usr/bin/chromium', '/usr/bin/google-chrome'],
}

/** What the tests need of Debian's: a package, and a file of which it is told that it is there. */
export const forTests = [
  chromium,
  { name: 'ffmpeg', program: ['/usr/bin/ffprobe'] },
  // A second opinion on films that were made.
  { name: 'gstreamer1.0-tools', program: ['/usr/bin/gst-launch-1.0'] },
  { name: 'gstreamer1.0-plugins-base', program: gstreamer('videoconvertscale') },
  { name: 'gstreamer1.0-plugins-good', program: gstreamer('isomp4') },
  { name: 'gstreamer1.0-libav', program: gstreamer('libav') },
  { name: 'flite', program: ['/usr/bin/flite'] },
  { name: 'pocketsphinx', program: ['/usr/bin/pocketsphinx_batch'] },
  { name: 'pocketsphinx-en-us', program: ['/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'] },
  { name: 'fonts-dejavu-core', program: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'] },
]

/** Installs Debian packages when programs are missing; without root or apt, a sentence says what to install. */
export function installDebian(wanted) {
  const missing = wanted.filter(({ program }) => !program.some((p) => existsSync(p)))
  if (missing.length === 0) return
  const names = missing.map((m) => m.name).join(' ')
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get'))
    fail(`The tests need ${names}. Install them (on Debian: sudo apt-get install ${names}) and try again.`)
  console.log(`Installing ${names} …`)
  try {
    execFileSync('apt-get', ['update', '-qq'], { stdio: 'inherit' })
    execFileSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...names.split(' ')], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    })
  } catch (error) {
    fail(`Debian's packages could not be installed (${error.message}). Install ${names} by hand and try again.`)
  }
}
