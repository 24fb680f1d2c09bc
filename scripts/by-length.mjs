import { createHash } from 'node:crypto'
import { statSync } from 'node:fs'
import { BaseSequencer } from 'vitest/node'

/**
 * Shards of about the same length: files are dealt out from the longest to the shortest, there and back. Within one they
 * run in an order of chance, by `--sequence.seed`; without a seed, as Vitest has them.
 */
export class ByLength extends BaseSequencer {
  /** @param {import('vitest/node').TestSpecification[]} files */
  async shard(files) {
    const { shard } = this.ctx.config
    if (!shard) return files
    const length = ({ moduleId }) => statSync(moduleId).size
    return [...files]
      .sort((a, b) => length(b) - length(a) || (a.moduleId < b.moduleId ? -1 : 1))
      .filter((_, i) => {
        const [round, place] = [Math.floor(i / shard.count), i % shard.count]
        return (round % 2 === 0 ? place : shard.count - 1 - place) === shard.index - 1
      })
  }

  /** @param {import('vitest/node').TestSpecification[]} files */
  async sort(files) {
    const { seed } = this.ctx.config.sequence
    if (seed === undefined) return super.sort(files)
    // By names and not by places: an order is the same on every machine.
    const place = ({ moduleId }) =>
      createHash('sha256')
        .update(`${seed} ${moduleId.slice(moduleId.lastIndexOf('/'))}`)
        .digest('hex')
    return [...files].sort((a, b) => (place(a) < place(b) ? -1 : 1))
  }
}
