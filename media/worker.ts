/** The media worker: everything that takes time, behind one typed interface (Comlink). Cancelling is terminating it. */
import { expose } from 'comlink'
import { poster } from './poster'
import { probe } from './probe'
import { render } from './render'
import { listScratch, removeScratch } from './scratch'
import { settle } from './settle'
import { computePeaks, extractSpeech } from './sound'

const engine = { probe, settle, computePeaks, extractSpeech, poster, render, listScratch, removeScratch }
export type Engine = typeof engine

expose(engine)
