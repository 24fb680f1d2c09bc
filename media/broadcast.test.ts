import { BufferSource, EncodedPacket, EncodedPacketSink, Input, MP4 } from 'mediabunny'
import { describe, expect, it } from 'vitest'
import { startBroadcast, type Bytes } from './broadcast'

// An avcC of a Baseline stream (ISO/IEC 14496-15 §5.3.3.1); its parameter sets are those of a 640×480 picture.
const avc: VideoDecoderConfig = {
  codec: 'avc1.42001e',
  codedWidth: 640,
  codedHeight: 480,
  description: Uint8Array.from([
    1, 66, 0, 30, 255, 225, 0, 9, 103, 66, 0, 30, 149, 160, 80, 30, 200, 1, 0, 4, 104, 206, 60, 128,
  ]),
}
const opus: AudioDecoderConfig = { codec: 'opus', sampleRate: 48_000, numberOfChannels: 2 }
const FRAME = 1 / 24
const BLOCK = 0.02

interface Run {
  init: Bytes
  segments: { bytes: Bytes; duration: number }[]
}

/** Feeds a broadcast as a recorder would, and gathers its runs. */
function bench(kinds: ('screen' | 'camera' | 'sound')[] = ['screen', 'camera', 'sound'], shown = 'screen') {
  const runs: Run[] = []
  const trouble: unknown[] = []
  const broadcast = startBroadcast(
    kinds.map((kind) => ({ id: kind, kind })),
    shown,
    {
      onRun: (init) => runs.push({ init, segments: [] }),
      onSegment: (bytes, duration) => runs.at(-1)?.segments.push({ bytes, duration }),
      onTrouble: (error) => trouble.push(error),
    },
  )
  const clocks = (late: Partial<Record<string, number>>) => {
    for (const [id, by] of Object.entries(late)) broadcast.clock(id, [{ at: 0, late: by ?? 0 }])
  }
  /** Everything between two instants of the feeds' own time, in its order. */
  const play = async (from: number, to: number, only: string[] = kinds) => {
    const all: { at: number; id: string; key: boolean }[] = []
    for (const id of only) {
      const step = id === 'sound' ? BLOCK : FRAME
      for (let i = Math.ceil(from / step - 1e-9); i * step < to; i++)
        all.push({ at: i * step, id, key: id === 'sound' || i % 18 === 0 })
    }
    for (const [i, { at, id, key }] of all.sort((a, b) => a.at - b.at).entries()) {
      // What is written keeps up with what comes.
      if (i % 20 === 0) await new Promise((resolve) => setTimeout(resolve))
      const packet = new EncodedPacket(
        new Uint8Array(id === 'sound' ? 40 : key ? 400 : 90).fill(7),
        key ? 'key' : 'delta',
        at,
        id === 'sound' ? BLOCK : FRAME,
      )
      broadcast.packet(id, packet, id === 'sound' ? 'opus' : 'avc', key ? (id === 'sound' ? opus : avc) : undefined)
    }
  }
  return { broadcast, runs, trouble, clocks, play }
}

/** What stands in a run, or from one of its segments on, read by another reader. */
async function read({ init, segments }: Run, from = 0) {
  const input = new Input({
    source: new BufferSource(await new Blob([init, ...segments.slice(from).map((s) => s.bytes)]).arrayBuffer()),
    formats: [MP4],
  })
  const times = async (
    track:
      Awaited<ReturnType<typeof input.getPrimaryVideoTrack>> | Awaited<ReturnType<typeof input.getPrimaryAudioTrack>>,
  ) => {
    const all: { at: number; key: boolean }[] = []
    if (track)
      for await (const p of new EncodedPacketSink(
        track as NonNullable<Awaited<ReturnType<typeof input.getPrimaryVideoTrack>>>,
      ).packets())
        all.push({ at: p.timestamp, key: p.type === 'key' })
    return all
  }
  return {
    picture: await times(await input.getPrimaryVideoTrack()),
    sound: await times(await input.getPrimaryAudioTrack()),
  }
}

