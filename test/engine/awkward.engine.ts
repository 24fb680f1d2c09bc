/** Awkward files and the command line: nothing hangs, everything is said plainly, and what can be used is used. */
import { execFileSync, spawn, spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { editTimeMap } from '#core/edit/edit'
import { newFinish } from '#core/edit/finish'
import type { EditDocument } from '#core/schema/edit'
import type { Finish } from '#core/schema/finish'
import { snapToFrame } from '#core/time/frames'
import { openEngine } from '../../scripts/engine.mjs'
import { lengthy } from '../at-length'
import { codings, ffmpeg, film, folder, inFolder, removeFilms } from './films'
import { complaints, cuts, duration, edit, frameNumbers, frameTimes, lag, samples } from './judge'

let engine: Awaited<ReturnType<typeof openEngine>>
let good = ''
const h264 = codings['H.264 and AAC']!.args
beforeAll(async () => {
  engine = await openEngine({ quiet: true })
  good = film('good.mp4', { seconds: 6, coding: h264 })
})
afterAll(async () => {
  await engine.close()
  removeFilms()
})

const cut = async (file: string, name: string, ranges: [number, number][], format = 'mp4') => {
  const out = inFolder(name)
  const made = await engine.render({ file, edit: edit(...cuts(...ranges)), format }, out, () => undefined)
  expect(complaints(out)).toBe('')
  return { out, made }
}

describe('files that can be used', () => {
  test('no sound', async () => {
    const { out } = await cut(
      film('mute.mp4', { seconds: 6, coding: h264.slice(0, h264.indexOf('-c:a')), sound: null }),
      'mute-cut.mp4',
      [[1, 2]],
    )
    expect(frameNumbers(out)).toHaveLength(150)
  })
  lengthy('no picture', async () => {
    const file = inFolder('voice.mp3')
    ffmpeg('-i', good, '-vn', '-c:a', 'libmp3lame', file)
    const found = await engine.probe(file)
    expect(found.picture).toBeNull()
    const { out, made } = await cut(file, 'voice-cut.m4a', [[1, 2]], 'm4a')
    expect(Math.abs(duration(out, 'a') - (found.duration - 1))).toBeLessThan(0.05)
    expect(made.note).toContain('mp3')
    // ffmpeg leaves out the 23 ms that the MP3 encoder put before the sound; browsers play them.
    expect(Math.abs(lag(samples(out), 3, samples(file), 4).lag)).toBeLessThan(0.025)
  })
  lengthy('odd sizes', async () => {
    const file = inFolder('odd.webm')
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=321x181:r=30:d=4', '-c:v', 'libvpx', '-b:v', '500k', '-g', '60', file)
    const { out } = await cut(file, 'odd-cut.webm', [[0.5, 1]], 'webm')
    expect(duration(out, 'v')).toBeCloseTo(3.5, 1)
  })
  lengthy('turned by the player', async () => {
    const file = inFolder('turned.mp4')
    ffmpeg('-i', good, '-c', 'copy', '-metadata:s:v', 'rotate=90', file)
    const rotation = (of: string) =>
      execFileSync(
        'ffprobe',
        ['-v', 'error', '-select_streams', 'v', '-show_entries', 'stream_side_data=rotation', '-of', 'csv=p=0', of],
        { encoding: 'utf8' },
      ).trim()
    if (rotation(file) === '') throw new Error('this ffmpeg did not turn the film')
    const { out, made } = await cut(file, 'turned-cut.mp4', [[1, 2]])
    expect(rotation(out)).toBe(rotation(file))
    expect([made.width, made.height]).toEqual([360, 640])
    expect(made.encoded).toBeLessThan(5)
  })
  lengthy('one frame', async () => {
    const file = inFolder('one.mp4')
    ffmpeg('-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=30', '-frames:v', '1', '-pix_fmt', 'yuv420p', file)
    const { out } = await cut(file, 'one-cut.mp4', [])
    expect(frameTimes(out)).toHaveLength(1)
  })
  lengthy('seven frames a second', async () => {
    const file = film('slow.mp4', { seconds: 12, rate: 7, coding: [...h264, '-g', '35'] })
    const { out } = await cut(file, 'slow-cut.mp4', [[2, 5]])
    expect(frameNumbers(out)).toEqual(Array.from({ length: 84 }, (_, n) => n).filter((n) => n < 14 || n >= 35))
  })
  lengthy('variable frame rate: every frame keeps its own time', async () => {
    const file = inFolder('variable.mp4')
    ffmpeg(
      '-i',
      film('even.mp4', { seconds: 12, coding: [...h264, '-g', '60'] }),
      '-vf',
      "select='lt(mod(n,30),10)+not(mod(n,5))'",
      '-vsync',
      'vfr',
      ...h264.slice(0, h264.indexOf('-c:a')),
      '-g',
      '40',
      '-c:a',
      'copy',
      file,
    )
    expect((await engine.probe(file)).picture?.constant).toBe(false)
    const grid = (await engine.probe(file)).picture!.frameRate
    const [from, to] = [snapToFrame(3.05, grid), snapToFrame(6.57, grid)]
    const { out } = await cut(file, 'variable-cut.mp4', [[from, to]])
    const source = frameNumbers(file)
    const shownAt = (time: number) => source.findLast((n) => n / 30 <= time + 0.005)!
    const times = frameTimes(out)
    // At any time the frame that was seen then in the recording is seen; the one seen at the seam had begun before it.
    for (const [i, n] of frameNumbers(out).entries()) {
      const recordedAt = times[i]! < from - 0.01 ? times[i]! : times[i]! + (to - from)
      expect(n, `at ${times[i]} s`).toBe(shownAt(recordedAt))
    }
    expect(frameNumbers(out).length).toBeGreaterThan(source.length * 0.6)
    expect(duration(out, 'v')).toBeCloseTo(duration(out, 'a'), 1)
  })
  lengthy('two sound tracks, and a start that is not zero', async () => {
    const file = inFolder('two.mkv')
    ffmpeg('-itsoffset', '0.5', '-i', good, '-map', '0:v', '-map', '0:a', '-map', '0:a', '-c', 'copy', '-copyts', file)
    const found = await engine.probe(file)
    expect(found.remarks).toEqual(['It has 2 sound tracks; the first is used.'])
    const { out } = await cut(file, 'two-cut.mp4', [[3, 4]])
    expect(Math.abs(duration(out, 'v') - (found.duration - 1))).toBeLessThan(0.05)
  })
  test('a wrong extension', async () => {
    const file = inFolder('wrong.avi')
    writeFileSync(file, readFileSync(good))
    expect((await engine.probe(file)).container).toBe('MP4')
  })
  test('pictures out of order, cut between them', async () => {
    const file = film('reordered.mp4', {
      seconds: 12,
      coding: [
        '-c:v',
        'libx264',
        '-preset',
        'medium',
        '-bf',
        '4',
        '-x264-params',
        'open-gop=1:keyint=60:bframes=4',
        '-c:a',
        'aac',
      ],
    })
    const { out } = await cut(file, 'reordered-cut.mp4', [
      [1.5, 3.1],
      [5.2, 7.4333],
    ])
    expect(frameNumbers(out)).toEqual(
      Array.from({ length: 360 }, (_, n) => n).filter((n) => !(n >= 45 && n < 93) && !(n >= 156 && n < 223)),
    )
  })
})

describe('files that cannot', () => {
  test.each([
    [
      'cut short',
      () => {
        writeFileSync(inFolder('short.mp4'), readFileSync(good).subarray(0, 200_000))
        return inFolder('short.mp4')
      },
      /cut short|not a video/,
    ],
    [
      'empty',
      () => {
        writeFileSync(inFolder('empty.mp4'), '')
        return inFolder('empty.mp4')
      },
      /is empty/,
    ],
    [
      'no media',
      () => {
        writeFileSync(inFolder('text.mp4'), 'this is not a film\n'.repeat(500))
        return inFolder('text.mp4')
      },
      /not a video or sound file/,
    ],
    [
      'a transport stream',
      () => {
        ffmpeg('-i', good, '-c', 'copy', inFolder('stream.ts'))
        return inFolder('stream.ts')
      },
      /is an MPEG transport stream, .* Save it as MP4 first/,
    ],
    [
      'a header that promises ten hours',
      () => {
        const bytes = Buffer.from(readFileSync(good))
        for (const box of ['mvhd', 'mdhd', 'tkhd'])
          for (let at = bytes.indexOf(box); at >= 0; at = bytes.indexOf(box, at + 1)) {
            const field = at + (box === 'tkhd' ? 24 : 20)
            bytes.writeUInt32BE(
              Math.min(
                0xffffffff,
                36_000 *
                  (box === 'tkhd' ? bytes.readUInt32BE(bytes.indexOf('mvhd') + 16) : bytes.readUInt32BE(field - 4)),
              ),
              field,
            )
          }
        writeFileSync(inFolder('ten.mp4'), bytes)
        return inFolder('ten.mp4')
      },
      null,
    ],
  ] as [string, () => string, RegExp | null][])('%s', async (_, make, says) => {
    const file = make()
    if (says) await expect(engine.probe(file)).rejects.toThrow(says)
    else
      expect((await engine.probe(file).catch((e: Error) => ({ duration: 6, says: e.message }))).duration).toBeLessThan(
        7,
      )
  })
  test('an edit that leaves nothing, and one that is none', async () => {
    await expect(
      engine.render({ file: good, edit: edit(...cuts([0, 6])), format: 'mp4' }, inFolder('none.mp4'), () => undefined),
    ).rejects.toThrow('nothing left to render')
    await expect(
      engine.render(
        { file: good, edit: { ...edit(), removed: [{ do: 'melt' }] }, format: 'mp4' },
        inFolder('none.mp4'),
        () => undefined,
      ),
    ).rejects.toThrow('edit document cannot be used')
    expect(readdirSync(folder).filter((f) => f.startsWith('none'))).toEqual([])
  })
})

describe('the command line', () => {
  const thaw = (...args: string[]) => spawnSync('node', ['scripts/thaw.mjs', ...args], { encoding: 'utf8' })
  test('explains itself, and says what it did not understand', () => {
    expect(thaw('--help')).toMatchObject({ status: 0, stdout: expect.stringContaining('render') })
    expect(thaw('render', good)).toMatchObject({ status: 2, stderr: expect.stringContaining('--out') })
    expect(thaw('render', good, '--out', 'x.mp4', '--edit', inFolder('nowhere.json'))).toMatchObject({
      status: 2,
      stderr: expect.stringContaining('cannot be read'),
    })
    expect(thaw('analyse', good, '--threshold', 'loud').status).toBe(2)
  })
  lengthy('goes on after a bad file, and says so at the end', () => {
    const done = thaw('probe', inFolder('empty.mp4'), good, inFolder('nowhere.mp4'), '--json')
    expect(done.status).toBe(1)
    const [empty, fine, nowhere] = JSON.parse(done.stdout) as { error?: string; duration?: number }[]
    expect([empty!.error, fine!.duration, nowhere!.error]).toEqual([
      expect.stringContaining('is empty'),
      6,
      expect.stringContaining('is not there'),
    ])
  })
  lengthy('renders many files by one edit document', () => {
    const out = inFolder('many')
    mkdirSync(out)
    const second = inFolder('second.mp4')
    writeFileSync(second, readFileSync(good))
    writeFileSync(inFolder('edit.json'), JSON.stringify(edit(...cuts([0, 1.5]))))
    const done = thaw('render', good, second, '--edit', inFolder('edit.json'), '--out', out, '--json')
    expect(done.status).toBe(0)
    expect(readdirSync(out).sort()).toEqual(['good.mp4', 'second.mp4'])
    expect(frameNumbers(`${out}/second.mp4`)[0]).toBe(45)
  })
  lengthy('puts a finish on many files, each with its own words, and reports what needs a look', () => {
    // Silent for 2 s, a tone for 4 s, silent for 2 s.
    const lecture = inFolder('ice.mp4')
    ffmpeg(
      ...['-f', 'lavfi', '-i', 'color=c=navy:size=320x180:rate=25:duration=8'],
      ...['-f', 'lavfi', '-i', "aevalsrc='if(between(t,2,6),0.4*sin(1800*t)*(0.6+0.4*sin(20*t)),0)':s=48000:d=8"],
      ...['-c:v', 'libx264', '-g', '50', '-pix_fmt', 'yuv420p', '-c:a', 'aac', lecture],
    )
    const other = inFolder('snow.mp4')
    writeFileSync(other, readFileSync(lecture))
    ffmpeg('-f', 'lavfi', '-i', 'color=c=white:size=64x64', '-frames:v', '1', inFolder('mark.png'))
    const box = { x: 0.8, y: 0.05, width: 0.15, height: 0.2 }
    const finish: Finish = {
      ...newFinish('f', 'Usual'),
      closing: null,
      sound: null,
      trims: { ends: true, pauses: false, words: false },
      watermark: { file: 'mark.png', box, opacity: 1 },
    }
    writeFileSync(inFolder('finish.json'), JSON.stringify(finish))
    const particulars = { 'ice.mp4': { title: 'Ice', lecturer: 'I. Fjeld', course: 'PS 201', date: 'today' } }
    writeFileSync(inFolder('particulars.json'), JSON.stringify(particulars))
    const out = inFolder('finished')
    const by = ['--with', inFolder('finish.json'), '--particulars', inFolder('particulars.json')]
    const done = thaw('finish', lecture, other, ...by, '--out', out)
    expect(done).toMatchObject({ status: 0, stderr: '' })
    expect(done.stdout).toContain('ice.mp4: 2 parts taken out')
    expect(done.stdout).toContain('snow.mp4: 2 parts taken out')
    const report = JSON.parse(readFileSync(join(out, 'report.json'), 'utf8')) as { look: string[] }[]
    expect(report[0]!.look).not.toContain('The opening card lacks the lecturer.')
    expect(report[1]!.look).toContain('The opening card lacks the lecturer.')
    expect(readdirSync(out).sort()).toEqual(['ice.edit.json', 'ice.mp4', 'report.json', 'snow.edit.json', 'snow.mp4'])
    const made = JSON.parse(readFileSync(join(out, 'ice.edit.json'), 'utf8')) as EditDocument
    expect(made.inserts[0]!.what).toMatchObject({ title: 'Ice', text: 'I. Fjeld\nPS 201 · today' })
    // 4 s of card, and 4 s of sound with what is left of the silences.
    expect(duration(join(out, 'ice.mp4'), 'v')).toBeCloseTo(editTimeMap(made).length, 1)
    expect(editTimeMap(made).length).toBeLessThan(9.5)
    // What was written can be rendered by itself, mark and all.
    const anew = thaw('render', lecture, '--edit', join(out, 'ice.edit.json'), '--out', inFolder('anew.mp4'))
    expect(anew).toMatchObject({ status: 0 })
    expect(thaw('finish', lecture, lecture, ...by, '--out', out).status).toBe(2)
  })
  test('never writes over the recording', () => {
    const before = readFileSync(good)
    expect(thaw('render', good, '--out', good).status).toBe(1)
    expect(readFileSync(good).equals(before)).toBe(true)
  })
  test('leaves nothing behind when it is stopped', async () => {
    const long = inFolder('long.mp4')
    ffmpeg('-stream_loop', '60', '-i', good, '-c', 'copy', long)
    const out = inFolder('stopped.webm')
    const child = spawn('node', ['scripts/thaw.mjs', 'render', long, '--out', out, '--quiet'])
    const ended = new Promise<number | null>((resolve) => child.on('exit', resolve))
    await expect
      .poll(() => readdirSync(folder).some((f) => f.startsWith('stopped')), { timeout: 60_000, interval: 20 })
      .toBe(true)
    child.kill('SIGINT')
    expect(await ended).toBe(130)
    expect(readdirSync(folder).filter((f) => f.startsWith('stopped'))).toEqual([])
    expect(existsSync(out)).toBe(false)
  })
})
