/** Drafting captions: the sound goes to the server's recogniser as 16 kHz mono, words come back as they are heard. */
import { proxy } from 'comlink'
import { db, type HeardRow } from '~/db/database'
import { readFile } from '~/db/files'
import { JobCancelled, type JobContext, type useJobs } from '~/stores/jobs'
import { authorFetch, authorProblem } from '~/utils/author'
import type { Alignment } from '#core/captions/align'
import { joinDraft } from '#core/captions/join-draft'
import { soundOf, uncaptioned, type PlacedFeed, type PlacedTake, type Recording } from '#core/record/recording'
import { Heard, KeptVocabulary, SpeechAvailable } from '#core/schema/answers'
import type { Word } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { changeLecture } from './cards'
import { documentRow, storeDocument } from './documents'
import { documentOf } from './fingerprint'
import { heardOf, nothingHeard } from './heard'
import { newId } from './ids'
import { languageOf, loadCheckedParts } from './lectures'
import { startMediaWorker } from './media-worker'
import { RECORDING } from './takes'
import { vocabularyOf } from './words'

/** Why no captions of a language can be drafted just now, as a sentence; empty when they can. */
export async function recogniserProblem(language: string): Promise<string> {
  try {
    const { available, says } = parseAs(
      SpeechAvailable,
      await (await authorFetch(`/api/speech?${new URLSearchParams({ language })}`)).json(),
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

/** What is heard is put into the captions, and kept, this often, ms. */
const EVERY = 3000

export interface DraftOptions {
  /** The job that was cut off, in whose stead this one goes on. */
  replaces?: string
  /** Nobody asked for it: the takes have come. */
  arrived?: boolean
}

/** What is spoken in a lecture. */
interface Spoken {
  /** BCP 47. */
  language: string
  /** Lines of text that is its course's own. */
  vocabulary: readonly string[]
}

interface Sound {
  feed: PlacedFeed
  file: Blob
}

/**
 * Drafts captions for takes of a lecture. What was heard is kept as it is heard: stopped, it goes on from there. What a
 * person writes meanwhile stays.
 * @param how `add`: cues appear where there are none, as they are heard; `replace`: those that are there give way to
 * the whole draft at its end
 * @throws {Error} with a sentence, or JobCancelled
 */
export async function draftCaptions(
  recording: Recording,
  lectureId: string,
  takes: readonly PlacedTake[],
  how: 'add' | 'replace',
  jobs: ReturnType<typeof useJobs>,
  { replaces, arrived }: DraftOptions = {},
): Promise<void> {
  const sounds: Sound[] = []
  for (const feed of takes.flatMap((take) => soundOf(recording, take.id) ?? [])) {
    const file = await readFile(feed.fileId)
    if (file) sounds.push({ feed, file })
  }
  const [first] = sounds
  if (!first) throw new Error('This lecture has no sound to caption.')
  const lecture = await db.lectures.get(lectureId)
  const language = lecture ? await languageOf(lecture) : 'en'
  const vocabulary = lecture ? await vocabularyOf(lecture) : []
  const captions = async () => (await documentRow(lectureId, 'captions'))?.document ?? null
  const placed = (words: readonly Word[], { offset }: PlacedFeed) =>
    words.map((w) => ({ ...w, from: recorded(w.from + offset), to: recorded(w.to + offset) }))

  async function run(context: JobContext): Promise<void> {
    const rows: HeardRow[] = []
    for (const { feed } of sounds) {
      const row = await heardOf(feed.takeId, feed.fileId)
      // One that was listened to as a whole is listened to anew; one that was not goes on.
      rows.push(how === 'replace' && row.whole ? nothingHeard(feed.takeId, feed.fileId) : row)
    }
    if (how === 'replace' && !rows[0]?.givesWay)
      rows[0] = { ...(rows[0] as HeardRow), givesWay: (await captions())?.cues ?? [] }
    await db.heard.bulkPut(rows)
    /** Keeps what was heard; where there is nothing yet, as captions. */
    const keep = (row: HeardRow, { feed }: Sound) =>
      changeLecture(lectureId, async () => {
        // Deleted meanwhile, nothing is to come back of it; stopped meanwhile, it is not to begin again by itself.
        if (!(await db.takes.get(row.takeId))) return
        const arrived = (await db.heard.get(row.takeId))?.arrived ?? false
        if (how === 'replace') {
          await db.heard.put({ ...row, arrived })
          return
        }
        const fresh = placed(
          row.words.filter((w) => w.from >= row.joined),
          feed,
        )
        const now = await captions()
        // No step that could be undone: it is nothing that a person did.
        if (fresh.length > 0)
          await storeDocument(lectureId, 'captions', now, joinDraft(null, now, fresh, newId, language), { says: '' })
        await db.heard.put({ ...row, joined: row.until, arrived })
      }, [db.heard])
    const missed: string[] = []
    const progress = progressOf(sounds, rows, context)
    for (const [i, sound] of sounds.entries()) {
      let row = rows[i] as HeardRow
      let kept = performance.now()
      try {
        for await (const heard of listen(sound, row, { language, vocabulary }, context)) {
          row = heard.row
          if (heard.missed !== undefined) missed.push(formatTimecode(heard.missed + sound.feed.offset))
          progress(i, row)
          if (row.whole || performance.now() - kept < EVERY) continue
          kept = performance.now()
          await keep(row, sound)
          row = { ...row, joined: how === 'add' ? row.until : row.joined }
        }
      } finally {
        // However it ends: it goes on from here.
        if (row !== rows[i]) await keep(row, sound)
      }
      rows[i] = row
    }
    const words = sounds.flatMap(({ feed }, i) => placed(rows[i]?.words ?? [], feed))
    if (words.length === 0 && !arrived)
      throw new Error('The recogniser heard no words. Check that the lecture has speech in it.')
    const [{ givesWay = [], ...row }] = rows as [HeardRow]
    await changeLecture(lectureId, async () => {
      const now = await captions()
      if (how === 'replace' && words.length > 0) {
        const before = now && { ...now, cues: [...givesWay] }
        await storeDocument(
          lectureId,
          'captions',
          now,
          joinDraft(before, now, words, newId, now?.language ?? language),
          { says: 'Drafted from the speech' },
        )
      }
      for (const heard of [row, ...rows.slice(1)]) await db.heard.put({ ...heard, joined: heard.until, arrived: false })
    }, [db.heard])
    context.progress(1, missed.length > 0 ? `Not everything could be recognised: at ${missed.join(', ')}` : 'Drafted')
  }
  const restart = arrived ? {} : { restart: { do: 'captions' as const, keep: how === 'add' } }
  try {
    await jobs.start('captions', lectureId, 'Listening for captions', run, { ...restart, awaited: true, replaces })
  } catch (error) {
    // What a person stopped does not begin again by itself.
    if (error instanceof JobCancelled)
      for (const { feed } of sounds) await db.heard.update(feed.takeId, { arrived: false })
    throw error
  }
}

/** Says how far several sounds are listened to, and how long it will take yet. */
function progressOf(sounds: readonly Sound[], begun: readonly HeardRow[], context: JobContext) {
  const whole = sounds.reduce((sum, { feed }) => sum + feed.duration, 0)
  const heard = sounds.map(({ feed }, i) => Math.min(feed.duration, begun[i]?.until ?? 0))
  const sum = () => heard.reduce((all, s) => all + s, 0)
  const before = sum()
  const began = performance.now()
  return (i: number, { until }: HeardRow) => {
    const feed = sounds[i]?.feed
    if (!feed) return
    heard[i] = Math.min(feed.duration, until)
    const share = sum() / whole
    const left = ((whole - sum()) * (performance.now() - began)) / 1000 / Math.max(1, sum() - before)
    context.progress(share, `Heard up to ${formatTimecode(until + feed.offset)}, about ${sayDuration(left)} left`)
  }
}

const isRecording = async () => ((await navigator.locks.query()).held ?? []).some((lock) => lock.name === RECORDING)

/**
 * Listens to one sound from where it was listened to before, and gives what has been heard by then, time after time.
 * While something is recorded it waits.
 */
async function* listen(
  { feed, file }: Sound,
  row: HeardRow,
  spoken: Spoken,
  { engine, scratch, signal, progress }: JobContext,
): AsyncGenerator<{ row: HeardRow; missed?: number }> {
  if (row.whole) return
  const wav = await engine.extractSpeech(
    file,
    scratch,
    proxy(() => undefined),
  )
  while (!row.whole) {
    if (await isRecording()) progress(row.until / feed.duration, 'Waiting until nothing is recorded any more')
    await navigator.locks.request(RECORDING, { signal }, () => undefined)
    const pause = new AbortController()
    // Words count once it is said how far has been heard: from there it goes on.
    let said: Word[] = []
    try {
      for await (const line of answer(wav, row.until, spoken, AbortSignal.any([signal, pause.signal]))) {
        const { word, until, missed, done, error } = line
        if (error) throw new Error(error)
        if (word) said.push(word)
        if (until !== undefined) {
          row = { ...row, words: [...row.words, ...said], until: Math.max(row.until, until) }
          said = []
        }
        if (done) row = { ...row, whole: true }
        if (done || until !== undefined || missed) yield { row, ...(missed && { missed: missed.from }) }
        if (done || (until !== undefined && (await isRecording()))) break
      }
    } finally {
      pause.abort()
    }
  }
}

/** Tells the server what words the course has. @returns what it calls them from then on */
async function sendVocabulary(lines: readonly string[], signal: AbortSignal): Promise<string> {
  const init = {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ lines }),
    signal,
  }
  const answer: unknown = await (await authorFetch('/api/speech/vocabulary', init)).json()
  return parseAs(KeptVocabulary, answer, 'answer of the server').id
}

/** What the server says of speech from an instant on (s), line by line. @throws {Error} with a sentence */
async function* answer(wav: Blob, from: number, { language, vocabulary }: Spoken, signal: AbortSignal) {
  const query = new URLSearchParams({ language, from: String(from) })
  if (vocabulary.length > 0) query.set('vocabulary', await sendVocabulary(vocabulary, signal))
  const response = await authorFetch(`/api/speech?${query}`, {
    method: 'POST',
    body: wav,
    headers: { 'content-type': 'audio/wav' },
    signal,
  })
  if (!response.body) throw new Error('The server gave no answer.')
  for await (const line of lines(response.body)) {
    const said = parseAs(Heard, JSON.parse(line), 'answer of the recogniser')
    yield said
    if (said.done || said.error) return
  }
  throw new Error('The connection to the recogniser was lost. Start it again; it goes on where it was.')
}

/**
 * Drafts captions of takes that have come, one after the other, in whatever tab: where the server has a recogniser for their
 * language, the author is signed in, and nobody has checked captions of the lecture yet. What cannot be drafted now waits
 * until the next time.
 */
export async function draftArrivals(jobs: ReturnType<typeof useJobs>): Promise<void> {
  await navigator.locks.request('arrivals', async () => {
    if (await authorProblem()) return
    const tried = new Set<string>()
    for (;;) {
      const next = await db.heard.filter((row) => row.arrived === true && !tried.has(row.takeId)).first()
      if (!next) return
      tried.add(next.takeId)
      const take = await db.takes.get(next.takeId)
      const parts = take && (await loadCheckedParts(take.lectureId))
      const placed = parts?.recording?.takes.find((t) => t.id === next.takeId)
      if (!parts?.recording || !placed) continue
      const track = documentOf(parts, 'captions')
      const isOpen = next.until > 0 || uncaptioned(parts.recording, track?.cues ?? []).includes(placed)
      if (!isOpen || (track && track.state !== 'draft')) await db.heard.update(next.takeId, { arrived: false })
      else if (!(await recogniserProblem(await languageOf(parts.lecture))))
        await draftCaptions(parts.recording, parts.lecture.id, [placed], 'add', jobs, { arrived: true }).catch(
          // It stands in the job's row, and the others go on.
          () => undefined,
        )
    }
  })
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