describe('what is sent out', () => {
  it('begins with a key frame, and every segment does, at the take’s times of both tracks', async () => {
    const b = bench()
    b.clocks({ screen: 0.3, camera: 0.1, sound: 0.05 })
    await b.play(0, 9)
    await b.broadcast.end()
    expect(b.trouble).toEqual([])
    expect(b.runs).toHaveLength(1)
    const [run] = b.runs
    const whole = await read(run!)
    // At the first key frame by which every track has given something.
    expect(whole.picture[0]).toEqual({ at: expect.closeTo(0.3 + 0.75, 3) as number, key: true })
    expect(whole.picture).toHaveLength(9 * 24 - 18)
    // Sound that was before the first picture is left out; what is left stands where it was heard.
    expect(whole.sound[0]?.at).toBeGreaterThanOrEqual(1.05)
    expect(whole.sound[0]?.at).toBeLessThan(1.05 + BLOCK)
    expect(whole.sound.at(-1)?.at).toBeCloseTo(8.98 + 0.05, 3)
    expect(run!.segments.length).toBeGreaterThanOrEqual(5)
    for (let i = 0; i < run!.segments.length; i++) expect((await read(run!, i)).picture[0]?.key).toBe(true)
  })
  it('says how long each segment is: together as long as all of it', async () => {
    const b = bench()
    b.clocks({ screen: 0, camera: 0, sound: 0 })
    await b.play(0, 12)
    await b.broadcast.end()
    const durations = b.runs[0]!.segments.map((s) => s.duration)
    expect(durations.reduce((a, x) => a + x, 0)).toBeCloseTo(12 - 0.75, 1)
    for (const d of durations.slice(0, -1)) expect(Math.abs(d - 1.5)).toBeLessThan(0.03)
  })
  it('holds nothing of a pause, nor of what was not sent before it', async () => {
    const b = bench()
    b.clocks({ screen: 0, camera: 0, sound: 0 })
    await b.play(0, 5)
    b.broadcast.pause()
    await b.play(5, 20)
    b.broadcast.goOn()
    await b.play(20, 25)
    await b.broadcast.end()
    expect(b.runs).toHaveLength(2)
    const [before, after] = [await read(b.runs[0]!), await read(b.runs[1]!)]
    expect(Math.max(...before.picture.map((p) => p.at), ...before.sound.map((p) => p.at))).toBeLessThan(5)
    expect(Math.min(...after.picture.map((p) => p.at), ...after.sound.map((p) => p.at))).toBeGreaterThanOrEqual(20)
  })
  it('goes on without a track that gives nothing, and with it again when it comes back', async () => {
    const b = bench()
    b.clocks({ screen: 0, camera: 0, sound: 0 })
    await b.play(0, 6)
    await b.play(6, 14, ['screen', 'camera'])
    await b.play(14, 20)
    await b.broadcast.end()
    const all = await Promise.all(b.runs.map((r) => read(r)))
    expect(all.map((r) => r.sound.length > 0)).toEqual([true, false, true])
    // No picture is lost on the way, but those before the sound was given up that had not been sent.
    expect(all.reduce((sum, r) => sum + r.picture.length, 0)).toBe(20 * 24 - 18)
  })
  it('shows another picture from its next key frame on', async () => {
    const b = bench()
    b.clocks({ screen: 0, camera: 0.2, sound: 0 })
    await b.play(0, 5)
    b.broadcast.show('camera')
    await b.play(5, 10)
    await b.broadcast.end()
    expect(b.runs).toHaveLength(2)
    const second = await read(b.runs[1]!)
    expect(second.picture[0]!.at).toBeGreaterThan(5)
    expect(second.picture[0]!.at).toBeLessThan(5 + 0.75 + 0.2 + FRAME)
    // Its clock is that of the camera.
    expect(((second.picture[0]!.at - 0.2) / FRAME) % 18).toBeCloseTo(0, 2)
  })
  it('begins a further run when the clocks of picture and sound have come apart', async () => {
    const b = bench()
    b.clocks({ screen: 0, camera: 0, sound: 0 })
    await b.play(0, 5)
    b.clocks({ sound: 0.03 })
    await b.play(5, 7)
    // Both late by as much: a busy moment.
    b.clocks({ screen: 0.1, sound: 0.1 })
    await b.play(7, 9)
    b.clocks({ screen: 0, sound: 0.03 })
    await b.play(9, 10)
    b.clocks({ sound: 0.06 })
    await b.play(10, 15)
    await b.broadcast.end()
    expect(b.runs).toHaveLength(2)
    const gap = (await read(b.runs[1]!)).sound[0]!.at
    expect(((gap - 0.06) / BLOCK) % 1).toBeCloseTo(0, 3)
  })
  it('is sound alone where there is no picture', async () => {
    const b = bench(['sound'], '')
    b.clocks({ sound: 0.1 })
    await b.play(0, 6)
    await b.broadcast.end()
    expect(b.runs[0]!.segments.length).toBeGreaterThanOrEqual(3)
    const { picture, sound } = await read(b.runs[0]!)
    expect(picture).toEqual([])
    expect(sound).toHaveLength(300)
  })
  it('is nothing before it is known how the clocks stand', async () => {
    const b = bench()
    await b.play(0, 5)
    await b.broadcast.end()
    expect(b.runs).toEqual([])
  })
})
