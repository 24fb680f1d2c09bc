import { createWriteStream } from 'node:fs'
import { mkdir, mkdtemp, open, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { Transform, type Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { readWavHeader, type WavHeader } from '#core/sound/wav'
import { errorMessage } from '#core/text/error-message'
import { chooseRecogniser, speechFolder } from '../../recogniser'
import { hear } from '../../recogniser/hear'
import { findVocabulary } from '../../recogniser/vocabulary'

/** Four hours of 16 kHz, 16 bit, mono. */
const MOST = 4 * 3600 * 32_000 + 4096

/** Stops a body that is too long while it is still coming in. */
function limit(most: number): Transform {
  let size = 0
  return new Transform({
    transform(chunk: Buffer, _, done) {
      size += chunk.length
      done(
        size > most ? createError({ statusCode: 413, message: 'This is more than four hours of sound.' }) : null,
        chunk,
      )
    },
  })
}

/**
 * Recognises speech of a language (`?language=en`) in a WAVE body, from an instant on (`&from=12.4`, s), with the words of a course (`&vocabulary=ID`). Answers with lines of JSON as it is heard: each word
 * (`{"word": …}`), how far that is (`{"until": seconds}`), and what could not be recognised (`{"missed": …}`); at the end
 * `{"done": true}` or `{"error": …}`.
 */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const recogniser = chooseRecogniser()
  const language = languageQuery(event)
  const from = Number(getQuery(event).from ?? 0)
  if (!(from >= 0)) refuse(400, '“from” is to be a number of seconds.')
  const named = getQuery(event).vocabulary
  const vocabulary = named === undefined ? null : await findVocabulary(speechFolder(), String(named))
  if (named !== undefined && !vocabulary) refuse(409, 'This vocabulary is not kept here any more. Send it again.')
  const problem = await recogniser.problem()
  if (problem) refuse(503, problem)
  if (!recogniser.knows(language)) refuse(422, 'The speech recogniser of this server does not know this language.')
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > MOST)
    refuse(413, 'This is more than four hours of sound.')
  await mkdir(speechFolder(), { recursive: true })
  const folder = await mkdtemp(join(speechFolder(), 'sound-'))
  const clean = () => rm(folder, { recursive: true, force: true })
  const wav = join(folder, 'speech.wav')
  let header: WavHeader
  try {
    await pipeline(event.node.req as Readable, limit(MOST), createWriteStream(wav))
    const file = await open(wav)
    const head = new Uint8Array(4096)
    const { bytesRead } = await file.read(head, 0, head.length, 0)
    await file.close()
    header = readWavHeader(head.subarray(0, bytesRead))
    if (header.formatTag !== 1 || header.sampleRate !== 16_000 || header.channels !== 1 || header.bitsPerSample !== 16)
      refuse(400, 'The recogniser takes 16 kHz, mono, 16 bit.')
  } catch (error) {
    await clean()
    if (isFull(error) || (error instanceof Error && 'statusCode' in error)) throw error
    refuse(400, errorMessage(error))
  }
  const options = { language, from, ...(vocabulary && { vocabulary }) }
  const abort = new AbortController()
  event.node.res.on('close', () => abort.abort())
  setHeader(event, 'content-type', 'application/x-ndjson')
  const encoder = new TextEncoder()
  return new ReadableStream<Uint8Array>({
    async start(controller) {
      const say = (what: unknown) => controller.enqueue(encoder.encode(JSON.stringify(what) + '\n'))
      try {
        // It fills all cores: one lecture at a time, the others wait their turn.
        await useStore().exclusive('recogniser', async () => {
          for await (const { words, until, missed } of hear(wav, header, recogniser, options, abort.signal)) {
            for (const word of words) say({ word })
            if (missed) say({ missed })
            say({ until })
          }
        })
        say({ done: true })
      } catch (error) {
        if (!abort.signal.aborted) say({ error: isFull(error) ? FULL : errorMessage(error) })
      } finally {
        await clean()
        if (!abort.signal.aborted) controller.close()
      }
    },
  })
})
