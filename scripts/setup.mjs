// What the start and test commands share: installing what is missing, building what is stale, saying what is wrong.
// Node's own modules only, as nothing is installed yet when this runs.
import { execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { fileURLToPath } from 'node:url'
import { join } from 'node:path'

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

/** Installs the packages when the lock file is not the one they were installed from. */
export async function installPackages() {
  const lock = digest(read(join(root, 'package-lock.json')))
  const stamp = join(root, 'node_modules', '.thaw-lock')
  if (read(stamp) === lock) return
  console.log('Installing packages …')
  try {
    await run('npm', ['ci', '--no-audit', '--no-fund'])
  } catch (error) {
    fail(
      `The packages could not be installed (${error.message}). Check that the npm registry can be reached, then try again.`,
    )
  }
  writeFileSync(stamp, lock)
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
  'scripts/rooms.mjs',
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

/** Runs a program quietly; what it said is shown only when it fails. */
function runQuietly(program, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], ...options })
    let said = ''
    const listen = (data) => {
      said = (said + data).slice(-8000)
    }
    child.stdout.on('data', listen)
    child.stderr.on('data', listen)
    child.on('error', reject)
    child.on('exit', (code) => {
      if (code === 0) return resolve()
      console.error(said)
      reject(new Error(`${[program, ...args].join(' ')} ended with ${code}`))
    })
  })
}

/** The captioning service that ships, as it is built. */
export const captioningProgram = join(root, '.build', 'captioning', 'captioning.mjs')

/** Builds the player, the captioning service and the application when a source has changed since the last build. */
export async function buildWhenStale() {
  const stamp = join(root, '.build', 'state')
  const state = sourceState(appSources)
  const isBuilt = existsSync(join(root, '.output', 'server', 'index.mjs')) && existsSync(captioningProgram)
  if (read(stamp) === state && isBuilt) return
  console.log('Building …')
  try {
    await runQuietly('npx', ['vite', 'build', '-c', 'player/vite.config.ts'])
    await runQuietly('npx', ['vite', 'build', '-c', 'standins/captioning/vite.config.ts'])
    await runQuietly('npx', ['nuxt', 'build'], { env: { ...process.env, NODE_ENV: 'production' } })
  } catch (error) {
    fail(`The build did not work (${error.message}). The lines above say why.`)
  }
  mkdirSync(join(root, '.build'), { recursive: true })
  writeFileSync(stamp, state)
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
  await runQuietly('npx', ['vite', 'build', '-c', 'media/vite.config.ts', '--outDir', part])
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
