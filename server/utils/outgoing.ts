/** What other houses' services answer is read so far and no further, whatever they send. */
import { collectBytes } from '#core/schema/collect'

/** An answer that is larger than its limit. */
export class TooLarge extends Error {
  constructor(most: number) {
    super(`The answer is larger than ${most} bytes.`)
    this.name = 'TooLarge'
  }
}

/** The text of an answer of `most` bytes at most. @throws {TooLarge} */
export async function limitedText(response: Response, most: number): Promise<string> {
  if (!response.body) return ''
  const bytes = await collectBytes(response.body as unknown as AsyncIterable<Uint8Array>, most, 0)
  if (!bytes) throw new TooLarge(most)
  return new TextDecoder().decode(bytes)
}
