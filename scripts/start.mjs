// npm start: installs what is missing, builds what is stale, starts, and prints where to go.
import { randomBytes } from 'node:crypto'
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
// By its name space, as an older Node than is needed has no parseArgs, and is told so below.
import * as util from 'node:util'
import { settingProblems } from '../server/settings.mjs'
import { captioningProgram, checkNode, chosenPort, fail, freePort, portIsFree, prepareStart, root } from './setup.mjs'

const usage = `npm start [-- --port N]

Starts Thaw with its demo term and prints where to open it. What is missing is installed and built first.

  --port N   the port on which Thaw answers, 3000 unless PORT says otherwise
  --help     shows this

docs/settings.md lists the settings that are read from the environment.`

function options() {
  try {
    return util.parseArgs({ options: { port: { type: 'string' }, help: { type: 'boolean' } } }).values
  } catch (error) {
    fail(`${error.message.split('. ')[0]}.\n\n${usage}`)
  }
}
checkNode()
if (options().help) {
  console.log(usage)
  process.exit(0)
}
const problems = settingProblems(process.env)
if (problems.length > 0) fail(problems.join('\n'))
const port = chosenPort(3000)
async function checkPort() {
  if (!(await portIsFree(port)))
    fail(`Port ${port} is taken by another program. Choose another: npm start -- --port ${port + 1}`)
}
await checkPort()
await prepareStart(console.log)
// Another start may have been waited for.
await checkPort()

const data = resolve(root, process.env.THAW_DATA || '.data')
const keyFile = join(data, 'author-key')
/** The author's key: the setting, or one that is made once and kept. */
function authorKey() {
  if (process.env.THAW_AUTHOR_KEY) return process.env.THAW_AUTHOR_KEY
  try {
    mkdirSync(data, { recursive: true })
    const kept = existsSync(keyFile) ? readFileSync(keyFile, 'utf8').trim() : ''
    if (kept) return kept
    // Whole or not at all: a start that is killed here leaves no half of a key.
    const made = randomBytes(12).toString('base64url')
    writeFileSync(`${keyFile}.part`, made, { mode: 0o600 })
    renameSync(`${keyFile}.part`, keyFile)
    return made
  } catch (error) {
    fail(`The data folder ${data} cannot be used (${error.message}). Set THAW_DATA to one that can be written.`)
  }
}
const key = authorKey()

// The captioning service is another house's: a process of its own, on a port of its own.
const captioningPort = (await portIsFree(port + 100)) ? port + 100 : await freePort()
const captioning = process.env.THAW_CAPTIONING
  ? null
  : spawn(
      process.execPath,
      [
        ...[captioningProgram, '--port', String(captioningPort), '--data', join(data, 'captioning')],
        ...['--listener', join(root, 'examples', 'recogniser.mjs')],
      ],
      { cwd: root, stdio: ['ignore', 'ignore', 'inherit'] },
    )
const captioningAddress = process.env.THAW_CAPTIONING || `http://localhost:${captioningPort}`

const server = spawn(process.execPath, [join(root, '.output', 'server', 'index.mjs')], {
  cwd: root,
  stdio: ['ignore', 'pipe', 'inherit'],
  env: {
    ...process.env,
    PORT: String(port),
    NITRO_PORT: String(port),
    THAW_DATA: data,
    THAW_AUTHOR_KEY: key,
    THAW_CAPTIONING: captioningAddress,
    THAW_DEMO_FILES: process.env.THAW_DEMO === 'off' ? '' : join(root, 'demo', 'publications'),
    NODE_ENV: 'production',
  },
})
/** Resolves once the page is served: the server listens before it has opened its data. */
const pageAnswers = async () => (await fetch(`http://localhost:${port}/`)).arrayBuffer()

let isListening = false
server.stdout.on('data', (text) => {
  if (isListening || !String(text).includes('Listening')) return
  isListening = true
  // Where it does not answer it has ended, and said why.
  pageAnswers().then(sayWhere, () => undefined)
})

function sayWhere() {
  console.log(`
Thaw is running.

  For the instructor   http://localhost:${port}/#key=${encodeURIComponent(key)}
  For a student        http://localhost:${port}/course-site/
  A captioning service ${captioningAddress}/

The first address signs the browser in as the author. Opened without the key, everything works except
drafting captions, publishing and reading results, for which Thaw then asks for it:  ${key}
Stop with Ctrl C.`)
}
server.on('exit', (code) => {
  captioning?.kill()
  process.exit(code ?? 0)
})
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    captioning?.kill(signal)
    server.kill(signal)
  })
