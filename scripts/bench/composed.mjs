// Composing: a 480p camera inset over a 1080p screen at 15 frames a second, against ffmpeg's overlay filter and
// libx264; and the same, cut five times, as it is published: a film for each, against composing it.
import { rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { editOf, ffmpeg, ffmpegSays, made, round, timed, watched } from './tools.mjs'

/** How far key frames are apart, frames: 15 a second of the screen, 24 of the camera. */
const kinds = {
  'the recorder makes them, every 0.75 s': { screen: 11, camera: 18 },
  'the demo has them, every 5 s': { screen: 75, camera: 120 },
  'an encoder left alone makes them, every 250 frames': { screen: 250, camera: 250 },
}

export async function composed({ engine, minutes, folder, say, figure }) {
  const length = Math.min(10, minutes) * 60
  // A screen as it is in a lecture: slides that stand for a while, a little that moves.
  const screened = (group) =>
    made(
      folder,
      `screen-${length}-${group}.mp4`,
      (path) =>
        ffmpeg(
          ...['-f', 'lavfi', '-i', `color=0xf6f7f3:s=1920x1080:r=15:d=${length}`],
          ...['-f', 'lavfi', '-i', `color=0xb23a2e:s=24x24:r=15:d=${length}`],
          '-filter_complex',
          `[0:v]drawtext=fontfile=/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf:text='%{eif\\:floor(t/20)\\:d}. How glaciers move and melt':x=120:y=140:fontsize=72,drawtext=fontfile=/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf:text='Ablation is the loss of ice and snow, %{eif\\:floor(t/7)\\:d}':x=160:y=420:fontsize=48[s];[s][1:v]overlay=x='W*(0.45+0.4*sin(t*0.9))':y='H*(0.5+0.35*cos(t*1.7))',format=yuv420p[v]`,
          ...['-map', '[v]', '-c:v', 'libx264', '-preset', 'veryfast', '-g', String(group), '-b:v', '1500k'],
          path,
        ),
      say,
    )
  /** @param group frames from key frame to key frame */
  const filmed = (group) =>
    made(
      folder,
      `camera-${length}-${group}.mp4`,
      (path) =>
        ffmpeg(
          ...['-f', 'lavfi', '-i', `testsrc2=s=640x480:r=24:d=${length}`, '-pix_fmt', 'yuv420p'],
          ...['-c:v', 'libx264', '-preset', 'veryfast', '-g', String(group), '-b:v', '800k'],
          path,
        ),
      say,
    )
  const [screen, camera] = [await screened(75), await filmed(250)]
  const out = join(folder, 'composed.mp4')
  const their = join(folder, 'composed-ffmpeg.mp4')
  say(`composing ${length / 60} min …`)
  const ours = await watched(engine, () =>
    engine.render(
      { file: screen, camera, edit: editOf([], [{ do: 'layout', layout: 'inset' }]), format: 'mp4' },
      out,
      () => undefined,
    ),
  )
  const bitrate = Math.round((statSync(out).size * 8) / length)
  // The same box as the engine's layout: a fifth of the width, 32 px from the edges, with an edge of 2 px.
  const graph = '[1:v]scale=384:288,pad=388:292:2:2:white[i];[0:v][i]overlay=1502:758'
  const theirs = await timed(() =>
    ffmpeg(
      '-i',
      screen,
      '-i',
      camera,
      '-filter_complex',
      `${graph},fps=24[v]`,
      '-map',
      '[v]',
      '-t',
      String(length),
      '-c:v',
      'libx264',
      '-preset',
      'veryfast',
      '-b:v',
      String(bitrate),
      their,
    ),
  )
  // Both against the composition before any coding, over the first minute.
  const ssim = (file) =>
    Number(
      /All:([\d.]+)/.exec(
        ffmpegSays(
          '-t',
          '60',
          '-i',
          file,
          '-t',
          '60',
          '-i',
          screen,
          '-t',
          '60',
          '-i',
          camera,
          '-filter_complex',
          `${graph.replaceAll('[1:v]', '[2:v]').replaceAll('[0:v]', '[1:v]')},fps=24[ref];[0:v]fps=24[x];[x][ref]ssim`,
          '-f',
          'null',
          '-',
        ),
      )?.[1],
    )
  const [ourLikeness, theirLikeness] = [ssim(out), ssim(their)]
  figure({
    input: '480p24 over 1080p15',
    minutes: length / 60,
    seconds: round(ours.seconds),
    timesRealTime: round(length / ours.seconds, 2),
    ffmpegSeconds: round(theirs.seconds),
    fasterThanFfmpeg: round(theirs.seconds / ours.seconds, 2),
    kilobitsPerSecond: Math.round(bitrate / 1000),
    ffmpegKilobitsPerSecond: Math.round((statSync(their).size * 8) / length / 1000),
    ssim: round(ourLikeness, 4),
    ffmpegSsim: round(theirLikeness, 4),
    peakMegabytes: Math.round(ours.megabytes),
  })
  const fifth = length / 5
  const cuts = Array.from({ length: 5 }, (_, i) => [i * fifth + 3.21, i * fifth + 7.43])
  const edit = editOf(cuts, [{ do: 'layout', layout: 'inset' }])
  const left = length - cuts.reduce((sum, [from, to]) => sum + to - from, 0)
  for (const [kind, groups] of Object.entries(kinds)) {
    const [screen, camera] = [await screened(groups.screen), await filmed(groups.camera)]
    const rounds = []
    for (let round = 0; round < 3; round++) {
      say(`the same, cut, in parts; key frames as ${kind}; ${round + 1} of 3 …`)
      const parts = [
        { feed: 'screen', main: true },
        { feed: 'camera', main: false },
      ]
      const films = parts.map((part) => join(folder, `part-${part.feed}.mp4`))
      rounds.push(
        await watched(engine, () =>
          Promise.all(
            parts.map((part, i) =>
              engine.render({ file: screen, camera, edit, part, format: 'mp4' }, films[i], () => undefined),
            ),
          ),
        ),
      )
      for (const path of films) rmSync(path)
    }
    const [, apart] = rounds.sort((a, b) => a.seconds - b.seconds)
    figure({
      input: 'the same with five cuts, as two films',
      keyFramesAs: kind,
      minutes: round(left / 60),
      seconds: round(apart.seconds),
      timesRealTime: round(left / apart.seconds, 2),
      fasterThanComposing: round(ours.seconds / length / (apart.seconds / left), 1),
      peakMegabytes: Math.round(apart.megabytes),
    })
  }
  for (const path of [out, their]) rmSync(path)
}
