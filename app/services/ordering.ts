/**
 * Captions that are typed by a service: ordered for lectures, followed by themselves, and joined when they come – once,
 * whatever is sent how often – or held with the reasons.
 */
import { proxy } from 'comlink'
import { db, type OrderRow } from '~/db/database'
import { readFile, storing } from '~/db/files'
import { JobCancelled, type JobContext, type useJobs } from '~/stores/jobs'
import { authorFetch, authorProblem, Refused } from '~/utils/author'
import { deliveryProblems } from '#core/captions/delivery'
import { newTrack } from '#core/captions/track'
import { readVtt, writeVtt, type FileProblem } from '#core/captions/vtt'
import { joinSound, soundOf, type Recording } from '#core/record/recording'
import { ServiceConnection } from '#core/schema/answers'
import { OrderStanding, type CaptionOrder } from '#core/schema/captioning'
import type { CaptionTrack } from '#core/schema/captions'
import { parseAs } from '#core/schema/validate'
import { wavHead } from '#core/sound/wav'
import { canonicalJson } from '#core/text/canonical-json'
import { errorMessage } from '#core/text/error-message'
import { subtract } from '#core/time/ranges'
import { recorded } from '#core/time/units'
import { followCaptions, stateFor } from './caption-tracks'
import { changeLecture } from './cards'
import { documentRow, storeDocument } from './documents'
import { sha256Text } from './fingerprint'
import { newId, nowInstant } from './ids'
import { languageOf, loadCheckedParts } from './lectures'
import { wordsOf } from './words'

const asConnection = async (response: Promise<Response>): Promise<ServiceConnection> =>
  parseAs(ServiceConnection, await (await response).json(), 'answer of the server')

/** Which service is connected. */
export const connection = () => asConnection(authorFetch('/api/captioning/account'))
/** @throws {Error} with what the service says */
export const connect = (address: string, key: string) =>
  asConnection(
    authorFetch('/api/captioning/account', {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ address: address.trim(), key: key.trim() }),
    }),
  )
export const disconnect = () => asConnection(authorFetch('/api/captioning/account', { method: 'DELETE' }))

/** Whether the service still has something to do for it. */
export const isOpen = ({ state }: Pick<OrderRow, 'state'>): boolean =>
  state === 'preparing' || state === 'sound' || state === 'work'
/** Whether it is past its day without having come. */
export const isLate = (order: Pick<OrderRow, 'state' | 'dueAt'>, now = nowInstant()): boolean =>
  isOpen(order) && order.dueAt < now

const digestOf = (track: CaptionTrack | null): string =>
  track ? sha256Text(canonicalJson(track.cues.map((c) => [c.from, c.to, c.text]))) : ''

/** What of a lecture's speech is captioned, and how long it is. */
export interface Orderable {
  lectureId: string
  title: string
  /** s */
  duration: number
  /** Why it cannot be ordered; empty when it can. */
  problem: string
}

/** What ordering for lectures would mean. */
export const orderables = (lectureIds: readonly string[]): Promise<Orderable[]> =>
  Promise.all(
    lectureIds.map(async (lectureId) => {
      const parts = await loadCheckedParts(lectureId)
      const { recording } = parts ?? {}
      const hasSound = recording?.takes.some((t) => soundOf(recording, t.id))
      const open = await db.orders.where('lectureId').equals(lectureId).filter(isOpen).count()
      return {
        lectureId,
        title: parts?.lecture.title ?? '',
        duration: recording?.duration ?? 0,
        problem: !parts
          ? 'It is not there any more.'
          : !parts.lecture.courseId
            ? 'It is in no course yet.'
            : !hasSound
              ? 'It has no sound yet.'
              : open > 0
                ? 'It is ordered already.'
                : '',
      }
    }),
  )

/**
 * Orders captions for lectures that are not ordered yet; `followOrders` then sends and follows them.
 * @param dueAt by when they are to be there
 * @returns how many were ordered
 */
