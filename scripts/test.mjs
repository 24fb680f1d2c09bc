// npm test: installs what is missing, then type check, lint, unit tests and end-to-end tests, in that order.
import { buildWhenStale, checkNode, fail, installDebian, installPackages, run } from './setup.mjs'

checkNode()
await installPackages()
installDebian([
  { name: 'chromium', program: [process.env.CHROMIUM ?? '/usr/bin/chromium', '/usr/bin/google-chrome'] },
  { name: 'ffmpeg', program: ['/usr/bin/ffprobe'] },
  { name: 'pocketsphinx', program: ['/usr/bin/pocketsphinx_continuous'] },
  { name: 'pocketsphinx-en-us', program: ['/usr/share/pocketsphinx/model/en-us/en-us.lm.bin'] },
  { name: 'fonts-dejavu-core', program: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'] },
])
const steps = [
  ['Type check', 'npm', ['run', '--silent', 'typecheck']],
  ['Lint', 'npm', ['run', '--silent', 'lint']],
  ['Unit tests', 'npm', ['run', '--silent', 'test:unit']],
]
try {
  await run('npx', ['nuxt', 'prepare', '--logLevel', 'silent'])
  for (const [name, program, args] of steps) {
    console.log(`\n── ${name}`)
    await run(program, args)
  }
  await buildWhenStale()
  console.log('\n── End-to-end tests')
  await run('npm', ['run', '--silent', 'test:e2e'])
} catch (error) {
  fail(`Stopped: ${error.message}.`)
}
