// npm start: installs what is missing, builds what is stale, starts, and prints where to go.
import { randomBytes } from 'node:crypto'
import { spawn } from 'node:child_process'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import {
  buildWhenStale,
  captioningProgram,
  checkNode,
  chosenPort,
  fail,
  freePort,
  installPackages,
  portIsFree,
  root,
} from './setup.mjs'

if (process.argv.includes('--help')) {
  console.log(
    'npm start [-- --port N]\n\nStarts Thaw with its demo term. PORT, THAW_DATA (folder of what is published, .data by default),\nTHAW_AUTHOR_KEY, THAW_DEMO=off and THAW_CAPTIONING (address of a captioning service, instead of the\none that ships) are read from the environment.',
  )
  process.exit(0)
}
checkNode()
const port = chosenPort(3000)
if (!(await portIsFree(port)))
  fail(`Port ${port} is taken by another program. Choose another: npm start -- --port ${port + 1}`)
await installPackages()
await buildWhenStale()

const data = resolve(root, process.env.THAW_DATA ?? '.data')
mkdirSync(data, { recursive: true })
const keyFile = join(data, 'author-key')
if (!process.env.THAW_AUTHOR_KEY && !existsSync(keyFile))
  writeFileSync(keyFile, randomBytes(12).toString('base64url'), { mode: 0o600 })
const key = process.env.THAW_AUTHOR_KEY ?? readFileSync(keyFile, 'utf8').trim()

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
const captioningAddress = process.env.THAW_CAPTIONING ?? `http://localhost:${captioningPort}`

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
let told = false
server.stdout.on('data', (text) => {
  if (told || !String(text).includes('Listening')) return
  told = true
  console.log(`
Thaw is running.

  For the instructor   http://localhost:${port}/#key=${key}
  For a student        http://localhost:${port}/course-site/
  A captioning service ${captioningAddress}/

The first address signs the browser in as the author. Opened without the key, everything works except
drafting captions, publishing and reading results, for which Thaw then asks for it:  ${key}
Stop with Ctrl C.`)
})
server.on('exit', (code) => {
  captioning?.kill()
  process.exit(code ?? 0)
})
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    captioning?.kill(signal)
    server.kill(signal)
  })