export async function placeOrders(lectureIds: readonly string[], dueAt: string, notes: string): Promise<number> {
  let count = 0
  for (const { lectureId, title, problem } of await orderables(lectureIds)) {
    const lecture = await db.lectures.get(lectureId)
    if (problem || !lecture) continue
    const language = await languageOf(lecture)
    await storing(() =>
      changeLecture(lectureId, async () => {
        // The same press twice, or in two tabs, orders once.
        if ((await db.orders.where('lectureId').equals(lectureId).filter(isOpen).count()) > 0) return
        const before = digestOf((await documentRow(lectureId, 'captions'))?.document ?? null)
        await db.orders.add({
          ...{
            id: newId(),
            courseId: lecture.courseId,
            lectureId,
            title,
            language,
            placedAt: nowInstant(),
            dueAt,
            notes,
          },
          ...{ state: 'preparing', says: '', price: 0, currency: '', taken: 0, joinedAt: null, held: null, before },
          joined: '',
        })
        count++
      }, [db.orders]),
    )
  }
  return count
}

const path = (id: string, rest = '') => `/api/captioning/orders/${id}${rest}`
const standing = async (response: Promise<Response>): Promise<OrderStanding> =>
  parseAs(OrderStanding, await (await response).json(), 'answer of the captioning service')
const noted = (id: string, { state, says, price, currency }: OrderStanding) =>
  db.orders.update(id, { state, says, price, currency })

/** Sound of a whole recording in its own time, 16 kHz mono, as a WAVE file. */
async function soundFile(recording: Recording, { engine, scratch, progress }: JobContext): Promise<Blob> {
  const RATE = 16_000
  const parts: BlobPart[] = []
  let at = 0
  const takes = [...recording.takes].sort((a, b) => a.from - b.from)
  for (const [i, take] of takes.entries()) {
    const feed = soundOf(recording, take.id)
    const file = feed && (await readFile(feed.fileId))
    if (!feed || !file) continue
    const wav = await engine.extractSpeech(
      file,
      scratch,
      proxy((share: number) => progress((0.5 * (i + share)) / takes.length)),
    )
    const samples = await wav.slice(44).arrayBuffer()
    const begins = Math.max(0, Math.round(feed.offset * RATE))
    const ends = Math.round((takes[i + 1]?.from ?? Infinity) * RATE)
    if (begins > at) parts.push(new Uint8Array(2 * (begins - at)))
    // What is heard of one take when the next has begun is the next one's.
    const kept = samples.slice(0, 2 * Math.max(0, Math.min(ends - Math.max(begins, at), samples.byteLength / 2)))
    parts.push(kept)
    at = Math.max(begins, at) + kept.byteLength / 2
  }
  if (at === 0) throw new Error('This lecture has no sound to caption.')
  return new Blob([wavHead(2 * at, RATE), ...parts], { type: 'audio/wav' })
}

/** Sends an order with what is there already and its sound. Sent again after a kill, it is the same order. */
async function send(order: OrderRow, jobs: ReturnType<typeof useJobs>): Promise<void> {
  const { id, title, language, dueAt, notes } = order
  const parts = await loadCheckedParts(order.lectureId)
  const recording = parts?.recording
  if (!recording) {
    await db.orders.update(id, { state: 'cancelled', says: 'The lecture was deleted before its sound was sent.' })
    return
  }
  const words = (await wordsOf(order.courseId)).map(({ text, heard }) => ({ text, heard }))
  const body: CaptionOrder = { title, language, dueAt, notes, words }
  try {
    await jobs.start(
      'order',
      order.lectureId,
      'Ordering captions',
      async (context) => {
        const { signal, progress } = context
        const put = (rest: string, type: string, sent: BodyInit) =>
          standing(
            authorFetch(path(id, rest), { method: 'PUT', headers: { 'content-type': type }, body: sent, signal }),
          )
        const begun = await put('', 'application/json', JSON.stringify(body))
        const track = (await documentRow(order.lectureId, 'captions'))?.document
        if (begun.state === 'sound') {
          if (track?.cues.length) await put('/draft', 'text/vtt', writeVtt({ cues: track.cues }))
          progress(0, 'Getting the sound ready')
          const sound = await soundFile(recording, context)
          progress(0.5, 'Sending the sound')
          await noted(id, await put('/sound', 'audio/wav', sound))
        }
        // It got there before, and a kill kept that from being noted: what came of it is asked like all else.
        else await db.orders.update(id, { state: 'work', says: '' })
        progress(1, 'Ordered')
      },
      { awaited: true },
    )
  } catch (error) {
    // What the service refuses is over; what it could not be asked is asked again.
    if (error instanceof JobCancelled)
      await db.orders.update(id, { state: 'cancelled', says: 'Cancelled while it was sent.' })
    else if (
      error instanceof Refused &&
      error.status >= 400 &&
      error.status < 500 &&
      error.status !== 401 &&
      error.status !== 409
    )
      await db.orders.update(id, { state: 'refused', says: error.message })
    else await db.orders.update(id, { says: errorMessage(error) })
  }
}

