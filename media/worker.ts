/** The media worker: everything that takes time, behind one typed interface (Comlink). Cancelling is terminating it. */
import { expose, proxy } from 'comlink'
import { analyseFile } from './analyse/analyse'
import { openFilm, slides } from './analyse/picture'
import { hear, see } from './analyse/rehearsal'
import { analyseSound, coarsePeaks } from './analyse/sound'
import { replaceBackground } from './background/background'
import { alignScript } from '#core/captions/align'
import { digest } from './digest'
import { poster } from './poster'
import { probe } from './probe'
import { render, still } from './render/render'
import { settle } from './settle'
import { stillSheet } from './still-sheet'
import { extractSpeech } from './speech'
import { fillScratch, listScratch, measureFree, readScratch, removeScratch } from './store'

const engine = {
  probe,
  settle,
  analyseFile,
  analyseSound,
  coarsePeaks,
  openFilm: (blob: Blob) => proxy(openFilm(blob)),
  slides,
  hear,
  see,
  extractSpeech,
  digest,
  alignScript,
  poster,
  render,
  still,
  stillSheet,
  replaceBackground,
  fillScratch,
  measureFree,
  listScratch,
  readScratch,
  removeScratch,
}
export type Engine = typeof engine

expose(engine)
