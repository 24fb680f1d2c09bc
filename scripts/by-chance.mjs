import { createHash } from 'node:crypto'
import { BaseSequencer } from 'vitest/node'

/** Files begin in an order of chance, by `--sequence.seed`; without a seed, as Vitest has them. */
export class ByChance extends BaseSequencer {
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
