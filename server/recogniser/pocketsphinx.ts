/** Debian's pocketsphinx with its American English models: one process a piece, which is read with its word lattice. */
import { access, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { readSphinx } from '#core/captions/sphinx'
import { courseModel } from './course-model'
import type { Recogniser } from './recogniser'
import { runProgram } from './run'

const PROGRAM = '/usr/bin/pocketsphinx_batch'
const MODELS = '/usr/share/pocketsphinx/model/en-us'

const general = { lm: join(MODELS, 'en-us.lm.bin'), dict: join(MODELS, 'cmudict-en-us.dict') }

const MISSING =
  'The speech recogniser is not installed on the server. On Debian: apt-get install pocketsphinx pocketsphinx-en-us. Everything else works without it; captions can also be written by hand or come as a file.'

/** @param program another one that is called in the same way */
export const pocketsphinx = (program = PROGRAM): Recogniser => ({
  async problem() {
    try {
      await Promise.all([access(program), access(join(MODELS, 'en-us.lm.bin'))])
      return ''
    } catch {
      return MISSING
    }
  },
  knows: (language) => /^en\b/i.test(language),
  async read({ file, vocabulary }, signal) {
    const folder = await mkdtemp(join(dirname(file), 'read-'))
    try {
      const name = basename(file, '.wav')
      await writeFile(join(folder, 'list'), `${name}\n`)
      await runProgram(
        program,
        Object.entries({
          hmm: join(MODELS, 'en-us'),
          ...(vocabulary ? await courseModel(vocabulary, general) : general),
          adcin: 'yes',
          adchdr: '44',
          cepdir: dirname(file),
          cepext: '.wav',
          ctl: join(folder, 'list'),
          // Left in, as what is left out shifts the times of all that follows.
          remove_silence: 'no',
          // A third faster for as many words right (docs/benchmarks.md, “What the recogniser learns”): fewer Gaussians of each
          // codebook, and fewer states a frame.
          topn: '2',
          maxhmmpf: '3000',
          hypseg: join(folder, 'words'),
          outlatdir: folder,
          outlatfmt: 'htk',
          outlatbeam: '1e-3',
          logfn: '/dev/null',
        }).flatMap(([key, value]) => [`-${key}`, value]),
        signal,
      )
      const line = await readFile(join(folder, 'words'), 'utf8')
      return line.trim() ? readSphinx(line, await readFile(join(folder, `${name}.lat`), 'utf8')) : []
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  },
})
