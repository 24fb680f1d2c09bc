/** Announcing a lecture that students can watch while it is recorded, and reaching the server with it. */
import { db, type BroadcastRow } from '~/db/database'
import { authorFetch } from '~/utils/author'
import { documentId } from '#core/documents/kinds'
import { DEFAULT_OPTIONS } from '#core/packages/upgrade'
import { LiveRun, LiveWatchers } from '#core/schema/answers'
import type { Announcement } from '#core/schema/live'
import type { Lecture } from '#core/schema/lecture'
import { parseAs } from '#core/schema/validate'
import { changeLecture } from './cards'
import { nowInstant } from './ids'
import { NotTaken, type LivePort } from './sending'

/** An answer that does not come within this is none, ms. */
const PATIENCE = 10_000

const address = (placeId: string) => `/api/places/${placeId}/live`
const json = (method: string, body: unknown): RequestInit => ({
  method,
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(body),
})

/**
 * Puts a lecture on its course page before it begins, or changes what stands there. The place stays the same from then
 * on, also for the recording.
 * @throws {Error} with a sentence; nothing has changed then
 */
export async function announceLive(lecture: Lecture, startsAt: string): Promise<void> {
  const before = await db.broadcasts.get(lecture.id)
  // Named by its lecture, so that trying again meets what a first try left.
  const place = {
    id: before?.place.id ?? lecture.id,
    publicationId: before?.place.publicationId ?? lecture.id,
    from: before?.place.from ?? nowInstant(),
    until: null,
    courseId: lecture.courseId,
    week: lecture.week,
    sets: [documentId(lecture.id, 'questions')],
    options: DEFAULT_OPTIONS,
  }
  const announcement: Announcement = { place, title: lecture.title, startsAt }
  await authorFetch(address(place.id), json('PUT', announcement))
  await changeLecture(lecture.id, () => db.broadcasts.put({ lectureId: lecture.id, ...announcement }))
}

/** Takes it off the course page. */
export async function withdrawLive({ lectureId, place }: BroadcastRow): Promise<void> {
  await authorFetch(address(place.id), { method: 'DELETE' })
  await changeLecture(lectureId, () => db.broadcasts.delete(lectureId))
}

/** The server, for one place. */
export function livePort(placeId: string): LivePort {
  const ask = async (path: string, init: RequestInit): Promise<unknown> => {
    let response: Response
    try {
      response = await fetch(address(placeId) + path, { ...init, signal: AbortSignal.timeout(PATIENCE) })
    } catch {
      throw new Error(
        'The server does not answer. The recording goes on; students see it again as soon as there is a connection.',
      )
    }
    const body: unknown = await response.json().catch(() => null)
    if (response.ok) return body
    const says =
      typeof body === 'object' && body !== null && 'message' in body
        ? String(body.message)
        : `The server answered ${response.status}.`
    // A run that is over, or an announcement that was taken back, is not there again the next time.
    throw new (response.status === 404 || response.status === 409 ? NotTaken : Error)(says)
  }
  return {
    transition: async (to) => parseAs(LiveRun, await ask('', json('POST', { to })), 'answer of the server').run,
    async init(run, body) {
      await ask(`/${run}/init`, { method: 'PUT', body })
    },
    segment: async (run, n, body, duration) =>
      parseAs(
        LiveWatchers,
        await ask(`/${run}/${n}?duration=${duration.toFixed(3)}`, { method: 'PUT', body }),
        'answer of the server',
      ).watching,
  }
}
