// Growth: time and memory against the length and against the number of cuts.
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { openEngine } from '../engine.mjs'
import { longFilm } from './cut.mjs'
import { editOf, round, spread, watched } from './tools.mjs'

export async function growth(bench) {
  const { minutes, folder, say, figure } = bench
  const out = join(folder, 'growth.mp4')
  const run = async (length, cuts) => {
    const file = await longFilm('h264', length, bench)
    // A browser of its own each time, so that memory starts anew.
    const engine = await openEngine({ quiet: true })
    try {
      say(`${length} min with ${cuts} cuts …`)
      const { seconds, megabytes, value } = await watched(engine, () =>
        engine.render({ file, edit: editOf(spread(length * 60, cuts)), format: 'mp4' }, out, () => undefined),
      )
      figure({
        minutes: length,
        cuts,
        seconds: round(seconds),
        secondsPerMinute: round(seconds / length, 3),
        encodedAnew: round(value.encoded, 1),
        peakMegabytes: Math.round(megabytes),
      })
    } finally {
      await engine.close()
      rmSync(out, { force: true })
    }
  }
  for (const part of [6, 2, 1]) await run(Math.max(1, Math.round(minutes / part)), Math.max(1, Math.round(12 / part)))
  const half = Math.max(1, Math.round(minutes / 2))
  for (const cuts of [12, 24, 48]) await run(half, cuts)
}
