// npm test: installs what is missing, then type check, lint, unit tests, the engine's tests and end-to-end tests, in that order.
import { buildWhenStale, checkNode, chosenPort, fail, installDebian, installPackages, portIsFree, run } from './setup.mjs'

if (process.argv.includes('--help')) {
  console.log('npm test [-- --port N]\n\nChecks everything. The end-to-end tests start the application on a free port, or on --port / PORT.')
  process.exit(0)
}
checkNode()
const asked = process.env.PORT !== undefined || process.argv.some((a) => a.startsWith('--port'))
const port = asked ? chosenPort(0) : undefined
if (port && !(await portIsFree(port))) fail(`Port ${port} is taken by another program. Choose another: npm test -- --port ${port + 1}`)
await installPackages()
installDebian([
  { name: 'chromium', program: [process.env.CHROMIUM ?? '/usr/bin/chromium', '/usr/bin/google-chrome'] },
  { name: 'ffmpeg', program: ['/usr/bin/ffprobe'] },
  { name: 'flite', program: ['/usr/bin/flite'] },
  { name: 'pocketsphinx', program: ['/usr/bin/pocketsphinx_continuous'] },
  { name: 'pocketsphinx-en-us', program: ['/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'] },
  { name: 'fonts-dejavu-core', program: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'] },
])
const steps = [
  ['Type check', 'npm', ['run', '--silent', 'typecheck']],
  ['Lint', 'npm', ['run', '--silent', 'lint']],
  ['Unit tests', 'npm', ['run', '--silent', 'test:unit']],
  ['Engine tests', 'npm', ['run', '--silent', 'test:engine']],
]
try {
  await run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
  for (const [name, program, args] of steps) {
    console.log(`\n── ${name}`)
    await run(program, args)
  }
  await buildWhenStale()
  console.log('\n── End-to-end tests')
  await run('npm', ['run', '--silent', 'test:e2e'], { env: { ...process.env, ...(port && { THAW_TEST_PORT: String(port) }) } })
} catch (error) {
  fail(`Stopped: ${error.message}.`)
}
