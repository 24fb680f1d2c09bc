/**
 * Storage that is held free while recording. Browsers do not tell truly how much is left; so some is taken before, and
 * given back when a chunk cannot be stored, for the last chunks and for making the take whole.
 */
import { removeScratch } from '#media/store'
import { startMediaWorker } from './media-worker'

const NAME = 'ballast'

/** @throws {Error} with a sentence when there is not even that much left */
export async function layBallast(bytes: number): Promise<void> {
  const { engine, end } = startMediaWorker()
  try {
    await engine.fillScratch(NAME, bytes)
  } catch (error) {
    await dropBallast()
    throw error instanceof Error && /quota|space/i.test(`${error.name} ${error.message}`)
      ? new Error(
          'the browser’s storage is full. Delete lectures you no longer need, or free some disk, and try again.',
        )
      : error
  } finally {
    end()
  }
}

export const dropBallast = (): Promise<void> => removeScratch(NAME)
