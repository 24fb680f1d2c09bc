// npm test: installs what is missing, then type check, lint, unit tests, the engine's tests and end-to-end tests, in
// that order.
import { spawn } from 'node:child_process'
import { randomInt } from 'node:crypto'
import { parseArgs } from 'node:util'
import {
  buildWhenStale,
  checkNode,
  chosenPort,
  fail,
  forTests,
  installDebian,
  installPackages,
  portIsFree,
  root,
  run,
} from './setup.mjs'

const text = /** @type {const} */ ({ type: 'string' })
const { values: given } = parseArgs({ options: { help: { type: 'boolean' }, port: text, seed: text } })
if (given.help) {
  console.log(
    `npm test [-- --port N] [--seed N]

Checks everything. The end-to-end tests start the application on two free ports, or on --port / PORT and the next. Their
files run in an order of chance, which is printed; --seed gives the one that was printed.`,
  )
  process.exit(0)
}
checkNode()
const asked = process.env.PORT !== undefined || given.port !== undefined
const port = asked ? chosenPort(0) : undefined
for (const wanted of port ? [port, port + 1] : [])
  if (!(await portIsFree(wanted)))
    fail(`Port ${wanted} is taken by another program. Choose another: npm test -- --port ${wanted + 1}`)
const seed = Number(given.seed ?? randomInt(1_000_000))
if (!Number.isInteger(seed)) fail('--seed takes a whole number.')
await installPackages()
installDebian(forTests)
/** Runs one of the package's scripts; what it says is shown when it ends, as others run beside it. */
async function quietly(name, script, args = [], env = {}) {
  const began = Date.now()
  const said = []
  const child = spawn('npm', ['run', '--silent', script, '--', ...args], {
    ...{ cwd: root, stdio: ['ignore', 'pipe', 'pipe'] },
    env: { ...process.env, ...env },
  })
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => said.push(text))
  const code = await new Promise((resolve, reject) => child.once('error', reject).once('close', resolve))
  const all = `\n── ${name} (${Math.round((Date.now() - began) / 1000)} s)\n${Buffer.concat(said)}`
  if (code !== 0) throw new Error(`${name.toLowerCase()} ended with ${code}`, { cause: all })
  console.log(all)
}

/** Waits for all, also when one fails: what failed is said last, where it is not lost in what the others say. */
async function allOf(checks) {
  const failed = (await Promise.allSettled(checks)).filter((check) => check.status === 'rejected')
  for (const { reason } of failed) console.log(reason.cause ?? reason)
  if (failed.length) throw failed[0].reason
}

/**
 * The end-to-end tests but for those at length, by two workers, each with a server of its own. The files begin in an order of
 * chance: none may build on what another leaves.
 */
async function endToEnd() {
  const env = { THAW_TEST_WORKERS: '2', ...(port && { THAW_TEST_PORT: String(port) }) }
  const args = ['--exclude', 'test/at-length/**', `--sequence.seed=${seed}`]
  await quietly(`End-to-end tests, order ${seed}`, 'test:e2e', args, env)
}

try {
  await run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
  console.log('\n── Type check, lint and unit tests, side by side')
  await allOf([
    quietly('Type check', 'typecheck'),
    quietly('Unit tests', 'test:unit'),
    quietly('Lint', 'lint'),
    quietly('Dependencies', 'dependencies'),
  ])
  console.log('\n── Engine tests')
  await run('npm', ['run', '--silent', 'test:engine'])
  await buildWhenStale()
  console.log('\n── End-to-end tests')
  await allOf([endToEnd()])
} catch (error) {
  fail(`Stopped: ${error.message}.`)
}
