// The built server, on a folder of its own, for what is measured through it.
import { startBuiltServer } from '../built-server.mjs'

export const KEY = 'a-key-for-benchmarks'

/**
 * @param {string} folder
 * @param {{ demo?: boolean }} [options] whether it has the demo's publications
 */
export const startServer = (folder, { demo = false } = {}) => startBuiltServer({ data: folder, key: KEY, demo })
