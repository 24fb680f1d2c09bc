import { statSync } from 'node:fs'
import { BaseSequencer } from 'vitest/node'

/** Shards of about the same length: files are dealt out from the longest to the shortest, there and back. */
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
}
