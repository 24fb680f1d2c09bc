/**
 * A lecture while it is held, as a playlist that grows at one end and is let go at the other (HLS, RFC 8216 §6.2.2).
 *
 *     run 1 ├─0─┼─1─┼─2─┤ paused ├─0─┼─1─┼ … run 2      every run has an init segment of its own
 */
import type { Announcement, Broadcast, LiveSegment, LiveTransition } from '../schema/live'

/** How long students can go back, s. */
const WINDOW = 180
/** And no more segments than this, however short they are. */
const MOST = 200
/** No segment may round to more (RFC 8216 §4.3.3.1); one that was held up is said to be this long. */
const TARGET = 3
/** Without anything new for this long it is not only late, s. */
const LOST = 12

export const announced = ({ place, title, startsAt }: Announcement, now: string): Broadcast => ({
  placeId: place.id,
  title,
  startsAt,
  state: 'announced',
  run: 0,
  segments: [],
  gone: { segments: 0, breaks: 0 },
  changedAt: now,
})

/** Begins (a further run), pauses or ends it. */
export const transition = (broadcast: Broadcast, { to }: LiveTransition, now: string): Broadcast => ({
  ...broadcast,
  state: to,
  run: broadcast.run + (to === 'on' ? 1 : 0),
  changedAt: now,
})

/**
 * With a further segment. One that is there already, or comes behind a later one, changes nothing: it was sent again.
 * @returns also the segments that are let go for it
 */
export function withSegment(
  broadcast: Broadcast,
  segment: LiveSegment,
  now: string,
): { broadcast: Broadcast; dropped: LiveSegment[] } {
  const last = broadcast.segments.at(-1)
  if (last && (segment.run < last.run || (segment.run === last.run && segment.n <= last.n)))
    return { broadcast, dropped: [] }
  const segments = [...broadcast.segments, segment]
  const dropped: LiveSegment[] = []
  let length = segments.reduce((sum, s) => sum + s.duration, 0)
  const gone = { ...broadcast.gone }
  for (let first = segments[0]; first && (length > WINDOW || segments.length > MOST); first = segments[0]) {
    dropped.push(first)
    segments.shift()
    length -= first.duration
    gone.segments++
    if (segments[0] && segments[0].run !== first.run) gone.breaks++
  }
  return { broadcast: { ...broadcast, segments, gone, changedAt: now }, dropped }
}

/** The playlist; addresses are `RUN/init` and `RUN/N` beside it. */
export function livePlaylist({ segments, gone, state }: Broadcast): string {
  const lines = [
    '#EXTM3U',
    '#EXT-X-VERSION:6',
    `#EXT-X-TARGETDURATION:${TARGET}`,
    `#EXT-X-MEDIA-SEQUENCE:${gone.segments}`,
    `#EXT-X-DISCONTINUITY-SEQUENCE:${gone.breaks}`,
    '#EXT-X-INDEPENDENT-SEGMENTS',
  ]
  for (const [i, { run, n, duration }] of segments.entries()) {
    const before = segments[i - 1]
    if (before && before.run !== run) lines.push('#EXT-X-DISCONTINUITY')
    if (before?.run !== run) lines.push(`#EXT-X-MAP:URI="${run}/init"`)
    lines.push(`#EXTINF:${Math.min(TARGET, duration).toFixed(3)},`, `${run}/${n}`)
  }
  if (state === 'ended') lines.push('#EXT-X-ENDLIST')
  return [...lines, ''].join('\n')
}

/** How it stands for who watches: `lost` when nothing comes although nobody ended it. */
export type LiveStatus = Broadcast['state'] | 'lost'

/** @param now ISO 8601 UTC */
export const liveStatus = ({ state, changedAt }: Broadcast, now: string): LiveStatus =>
  state === 'on' && Date.parse(now) - Date.parse(changedAt) > 1000 * LOST ? 'lost' : state
