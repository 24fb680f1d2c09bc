/**
 * Lectures while they are held, as stored. What comes in is let go again after some minutes, and all of it once the
 * recording is published at the same place.
 *
 *     broadcasts/<place>          how it stands
 *     live/<place>/<run>/init, n  what can be watched now
 */
import { announced, liveStatus, transition, withSegment } from '#core/packages/live'
import type { LiveView } from '#core/packages/watch-view'
import {
  Broadcast as BroadcastSchema,
  type Announcement,
  type Broadcast,
  type LiveSegment,
  type LiveTransition,
} from '#core/schema/live'
import { refuse } from './border'
import { mediaBase, type WatchSession } from './sessions'
import { useStore } from './storage'

/** Lectures that are, or were, to be watched live, by place. */
export const broadcasts = () => useStore().documents('broadcasts', BroadcastSchema)
const mediaPath = (placeId: string, run: number, name: string) => `live/${placeId}/${run}/${name}`
const now = () => new Date().toISOString()
/** Bytes handed on at a time. */
const SLICE = 1 << 16

async function existing(placeId: string): Promise<Broadcast> {
  return (await broadcasts().read(placeId)) ?? refuse(404, 'No lecture is announced at this place.')
}

const change = <T>(placeId: string, act: () => Promise<T>): Promise<T> => useStore().exclusive(`live ${placeId}`, act)

async function keep(broadcast: Broadcast): Promise<Broadcast> {
  await broadcasts().write(broadcast.placeId, broadcast)
  return broadcast
}

/** Announces it, or changes when it is to begin; what has been sent stays. */
export const announce = (announcement: Announcement): Promise<Broadcast> =>
  change(announcement.place.id, async () => {
    const fresh = announced(announcement, now())
    const before = await broadcasts().read(fresh.placeId)
    return keep(before ? { ...before, title: fresh.title, startsAt: fresh.startsAt } : fresh)
  })

/** At the start: removes media of lectures that are not announced any more. */
export async function removeLiveOrphans(): Promise<void> {
  const announced = await broadcasts().ids()
  for (const place of await useStore().parts.names('live'))
    if (!announced.includes(place)) await useStore().parts.removeAll(`live/${place}`)
}

/** Removes all of it; none being there is fine. */
export const endBroadcast = (placeId: string): Promise<void> =>
  change(placeId, async () => {
    await broadcasts().remove(placeId)
    await useStore().parts.removeAll(`live/${placeId}`)
    seen.delete(placeId)
  })

/** Begins a run, pauses or ends it. @returns how it stands then */
export const transitionBroadcast = (placeId: string, to: LiveTransition): Promise<Broadcast> =>
  change(placeId, async () => keep(transition(await existing(placeId), to, now())))

/** Takes the init segment of the run that is under way. */
export const putInit = (placeId: string, run: number, bytes: Uint8Array): Promise<void> =>
  change(placeId, async () => {
    if ((await existing(placeId)).run !== run) refuse(409, 'This run is over.')
    await useStore().parts.write(mediaPath(placeId, run, 'init'), bytes)
  })

/** Takes a segment of the run that is under way; what is too old then is let go. */
export const putSegment = (placeId: string, segment: LiveSegment, bytes: Uint8Array): Promise<void> =>
  change(placeId, async () => {
    const before = await existing(placeId)
    if (before.run !== segment.run || before.state !== 'on') refuse(409, 'This run is over.')
    const { broadcast, dropped } = withSegment(before, segment, now())
    if (broadcast === before) return
    // Named only once it is there.
    await useStore().parts.write(mediaPath(placeId, segment.run, String(segment.n)), bytes)
    await keep(broadcast)
    for (const { run, n } of dropped) await useStore().parts.remove(mediaPath(placeId, run, String(n)))
    const first = broadcast.segments[0]?.run ?? segment.run
    for (const run of new Set(dropped.map((d) => d.run)))
      if (run < first) await useStore().parts.remove(mediaPath(placeId, run, 'init'))
  })

/** Bytes of one of its files, or null when it is not there (any more). */
export const liveSize = (placeId: string, run: number, name: string): Promise<number | null> =>
  useStore().parts.size(mediaPath(placeId, run, name))

/** A file of `size` bytes, a little at a time. */
export async function* readLive(placeId: string, run: number, name: string, size: number): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < size; at += SLICE) {
    const bytes = await useStore().parts.read(mediaPath(placeId, run, name), at, Math.min(size, at + SLICE) - 1)
    if (!bytes) throw new Error(`${name} of run ${run} at ${placeId} was let go`)
    yield bytes
  }
}

/** When each student last asked for the playlist, by place; a number for the lecturer, not kept. */
const seen = new Map<string, Map<string, number>>()
/** Who has not asked for this long has gone, ms. */
const GONE = 10_000

/** @param who as the ticket of media says it */
export function isWatching(placeId: string, who: string): void {
  const here = seen.get(placeId) ?? new Map<string, number>()
  here.set(who, Date.now())
  seen.set(placeId, here)
}

export const watching = (placeId: string): number =>
  [...(seen.get(placeId)?.values() ?? [])].filter((at) => Date.now() - at < GONE).length

/** What a student's player is told of it. */
export const liveView = async (broadcast: Broadcast, session: WatchSession): Promise<LiveView> => ({
  kind: 'live',
  title: broadcast.title,
  startsAt: broadcast.startsAt,
  state: liveStatus(broadcast, now()),
  playlist: broadcast.segments.length ? `${await mediaBase(broadcast.placeId, session)}/live/index.m3u8` : null,
  student: session.student,
})
