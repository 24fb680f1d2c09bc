/** Drafting captions: the sound goes to the server's recogniser as 16 kHz mono, words come back as they are heard. */
import { proxy } from 'comlink'
import { Type } from '@sinclair/typebox'
import { db } from '~/db/database'
import { readFile } from '~/db/files'
import type { JobContext, useJobs } from '~/stores/jobs'
import { authorFetch } from '~/utils/author'
import type { Alignment } from '#core/captions/align'
import { reflow } from '#core/captions/reflow'
import { joinDraft } from '#core/captions/join-draft'
import { addDraft } from '#core/captions/track'
import { soundOf, type PlacedFeed, type PlacedTake, type Recording } from '#core/record/recording'
import { Word } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
import { formatTimecode } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { changeLecture } from './cards'
import { documentRow, storeDocument } from './documents'
import { newId } from './ids'
import { languageOf } from './lectures'
import { startMediaWorker } from './media-worker'

const Heard = Type.Object(
  {
    word: Type.Optional(Word),
    /** How far that is, s. */
    until: Type.Optional(Type.Number({ minimum: 0 })),
    missed: Type.Optional(Type.Object({ from: Type.Number(), to: Type.Number(), says: Type.String() })),
    done: Type.Optional(Type.Boolean()),
    error: Type.Optional(Type.String()),
  },
  { additionalProperties: false },
)

const Available = Type.Object({ available: Type.Boolean(), says: Type.String() })

/** Why no captions can be drafted just now, as a sentence; empty when they can. */
export async function recogniserProblem(): Promise<string> {
  try {
    const { available, says } = parseAs(
      Available,
      await (await authorFetch('/api/speech')).json(),
      'answer of the server',
    )
    return available ? '' : says
  } catch (error) {
    return errorMessage(error)
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
 * Drafts captions for takes of a lecture and stores them as a draft, after those that are there when `keep` says so, in
 * the stead of the job `replaces` that was cut off.
 * @throws {Error} with a sentence; captions that were there before stay as they were
 */
export async function draftCaptions(
  recording: Recording,
  lectureId: string,
  takes: readonly PlacedTake[],
  keep: boolean,
  jobs: ReturnType<typeof useJobs>,
  replaces?: string,
): Promise<void> {
  const sounds: { feed: PlacedFeed; file: Blob }[] = []
  for (const feed of takes.flatMap((take) => soundOf(recording, take.id) ?? [])) {
    const file = await readFile(feed.fileId)
    if (file) sounds.push({ feed, file })
  }
  if (sounds.length === 0) throw new Error('This lecture has no sound to caption.')
  const whole = sounds.reduce((sum, { feed }) => sum + feed.duration, 0)
  // What stands now gives way to the draft; what a person writes from here on stays.
  const lecture = await db.lectures.get(lectureId)
  const language = lecture ? await languageOf(lecture) : 'en'
  const begun = (await documentRow(lectureId, 'captions'))?.document ?? null
  await jobs.start(
    'captions',
    lectureId,
    'Listening for captions',
    async (context) => {
      const words: Word[] = []
      let heard = 0
      for (const { feed, file } of sounds) {
        words.push(
          ...(await hear(feed, file, context, (share, says) =>
            context.progress((heard + share * feed.duration) / whole, says),
          )),
        )
        heard += feed.duration
      }
      if (words.length === 0) throw new Error('The recogniser heard no words. Check that the lecture has speech in it.')
      await changeLecture(lectureId, async () => {
        const now = (await documentRow(lectureId, 'captions'))?.document ?? null
        const track =
          keep && now
            ? addDraft(now, reflow(words, newId))
            : joinDraft(begun, now, words, newId, now?.language ?? language)
        await storeDocument(lectureId, 'captions', now, track, { says: 'Drafted from the speech' })
      })
    },
    { restart: { do: 'captions', keep }, awaited: true, replaces },
  )
}

/** What is said in one feed, in the lecture's recorded time. */
async function hear(
  feed: PlacedFeed,
  file: Blob,
  { engine, scratch, signal }: JobContext,
  progress: (share: number, says?: string) => void,
): Promise<Word[]> {
  const wav = await engine.extractSpeech(
    file,
    scratch,
    proxy((share: number) => progress(0.15 * share)),
  )
  const response = await authorFetch('/api/speech', {
    method: 'POST',
    body: wav,
    headers: { 'content-type': 'audio/wav' },
    signal,
  })
  if (!response.body) throw new Error('The server gave no answer.')
  const words: Word[] = []
  let finished = false
  for await (const line of lines(response.body)) {
    const { word, done, error } = parseAs(Heard, JSON.parse(line), 'answer of the recogniser')
    if (error) throw new Error(error)
    if (word) {
      words.push({ ...word, from: recorded(word.from + feed.offset), to: recorded(word.to + feed.offset) })
      progress(
        0.15 + 0.85 * Math.min(1, word.to / feed.duration),
        `Heard up to ${formatTimecode(word.to + feed.offset)}`,
      )
    }
    finished ||= Boolean(done)
  }
  if (!finished) throw new Error('The connection to the recogniser was lost. Start it again; nothing was changed.')
  return words
}

/** Lays a script along words that were heard. @param script its words */
export async function layScript(script: readonly string[], heard: readonly Word[]): Promise<Alignment> {
  const worker = startMediaWorker()
  try {
    // What a store holds is a proxy, which no worker can be handed.
    const plain = JSON.parse(JSON.stringify(heard)) as Word[]
    return await Promise.race([worker.engine.alignScript([...script], plain), worker.failed])
  } finally {
    worker.end()
  }
}
