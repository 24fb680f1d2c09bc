// npm start: installs what is missing, builds what is stale, starts, and prints where to go.
import { randomBytes } from 'node:crypto'
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
// By its name space, as an older Node than is needed has no parseArgs, and is told so below.
import * as util from 'node:util'
import { settingProblems } from '../server/settings.mjs'
import { checkNode, chosenPort, fail, portIsFree, prepareStart, root } from './setup.mjs'
import { startCaptioning, startCourseSite } from './stand-ins.mjs'

const usage = `npm start [-- --port N] [--no-stand-ins]

Starts Thaw and prints where to open it. What is missing is installed and built first.

  --port N          the port on which Thaw answers, 3000 unless PORT says otherwise
  --no-stand-ins    starts no practice course site and no practice captioning service, which otherwise run beside it on
                    this computer; NODE_ENV=production does so too
  --stand-ins       starts them all the same
  --help            shows this

docs/settings.md lists the settings that are read from the environment.`

function options() {
  try {
    const flag = { type: 'boolean' }
    return util.parseArgs({
      options: { port: { type: 'string' }, 'stand-ins': flag, 'no-stand-ins': flag, help: flag },
    }).values
  } catch (error) {
    fail(`${error.message.split('. ')[0]}.\n\n${usage}`)
  }
}
checkNode()
const given = options()
if (given.help) {
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

// Those are other houses': each is a process of its own, on a port of its own, for this computer alone.
const withStandIns = given['stand-ins'] || !(given['no-stand-ins'] || process.env.NODE_ENV === 'production')
const demo = process.env.THAW_DEMO !== 'off'
/** Starts a stand-in, unless a setting names what it stands for. */
const standIn = (setting, start) => (withStandIns && !process.env[setting] ? start() : null)
const [courseSite, captioning] = await Promise.all([
  standIn('THAW_COURSE_SITE', () =>
    startCourseSite({ port: port + 200, data: join(data, 'course-site'), thaw: `http://localhost:${port}`, demo }),
  ),
  standIn('THAW_CAPTIONING', () =>
    startCaptioning({
      ...{ port: port + 100, data: join(data, 'captioning') },
      listener: join(root, 'examples', 'recogniser.mjs'),
    }),
  ),
]).catch((error) => fail(error.message))
const standIns = [courseSite, captioning].filter((one) => one !== null)

const server = spawn(process.execPath, [join(root, '.output', 'server', 'index.mjs')], {
  cwd: root,
  stdio: ['ignore', 'pipe', 'inherit'],
  env: {
    ...process.env,
    PORT: String(port),
    NITRO_PORT: String(port),
    THAW_DATA: data,
    THAW_AUTHOR_KEY: key,
    THAW_DEMO_FILES: demo ? join(root, 'demo', 'publications') : '',
    NODE_ENV: 'production',
    ...Object.assign({}, ...standIns.map(({ settings }) => settings)),
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
  const practice = [
    ...(courseSite ? [`  Practice course site         ${courseSite.address}/`] : []),
    ...(captioning ? [`  Practice captioning service  ${captioning.address}/`] : []),
  ]
  const beside = practice.length
    ? `

Beside it, for this computer only, run stand-ins for what a college has (--no-stand-ins leaves them out):

${practice.join('\n')}`
    : ''
  console.log(`
Thaw is running.

  For the instructor           http://localhost:${port}/#key=${encodeURIComponent(key)}${beside}

The first address signs the browser in as the author. Opened without the key, everything works except
drafting captions, publishing and reading results, for which Thaw then asks for it:  ${key}
Stop with Ctrl C.`)
}
server.on('exit', (code) => {
  for (const one of standIns) one.stop()
  process.exit(code ?? 0)
})
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    for (const one of standIns) one.stop(signal)
    server.kill(signal)
  })
