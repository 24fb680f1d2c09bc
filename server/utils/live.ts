/**
 * Lectures while they are held, as stored. What comes in is let go again after some minutes, and all of it once the recording is
 * published at the same place.
 *
 *     live:<place>:broadcast               how it stands
 *     live:<place>:media:<run>:init, :<n>  what can be watched now
 */
import { announced, liveStatus, turned, withSegment } from '#core/packages/live'
import type { LiveView } from '#core/packages/watch-view'
import type { Student } from '#core/schema/attempt'
import { Broadcast as BroadcastSchema, type Announcement, type Broadcast, type LiveSegment, type LiveTurn } from '#core/schema/live'
import { parseAs } from '#core/schema/validate'
import { refuse } from './border'
import { inTurn, keysBelow, store } from './storage'

const broadcastKey = (placeId: string) => `live:${placeId}:broadcast`
const mediaKey = (placeId: string, run: number, name: string) => `live:${placeId}:media:${run}:${name}`
const now = () => new Date().toISOString()

/** A lecture that is, or was, to be watched live at a place; null when there is none. */
export async function readBroadcast(placeId: string): Promise<Broadcast | null> {
  const stored = await store().getItem(broadcastKey(placeId))
  return stored ? parseAs(BroadcastSchema, stored, 'stored broadcast') : null
}

async function existing(placeId: string): Promise<Broadcast> {
  return (await readBroadcast(placeId)) ?? refuse(404, 'No lecture is announced at this place.')
}

const change = <T>(placeId: string, act: () => Promise<T>): Promise<T> => inTurn(`live:${placeId}`, act)

async function keep(broadcast: Broadcast): Promise<Broadcast> {
  await store().setItem(broadcastKey(broadcast.placeId), broadcast)
  return broadcast
}

/** Announces it, or changes when it is to begin; what has been sent stays. */
export const announce = (announcement: Announcement): Promise<Broadcast> => change(announcement.place.id, async () => {
  const fresh = announced(announcement, now())
  const before = await readBroadcast(fresh.placeId)
  return keep(before ? { ...before, title: fresh.title, startsAt: fresh.startsAt } : fresh)
})

/** Removes all of it; none being there is fine. */
export const endBroadcast = (placeId: string): Promise<void> => change(placeId, async () => {
  for (const key of await keysBelow(`live:${placeId}`)) await store().removeItem(`live:${placeId}:${key}`)
  seen.delete(placeId)
})

/** Begins a run, pauses or ends it. @returns how it stands then */
export const turnBroadcast = (placeId: string, turn: LiveTurn): Promise<Broadcast> => change(placeId, async () => keep(turned(await existing(placeId), turn, now())))

/** Takes the init segment of the run that is under way. */
export const putInit = (placeId: string, run: number, bytes: Uint8Array): Promise<void> => change(placeId, async () => {
  if ((await existing(placeId)).run !== run) refuse(409, 'This run is over.')
  await store().setItemRaw(mediaKey(placeId, run, 'init'), Buffer.from(bytes))
})

/** Takes a segment of the run that is under way; what is too old then is let go. */
export const putSegment = (placeId: string, segment: LiveSegment, bytes: Uint8Array): Promise<void> => change(placeId, async () => {
  const before = await existing(placeId)
  if (before.run !== segment.run || before.state !== 'on') refuse(409, 'This run is over.')
  const { broadcast, dropped } = withSegment(before, segment, now())
  if (broadcast === before) return
  // Named only once it is there.
  await store().setItemRaw(mediaKey(placeId, segment.run, String(segment.n)), Buffer.from(bytes))
  await keep(broadcast)
  for (const { run, n } of dropped) await store().removeItem(mediaKey(placeId, run, String(n)))
  const first = broadcast.segments[0]?.run ?? segment.run
  for (const run of new Set(dropped.map((d) => d.run))) if (run < first) await store().removeItem(mediaKey(placeId, run, 'init'))
})

/** One of its files, or null when it is not there (any more). */
export async function readLive(placeId: string, run: number, name: string): Promise<Uint8Array | null> {
  return store().getItemRaw<Uint8Array>(mediaKey(placeId, run, name))
}

/** When each student last asked for the playlist, by place; a number for the lecturer, not kept. */
const seen = new Map<string, Map<string, number>>()
/** Who has not asked for this long has gone, ms. */
const GONE = 10_000

export function isWatching(placeId: string, student: Student): void {
  const here = seen.get(placeId) ?? new Map<string, number>()
  here.set(student.id, Date.now())
  seen.set(placeId, here)
}

export const watching = (placeId: string): number => [...(seen.get(placeId)?.values() ?? [])].filter((at) => Date.now() - at < GONE).length

/** What a student's player is told of it. */
export const liveView = (broadcast: Broadcast, student: Student): LiveView => ({
  kind: 'live', title: broadcast.title, startsAt: broadcast.startsAt, state: liveStatus(broadcast, now()),
  playlist: broadcast.segments.length ? `/api/watch/${broadcast.placeId}/live/index.m3u8` : null, student,
})
