// npm run trials: what is long or repeated – kills, races, a full disk, clients that stall, tabs that meet – a line
// each, a summary, and an exit code. Names of files below test/trials choose some of them.
import { Command } from 'commander'
import { buildWhenStale, checkNode, forTests, installDebian, installPackages, run } from './setup.mjs'

checkNode()
await installPackages()
const program = new Command('npm run trials --')
  .description('Long trials: two hours or so on two quiet cores, much less with --share.')
  .argument(
    '[trial...]',
    'server, class, keys, disk, browser, tabs, recording, alignment, leaving, captions, first-start, engine, interface; all when none is named',
  )
  .option('--share <n>', 'how much of the repetitions: 1 is all, 0.1 a tenth', Number, 1)
  .parse()
const { share } = program.opts()
if (!(share > 0 && share <= 1)) program.error('Give a share above 0 and up to 1, such as --share 0.1.')
installDebian(forTests)
await buildWhenStale()
const all = program.args.length === 0
/** Those that are the tests of `npm test`, with what it leaves out. */
const atLength = { engine: 'engine', interface: 'e2e' }
const files = program.args.filter((name) => !(name in atLength)).map((name) => `test/trials/${name}`)
const failed = []
async function trials(project, args, env) {
  try {
    await run('npx', ['vitest', 'run', '--project', project, '--reporter', 'verbose', ...args], {
      env: { ...process.env, ...env },
    })
  } catch (error) {
    failed.push(`${project}: ${error.message}`)
  }
}
if (all || files.length > 0) await trials('trials', files, { THAW_TRIALS_SHARE: String(share) })
for (const [name, project] of Object.entries(atLength))
  if (all || program.args.includes(name)) await trials(project, [], { THAW_AT_LENGTH: '1' })
if (failed.length > 0) {
  console.error(`\nNot all trials passed (${failed.join('; ')}).`)
  process.exit(1)
}
