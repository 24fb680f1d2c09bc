import { inject } from 'vitest'

const all = inject('served')
const worker = Number(process.env.VITEST_POOL_ID)
const mine = all[worker - 1]
if (!mine) throw new Error(`Worker ${worker} has no server of its own; there are ${all.length}.`)

/** The server that this worker's files have to themselves, one file after another. */
export const served = mine
