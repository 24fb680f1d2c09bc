// A recording: a 1080p screen at 15 frames/s, a 480p camera at 24 and a microphone through the application itself, for
// minutes. Another program decodes what was stored; memory is looked at on the way.
import { judge, keptTake, openRoom, recordFor, summary } from './room.mjs'
import { round } from './tools.mjs'

const frameRate = { screen: 15, camera: 24 }

export async function record({ record: minutes, say, figure }) {
  const room = await openRoom('Screen', 'Camera', 'Microphone')
  try {
    say(`recording ${minutes} min …`)
    const memory = await recordFor(room, minutes)
    const take = await keptTake(room)
    const feeds = Object.fromEntries(
      take.feeds.map((feed) => {
        const { perSecond, decodes } = judge(feed)
        const { kind, width, height, duration, offset } = feed
        return [
          kind,
          {
            ...(kind in frameRate && {
              size: `${width}x${height}`,
              droppedPercent: round(100 * (1 - perSecond / frameRate[kind]), 2),
            }),
            seconds: round(duration),
            offset,
            decodes,
          },
        ]
      }),
    )
    figure({ minutes, ...feeds, ...summary(take, memory) })
  } finally {
    await room.close()
  }
}