/** What speaks against captions that came being those of the lecture as it is now. */
async function reasons(order: OrderRow, read: CaptionTrack['cues'], lines: FileProblem[]): Promise<string[]> {
  const parts = await loadCheckedParts(order.lectureId)
  const recording = parts?.recording
  if (!recording) return ['The lecture is not there any more.']
  const found = new Map(
    (await db.analyses.bulkGet(recording.takes.map((t) => t.id))).flatMap((row) =>
      row ? [[row.takeId, row] as const] : [],
    ),
  )
  const isKnown = recording.takes.every((t) => !soundOf(recording, t.id) || found.get(t.id)?.sound)
  const whole = { from: recorded(0), to: recorded(recording.duration) }
  const track = (await documentRow(order.lectureId, 'captions'))?.document ?? null
  return deliveryProblems(read, lines, {
    duration: recording.duration,
    speech: isKnown ? subtract(whole, joinSound(recording, found).silences) : null,
    before: track?.cues ?? [],
  })
}

/**
 * Deals with captions that came: they are joined as checked by the service, or held with what speaks against them. What
 * was dealt with once is not again, and the same text twice is one.
 */
async function receive(order: OrderRow, number: number, text: string): Promise<void> {
  const lines: FileProblem[] = []
  let file: ReturnType<typeof readVtt>
  try {
    file = readVtt(text, newId, lines)
  } catch (error) {
    file = { cues: [] }
    lines.push({ line: 1, reason: errorMessage(error) })
  }
  const problems = await reasons(order, file.cues, lines)
  const digest = sha256Text(text)
  const { lectureId } = order
  const isThere = (await db.lectures.get(lectureId)) !== undefined
  const state = await stateFor(lectureId, 'checked')
  const deal = async () => {
    const row = await db.orders.get(order.id)
    if (!row || row.taken >= number) return
    const seen: Partial<OrderRow> = { taken: number }
    if (row.joined === digest) {
      await db.orders.update(row.id, seen)
      return
    }
    const now = isThere ? ((await documentRow(lectureId, 'captions'))?.document ?? null) : null
    if (row.joinedAt)
      problems.unshift('The service sent captions again, and they say otherwise than those that were joined.')
    else if (digestOf(now) !== row.before)
      problems.unshift('The captions here were changed since they were ordered; joining takes their place.')
    if (problems.length > 0 || !isThere) {
      await db.orders.update(row.id, { ...seen, held: { number, text, problems } })
      return
    }
    await join(row, file, state, now)
    await db.orders.update(row.id, { ...seen, joinedAt: nowInstant(), joined: digest, held: null })
  }
  await storing(() => (isThere ? changeLecture(lectureId, deal, [db.orders]) : db.transaction('rw', db.orders, deal)))
  // What is out says the same; where it cannot be sent, the term says that it does not.
  if ((await db.orders.get(order.id))?.joined === digest) await followCaptions(lectureId, () => Promise.resolve(true))
}

