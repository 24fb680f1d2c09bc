// npm test: installs what is missing, then type check, lint, unit tests, the engine's tests and end-to-end tests, in
// that order.
import { spawn } from 'node:child_process'
import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
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

if (process.argv.includes('--help')) {
  console.log(
    'npm test [-- --port N]\n\nChecks everything. The end-to-end tests start the application on two free ports, or on --port / PORT and the next.',
  )
  process.exit(0)
}
checkNode()
const asked = process.env.PORT !== undefined || process.argv.some((a) => a.startsWith('--port'))
const port = asked ? chosenPort(0) : undefined
for (const wanted of port ? [port, port + 1] : [])
  if (!(await portIsFree(wanted)))
    fail(`Port ${wanted} is taken by another program. Choose another: npm test -- --port ${wanted + 1}`)
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

/** Of a report of Vitest's, the files in which a test failed, or that were not come to by that. */
async function filesLeft(report) {
  const { testResults } = JSON.parse(await readFile(report, 'utf8'))
  const isDone = ({ status, assertionResults }) =>
    status === 'passed' && assertionResults.some((test) => test.status === 'passed')
  return testResults.filter((file) => !isDone(file)).map((file) => file.name)
}

/**
 * One half of the end-to-end tests. A page on a machine that others use as well may be late once; what is broken is broken
 * twice. As a step builds on those before it, its file is walked once more from the beginning, and the rest after it.
 */
async function endToEnd(half) {
  const name = `End-to-end tests, half ${half}`
  const env = port && { THAW_TEST_PORT: String(port + half - 1) }
  const folder = await mkdtemp(join(tmpdir(), 'thaw-test-'))
  const report = join(folder, 'report.json')
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${report}`]
  try {
    await quietly(name, 'test:e2e', ['--shard', `${half}/2`, ...reporters], env)
  } catch (error) {
    // Without a report it did not even begin.
    const left = await filesLeft(report).catch(() => [])
    if (left.length === 0) throw error
    console.log(error.cause)
    await quietly(`${name}, what failed and what was left`, 'test:e2e', left, env)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

try {
  await run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
  console.log('\n── Type check, lint and unit tests, side by side')
  await allOf([quietly('Type check', 'typecheck'), quietly('Unit tests', 'test:unit'), quietly('Lint', 'lint')])
  console.log('\n── Engine tests')
  await run('npm', ['run', '--silent', 'test:engine'])
  await buildWhenStale()
  console.log('\n── End-to-end tests, in two halves side by side, each with a server of its own')
  await allOf([1, 2].map(endToEnd))
} catch (error) {
  fail(`Stopped: ${error.message}.`)
}
