// A made lecture on a screen: a deck whose slides share one layout, with builds, a pointer that never rests, a talking
// inset, cross-fades and a clip playing in a slide. The times at which slides appear are known.
import { execFileSync } from 'node:child_process'
import { mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const FONT = '/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf'
const WORDS =
  'glacier snow ice melt ablation core firn crevasse moraine albedo runoff lake basin valley isotope dust layer winter summer season flow creep sliding bed rock water pressure density crystal grain climate record proxy oxygen ratio depth age model sample drill storage ridge lobe tongue terminus'.split(
    ' ',
  )

/** A small generator of numbers, so that the deck is the same every time. */
function random(seed) {
  let state = seed
  return () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647
}

const ffmpeg = (...args) =>
  void execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { stdio: ['ignore', 'ignore', 'inherit'] })

/**
 * @param {string} file to write
 * @param {{ slides: number, width?: number, height?: number, seed?: number }} options
 * @returns {number[]} when each slide appears, s
 */
export function makeDeck(file, { slides, width = 1280, height = 720, seed = 11 }) {
  const next = random(seed)
  const folder = `${file}.slides`
  mkdirSync(folder, { recursive: true })
  const pick = (count) => Array.from({ length: count }, () => WORDS[Math.floor(next() * WORDS.length)]).join(' ')
  const scale = width / 1280
  const text = (words, x, y, size) =>
    `drawtext=fontfile=${FONT}:text='${words}':x=${Math.round(x * scale)}:y=${Math.round(y * scale)}:fontsize=${Math.round(size * scale)}:fontcolor=0x1e2a2f`
  const list = []
  const times = []
  let at = 0
  let before = null
  const show = (png, seconds) => {
    list.push(`file '${png}'\nduration ${seconds.toFixed(3)}`)
    at += seconds
    before = png
  }
  let clip = null
  for (let s = 0; s < slides; s++) {
    const lines = [
      text(pick(3), 80, 60, 44),
      `drawbox=x=0:y=0:w=iw:h=${Math.round(24 * scale)}:color=0x1b4b57:t=fill`,
      text(`Norrhaven Polar College    ${s + 1}`, 80, 670, 18),
    ]
    const bullets = 3 + Math.floor(next() * 3)
    const builds = s % 3 === 1
    const pngs = []
    for (let b = 1; b <= bullets; b++) {
      lines.push(text(pick(4 + Math.floor(next() * 3)), 110, 110 + 70 * b, 30))
      if (b < bullets && !builds) continue
      const png = join(folder, `${s}-${b}.png`)
      ffmpeg('-f', 'lavfi', '-i', `color=0xf6f7f3:s=${width}x${height}`, '-vf', lines.join(','), '-frames:v', '1', png)
      pngs.push(png)
    }
    times.push(at)
    if (s % 4 === 2 && before) {
      // A cross-fade of six tenths of a second.
      for (let k = 1; k <= 3; k++) {
        const mixed = join(folder, `${s}-fade${k}.png`)
        ffmpeg(
          '-i',
          before,
          '-i',
          pngs[0],
          '-filter_complex',
          `[0][1]blend=all_expr='A*${(1 - k / 4).toFixed(2)}+B*${(k / 4).toFixed(2)}'`,
          '-frames:v',
          '1',
          mixed,
        )
        list.push(`file '${mixed}'\nduration 0.200`)
        at += 0.2
      }
    }
    const shown = at
    for (const png of pngs) show(png, builds ? 2.4 + 1.5 * next() : 5 + 5 * next())
    if (s === Math.floor(slides / 2)) clip = [shown + 1, at - 1]
  }
  list.push(`file '${before}'`)
  const concat = join(folder, 'list.txt')
  writeFileSync(concat, `ffconcat version 1.0\n${list.join('\n')}\n`)
  const px = (n) => Math.round(n * scale)
  ffmpeg(
    '-f',
    'concat',
    '-safe',
    '0',
    '-i',
    concat,
    '-f',
    'lavfi',
    '-i',
    `testsrc2=s=${px(220)}x${px(164)}:r=15:d=${at}`,
    '-f',
    'lavfi',
    '-i',
    `mandelbrot=s=${px(420)}x${px(260)}:r=15:maxiter=200,trim=duration=${clip[1] - clip[0]},setpts=PTS-STARTPTS+${clip[0]}/TB`,
    '-f',
    'lavfi',
    '-i',
    `color=0xb23a2e:s=${px(18)}x${px(18)}:r=15:d=${at}`,
    '-filter_complex',
    [
      `[0:v]fps=15,format=yuv420p[base]`,
      `[base][1:v]overlay=W-w-20:H-h-20[a]`,
      `[a][2:v]overlay=${px(760)}:${px(180)}:eof_action=pass:enable='between(t,${clip[0]},${clip[1]})'[b]`,
      `[b][3:v]overlay=x='W*(0.45+0.4*sin(t*0.9))':y='H*(0.5+0.35*cos(t*1.7))'[v]`,
    ].join(';'),
    '-map',
    '[v]',
    '-t',
    at.toFixed(3),
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-g',
    '75',
    '-pix_fmt',
    'yuv420p',
    file,
  )
  rmSync(folder, { recursive: true })
  return times
}

/** How well found times agree with the true ones: each true one may be found once, within `tolerance` s. */
export function agreement(truth, found, tolerance = 0.5) {
  const left = [...found]
  const errors = []
  for (const t of truth) {
    const best = left.reduce((b, f, i) => (Math.abs(f - t) < Math.abs((left[b] ?? Infinity) - t) ? i : b), 0)
    if (left.length > 0 && Math.abs(left[best] - t) <= tolerance) errors.push(Math.abs(left.splice(best, 1)[0] - t))
  }
  return {
    recall: errors.length / truth.length,
    precision: found.length ? errors.length / found.length : 0,
    worst: Math.max(0, ...errors),
  }
}