/** Puts captions of a service in the place of those that are there; to be called inside a change of the lecture. */
async function join(
  { lectureId, language, id }: OrderRow,
  { cues, header, after }: ReturnType<typeof readVtt>,
  state: CaptionTrack['state'],
  now: CaptionTrack | null,
): Promise<void> {
  const checked = cues.map((c) => ({ ...c, checked: true as const }))
  const track: CaptionTrack = {
    ...newTrack(
      { cues: checked, ...(header && { header }), ...(after && { after }) },
      'service',
      now?.language ?? language,
    ),
    ...(now?.role && { role: now.role }),
    // What students see already goes on being seen.
    state: now?.state === 'on' ? 'on' : state,
  }
  await storeDocument(lectureId, 'captions', now, track, { says: `Captions of the service (order ${id.slice(0, 6)})` })
}

/** Joins what is held after all. @throws {Error} with a sentence */
export async function takeHeld(id: string): Promise<void> {
  const order = await db.orders.get(id)
  if (!order?.held) return
  const { lectureId, held } = order
  const file = readVtt(held.text, newId, [])
  if (file.cues.length === 0) throw new Error('There is no cue in it that could be joined.')
  const state = await stateFor(lectureId, 'checked')
  await storing(() =>
    changeLecture(lectureId, async () => {
      const row = await db.orders.get(id)
      if (row?.held?.number !== held.number) return
      await join(row, file, state, (await documentRow(lectureId, 'captions'))?.document ?? null)
      await db.orders.update(id, { joinedAt: nowInstant(), joined: sha256Text(held.text), held: null })
    }, [db.orders]),
  )
}

/** Leaves what is held; the lecture stays as it is. */
export const leaveHeld = (id: string): Promise<unknown> => db.orders.update(id, { held: null })

/** Cancels an order, at the service too where it got there. @throws {Error} with a sentence */
export async function cancelOrder(id: string): Promise<void> {
  const order = await db.orders.get(id)
  if (!order || !isOpen(order)) return
  try {
    await noted(id, await standing(authorFetch(path(id), { method: 'DELETE' })))
  } catch (error) {
    // It never got there.
    if (error instanceof Refused && error.status === 404)
      await db.orders.update(id, { state: 'cancelled', says: 'Cancelled before it was sent.' })
    else throw error
  }
}

/** An order that was placed so lately is asked for often, ms; and how often orders are asked for, ms. */
const FRESH = 10 * 60_000
const OFTEN = 4000
const SELDOM = 60_000
/** How long after it came captions may come again, ms. */
const AGAIN = 14 * 24 * 3_600_000

const since = (instant: string): number => Date.now() - Date.parse(instant)

/** Asks where an order stands, and deals with what came. */
async function ask(order: OrderRow): Promise<void> {
  try {
    const now = await standing(authorFetch(path(order.id)))
    // Captions first: once it is noted as ready, it is hardly asked for any more.
    for (let number = order.taken + 1; number <= now.deliveries; number++)
      await receive(order, number, await (await authorFetch(path(order.id, `/deliveries/${number}`))).text())
    await noted(order.id, now)
  } catch (error) {
    await db.orders.update(order.id, { says: errorMessage(error) })
  }
}

/**
 * Sends what was ordered, asks where each order stands, and deals with what came; in one tab at a time.
 * @param again whether those that have come lately are asked for too: a service may send a better version
 * @returns when to do so again, ms from now
 */
export async function followOrders(jobs: ReturnType<typeof useJobs>, again = false): Promise<number> {
  return navigator.locks.request('orders', async (): Promise<number> => {
    const wanted = (o: OrderRow) => isOpen(o) || (again && o.state === 'ready' && since(o.dueAt) < AGAIN)
    const orders = await db.orders.filter(wanted).toArray()
    if (orders.length === 0 || (await authorProblem())) return SELDOM
    for (const order of orders) await (order.state === 'preparing' ? send(order, jobs) : ask(order))
    const isFresh = await db.orders.filter((o) => isOpen(o) && since(o.placedAt) < FRESH).count()
    return isFresh > 0 ? OFTEN : SELDOM
  })
}
