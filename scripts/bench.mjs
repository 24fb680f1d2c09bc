// npm run bench: speed, memory and likeness of the engine against ffmpeg, and what the server's answers cost, on this
// machine. One JSON line a figure, on standard output; what is happening, on standard error. `machine` is what a fixed loop
// took before and after the row (ms), and how often the row was run until these were alike.
import { mkdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Command } from 'commander'
import { openEngine } from './engine.mjs'
import { installDebian } from './setup.mjs'
import { analysis } from './bench/analysis.mjs'
import { answers } from './bench/answers.mjs'
import { background } from './bench/background.mjs'
import { bringIn } from './bench/bring-in.mjs'
import { captions } from './bench/captions.mjs'
import { composed } from './bench/composed.mjs'
import { cut } from './bench/cut.mjs'
import { desk } from './bench/desk.mjs'
import { deskHour } from './bench/desk-hour.mjs'
import { growth } from './bench/growth.mjs'
import { hall } from './bench/hall.mjs'
import { openGroups } from './bench/open-groups.mjs'
import { overlaid } from './bench/overlaid.mjs'
import { betweenLoops } from './bench/machine.mjs'
import { load } from './bench/load.mjs'
import { player } from './bench/player.mjs'
import { record } from './bench/record.mjs'
import { replacing } from './bench/replacing.mjs'
import { results } from './bench/results.mjs'
import { speech } from './bench/speech.mjs'
import { term } from './bench/term.mjs'
import { treated } from './bench/treated.mjs'
import { timeLine } from './bench/time-line.mjs'

const rows = {
  cut,
  composed,
  'open-groups': openGroups,
  overlaid,
  background,
  analysis,
  treated,
  growth,
  record,
  hall,
  answers,
  player,
  replacing,
  results,
  term,
  load,
  captions,
  speech,
  'bring-in': bringIn,
  'time-line': timeLine,
  desk,
  'desk-hour': deskHour,
}

const program = new Command('npm run bench --')
  .description('Measures the engine side by side with ffmpeg. Inputs are made first and kept for the next run.')
  .argument('[row...]', `which rows: ${Object.keys(rows).join(', ')}; all when none is named`)
  .option('--minutes <n>', 'length of the long inputs', Number, 60)
  .option(
    '--reference <n>',
    'minutes of them that ffmpeg encodes; its time for the whole is scaled from that',
    Number,
    6,
  )
  .option('--at-desk <n>', 'minutes of playing and editing at the desk', Number, 60)
  .option('--record <n>', 'minutes that are recorded', Number, 5)
  .option('--folder <path>', 'where inputs are kept', join(tmpdir(), 'thaw-bench'))
  .parse()
const options = program.opts()
const unknown = program.args.find((name) => !(name in rows))
if (unknown) program.error(`There is no row “${unknown}”. There are: ${Object.keys(rows).join(', ')}.`)
if (!(options.minutes >= 1) || !(options.reference > 0) || !(options.record > 0))
  program.error('Give lengths in minutes, such as --minutes 60 --reference 6.')

installDebian([
  { name: 'ffmpeg', program: ['/usr/bin/ffmpeg'] },
  { name: 'fonts-dejavu-core', program: ['/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'] },
])
mkdirSync(options.folder, { recursive: true })
const engine = await openEngine()
try {
  for (const name of program.args.length > 0 ? program.args : Object.keys(rows)) {
    const { result: figures, machine } = await betweenLoops(async () => {
      const found = []
      const say = (text) => console.error(text)
      await rows[name]({ ...options, engine, say, figure: (values) => found.push(values) })
      return found
    })
    for (const values of figures) console.log(JSON.stringify({ row: name, ...values, machine }))
  }
} finally {
  await engine.close()
}
