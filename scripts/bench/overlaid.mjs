// A title card and a mask of 20 s in an hour, against the cut alone.
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { longFilm } from './cut.mjs'
import { editOf, round, spread, timed } from './tools.mjs'

export async function overlaid(bench) {
  const { engine, minutes, folder, say, figure } = bench
  const file = await longFilm('h264', minutes, bench)
  const ranges = spread(minutes * 60, 12)
  const out = join(folder, 'overlaid.mp4')
  say('cutting, then with a card and a mask …')
  const plain = await timed(() => engine.render({ file, edit: editOf(ranges), format: 'mp4' }, out, () => undefined))
  const from = minutes * 30 + 1.4
  const laid = await timed(() =>
    engine.render(
      {
        file,
        format: 'mp4',
        edit: editOf(ranges, [
          {
            do: 'insert',
            id: 'title',
            at: 0,
            what: {
              kind: 'card',
              title: 'Glaciers and Meltwater',
              text: 'Norrhaven Polar College',
              seconds: 5,
              ink: '#f6f7f3',
              ground: '#1b4b57',
            },
          },
          {
            do: 'stretch',
            id: 'mask',
            from,
            to: from + 20,
            what: { kind: 'mask', how: 'blur', box: { x: 0.6, y: 0.1, width: 0.3, height: 0.3 } },
          },
        ]),
      },
      out,
      () => undefined,
    ),
  )
  rmSync(out)
  figure({
    minutes,
    cutSeconds: round(plain.seconds),
    withCardAndMaskSeconds: round(laid.seconds),
    timesTheCut: round(laid.seconds / plain.seconds),
    encodedAnew: round(laid.value.encoded, 1),
  })
}
