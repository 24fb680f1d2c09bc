import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Broadcast, LiveSegment } from '../schema/live'
import { announced, livePlaylist, liveStatus, transition, withSegment } from './live'
import { placeOf } from '../../test/publication'

const NOON = '2026-11-26T12:00:00.000Z'
const later = (seconds: number) => new Date(Date.parse(NOON) + 1000 * seconds).toISOString()
const fresh = announced(
  {
    place: placeOf('p', 'pub', 'c', { from: NOON }),
    title: 'T',
    startsAt: later(600),
  },
  NOON,
)
const on = transition(fresh, { to: 'on' }, NOON)
const add = (broadcast: Broadcast, all: readonly LiveSegment[]) =>
  all.reduce((b, s) => withSegment(b, s, NOON).broadcast, broadcast)
const run = (n: number, count: number, duration = 1.5): LiveSegment[] =>
  Array.from({ length: count }, (_, i) => ({ run: n, n: i, duration }))

/** What a player makes of a playlist (RFC 8216 §4.3): segments with their number, their init and their break number. */
function read(text: string) {
  const value = (tag: string) => Number(new RegExp(`^#${tag}:(\\d+)$`, 'm').exec(text)?.[1])
  let sequence = value('EXT-X-MEDIA-SEQUENCE')
  let breaks = value('EXT-X-DISCONTINUITY-SEQUENCE')
  let init = ''
  let length = NaN
  const segments: { sequence: number; breaks: number; init: string; uri: string; length: number }[] = []
  for (const line of text.split('\n')) {
    if (line === '#EXT-X-DISCONTINUITY') breaks++
    init = /^#EXT-X-MAP:URI="(.*)"$/.exec(line)?.[1] ?? init
    length = Number(/^#EXTINF:([\d.]+),$/.exec(line)?.[1] ?? length)
    if (line && !line.startsWith('#')) segments.push({ sequence: sequence++, breaks, init, uri: line, length })
  }
  return { segments, target: value('EXT-X-TARGETDURATION'), ended: text.includes('#EXT-X-ENDLIST') }
}

describe('a live playlist', () => {
  it('names every segment with the init of its run, and a break between runs', () => {
    const paused = transition(add(on, run(1, 2)), { to: 'paused' }, NOON)
    const two = add(transition(paused, { to: 'on' }, NOON), run(2, 1))
    expect(livePlaylist(two)).toBe(`#EXTM3U
#EXT-X-VERSION:6
#EXT-X-TARGETDURATION:3
#EXT-X-MEDIA-SEQUENCE:0
#EXT-X-DISCONTINUITY-SEQUENCE:0
#EXT-X-INDEPENDENT-SEGMENTS
#EXT-X-MAP:URI="1/init"
#EXTINF:1.500,
1/0
#EXTINF:1.500,
1/1
#EXT-X-DISCONTINUITY
#EXT-X-MAP:URI="2/init"
#EXTINF:1.500,
2/0
`)
    expect(read(livePlaylist(two)).ended).toBe(false)
    expect(read(livePlaylist(transition(two, { to: 'ended' }, NOON))).ended).toBe(true)
  })

  it('gives a segment the same number, break and init for as long as it is named, in whatever runs they come', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 8 }),
        fc.double({ min: 0.5, max: 30, noNaN: true }),
        (counts, duration) => {
          let broadcast = fresh
          const known = new Map<string, string>()
          for (const [i, count] of counts.entries()) {
            broadcast = transition(broadcast, { to: 'on' }, NOON)
            for (const segment of run(i + 1, count, duration)) {
              broadcast = withSegment(broadcast, segment, NOON).broadcast
              const { segments, target } = read(livePlaylist(broadcast))
              for (const { uri, length, ...place } of segments) {
                const said = JSON.stringify(place)
                if ((known.get(uri) ?? said) !== said || Math.round(length) > target)
                  throw new Error(`${uri} was ${known.get(uri) ?? ''} and is ${said}`)
                known.set(uri, said)
              }
              expect(segments.at(-1)?.uri).toBe(`${segment.run}/${segment.n}`)
            }
          }
        },
      ),
      { numRuns: 10 },
    )
  })

  it('lets go of what is older than three minutes, and says what', () => {
    expect(add(on, run(1, 300, 0.1)).segments).toHaveLength(200)
    const full = add(on, run(1, 120))
    expect(full.segments).toHaveLength(120)
    const { broadcast, dropped } = withSegment(full, { run: 1, n: 120, duration: 1.5 }, NOON)
    expect(dropped).toEqual([{ run: 1, n: 0, duration: 1.5 }])
    expect(broadcast.segments).toHaveLength(120)
  })

  it('takes a segment once, whether it is sent again or comes late', () => {
    const two = add(transition(add(on, run(1, 3)), { to: 'on' }, NOON), run(2, 2))
    for (const again of [
      { run: 2, n: 1, duration: 1.5 },
      { run: 2, n: 0, duration: 1.5 },
      { run: 1, n: 7, duration: 1.5 },
    ])
      expect(withSegment(two, again, later(1)).broadcast).toBe(two)
  })
})

describe('how it stands', () => {
  it('is lost when nothing comes although nobody ended it, and not while it is paused', () => {
    expect(liveStatus(fresh, later(9000))).toBe('announced')
    expect(liveStatus(on, later(5))).toBe('on')
    expect(liveStatus(on, later(13))).toBe('lost')
    expect(liveStatus(withSegment(on, { run: 1, n: 0, duration: 1.5 }, later(13)).broadcast, later(14))).toBe('on')
    expect(liveStatus(transition(on, { to: 'paused' }, NOON), later(900))).toBe('paused')
    expect(liveStatus(transition(on, { to: 'ended' }, NOON), later(900))).toBe('ended')
  })
})
