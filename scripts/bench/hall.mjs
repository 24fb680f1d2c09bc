// A lecture in the simulated hall with both pictures and the lectern's microphone, with a clap every half minute: how
// far what is heard is from what is seen, at the beginning and at the end, and whether memory stays flat.
import { median } from 'd3-array'
import { apart } from './claps.mjs'
import { judge, keptTake, openRoom, recordFor, summary } from './room.mjs'
import { round } from './tools.mjs'

export async function hall({ record: minutes, say, figure }) {
  const room = await openRoom('Lecture hall')
  try {
    say(`recording the hall for ${minutes} min …`)
    let turn = 0
    const memory = await recordFor(room, minutes, async () => {
      if (turn++ % 3 === 0) await room.press('button', 'Clap')
    })
    const take = await keptTake(room)
    const feeds = take.feeds.map((feed) => {
      const { perSecond, decodes } = judge(feed)
      const { kind, name, width, height, duration, offset } = feed
      return {
        kind,
        name,
        ...(width && { size: `${width}x${height}`, framesPerSecond: round(perSecond) }),
        seconds: round(duration),
        offset,
        decodes,
      }
    })
    const camera = take.feeds.find((f) => f.kind === 'camera')
    const sound = take.feeds.find((f) => f.kind === 'sound')
    const late = apart(camera, sound).map((clap) => 1000 * clap.by)
    const some = Math.max(1, Math.min(10, Math.floor(late.length / 2)))
    figure({
      minutes,
      feeds,
      claps: late.length,
      soundLateMsFirst: round(median(late.slice(0, some)), 1),
      soundLateMsLast: round(median(late.slice(-some)), 1),
      soundLateMsMost: round(
        late.reduce((most, one) => (Math.abs(one) > Math.abs(most) ? one : most), 0),
        1,
      ),
      ...summary(take, memory),
    })
  } finally {
    await room.close()
  }
}
