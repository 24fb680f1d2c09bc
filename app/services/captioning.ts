/** Drafting captions: the sound goes to the server's recogniser as 16 kHz mono, words come back as they are heard. */
import { proxy } from 'comlink'
import { Type } from '@sinclair/typebox'
import { db } from '~/db/database'
import { readFile } from '~/db/files'
import type { useJobs } from '~/stores/jobs'
import { authorFetch } from '~/utils/author'
import { reflow } from '#core/captions/reflow'
import { newTrack } from '#core/captions/track'
import { Word } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
import type { Take } from '#core/schema/lecture'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { newId } from './ids'

const Heard = Type.Object({ word: Type.Optional(Word), done: Type.Optional(Type.Boolean()), error: Type.Optional(Type.String()) }, { additionalProperties: false })

const Available = Type.Object({ available: Type.Boolean(), says: Type.String() })

/** Why no captions can be drafted just now, as a sentence; empty when they can. */
export async function recogniserProblem(): Promise<string> {
  try {
    const { available, says } = parseAs(Available, await (await authorFetch('/api/speech')).json(), 'answer of the server')
    return available ? '' : says
  } catch (error) {
    return error instanceof Error ? error.message : String(error)
  }
}

/** Lines of a streamed answer. */
async function* lines(body: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  const reader = body.pipeThrough(new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>).getReader()
  let rest = ''
  for (;;) {
    const { value, done } = await reader.read()
    const parts = (rest + (value ?? '')).split('\n')
    rest = done ? '' : (parts.pop() ?? '')
    yield* parts.filter(Boolean)
    if (done) return
  }
}

/**
 * Drafts captions for a take and stores them as a draft.
 * @throws {Error} with a sentence; captions that were there before stay as they were
 */
export async function draftCaptions(take: Take, jobs: ReturnType<typeof useJobs>): Promise<void> {
  const sound = take.feeds.find((f) => f.kind === 'sound')
  const file = sound && (await readFile(sound.fileId))
  if (!sound || !file) throw new Error('This lecture has no sound to caption.')
  await jobs.start('captions', take.lectureId, 'Listening for captions', async ({ engine, scratch, progress, signal }) => {
    const wav = await engine.extractSpeech(file, scratch, proxy((share: number) => progress(0.15 * share)))
    const response = await authorFetch('/api/speech', { method: 'POST', body: wav, headers: { 'content-type': 'audio/wav' }, signal })
    if (!response.body) throw new Error('The server gave no answer.')
    const words: Word[] = []
    let finished = false
    for await (const line of lines(response.body)) {
      const { word, done, error } = parseAs(Heard, JSON.parse(line), 'answer of the recogniser')
      if (error) throw new Error(error)
      if (word) {
        words.push({ ...word, from: recorded(word.from + sound.offset), to: recorded(word.to + sound.offset) })
        progress(0.15 + 0.85 * Math.min(1, word.to / sound.duration), `Heard up to ${formatTimecode(word.to)}`)
      }
      finished ||= Boolean(done)
    }
    if (!finished) throw new Error('The connection to the recogniser was lost. Start it again; nothing was changed.')
    if (words.length === 0) throw new Error('The recogniser heard no words. Check that the lecture has speech in it.')
    await db.captions.put({ lectureId: take.lectureId, track: newTrack({ cues: reflow(words, newId) }, 'recogniser') })
  }, { do: 'captions' })
}
