/**
 * Runs a file through mediabunny's conversion into a scratch file, and gives it for reading; nothing is left when it
 * fails.
 */
import { Conversion, Output, type ConversionOptions, type Input, type OutputFormat } from 'mediabunny'
import { openInput } from './read'
import { openStore, readScratch } from './store'

const MADE = 'made'

export interface ConversionPlan {
  format: OutputFormat
  options?: Omit<ConversionOptions, 'input' | 'output'>
}

/**
 * @param name of the scratch file
 * @param plan looks at the input and says how it is converted; it may throw a sentence
 * @param refused what to throw when nothing of it can be converted
 */
export async function convert(
  blob: Blob,
  name: string,
  plan: (input: Input) => Promise<ConversionPlan>,
  refused: () => Error,
  onProgress?: (share: number) => void,
): Promise<File> {
  const input = openInput(blob)
  const store = openStore({ kind: 'scratch', name })
  try {
    const { format, options } = await plan(input)
    const output = new Output({ format, target: await store.open(MADE) })
    const conversion = await Conversion.init({ input, output, tracks: 'primary', showWarnings: false, ...options })
    if (!conversion.isValid) throw refused()
    if (onProgress) conversion.onProgress = onProgress
    await conversion.execute()
    await store.finish()
    return await readScratch(name, MADE)
  } catch (error) {
    await store.discard()
    throw error
  } finally {
    input.dispose()
  }
}
