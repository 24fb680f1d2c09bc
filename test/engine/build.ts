/** Builds the engine before the first of its tests, so that files that begin at once need not each build it. */
import { engineFolder } from '../../scripts/setup.mjs'

export default async function build(): Promise<void> {
  await engineFolder()
}
