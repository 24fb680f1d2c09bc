import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { arrange } from '../picture/layout'
import { apply, newEdit } from '../edit/edit'
import { subtitlePlaylist, withSubtitles } from '../packages/hls'
import type { EditDocument } from '../schema/edit'
import type { EditCommand } from '../schema/edit-command'
import { recorded } from '../time/units'
import {
  arrangements,
  assetsOf,
  InvalidScript,
  isUntouched,
  partsOf,
  runsOn,
  soundAt,
  spanAt,
  writeScript,
  type Part,
  type Script,
  type ScriptFeed,
} from './script'
import { copyablePart, planSound, type SoundStretch } from './splice'

const at = recorded
const screen: ScriptFeed = { id: 'screen', kind: 'screen', offset: 0, duration: 100, width: 1280, height: 720 }
const camera: ScriptFeed = { id: 'camera', kind: 'camera', offset: 0.02, duration: 99.9, width: 640, height: 480 }
const sound: ScriptFeed = { id: 'sound', kind: 'sound', offset: 0, duration: 100, width: 0, height: 0 }
const edited = (...commands: EditCommand[]): EditDocument => commands.reduce(apply, newEdit(at(100), 25))
const noAssets = new Map<string, never>()
const write = (edit: EditDocument, feeds: readonly ScriptFeed[] = [screen, sound], part: Part | null = null) =>
  writeScript(
    edit,
    feeds,
    new Map([
      ['pic', { width: 400, height: 300, duration: 0, sound: false }],
      ['clip', { width: 1280, height: 720, duration: 30, sound: true }],
      ['voice', { width: 0, height: 0, duration: 9, sound: true }],
    ]),
    part,
  )
const shape = (script: ReturnType<typeof write>) =>
  script.picture.map((s) =>
    [s.at, s.length, s.whole ? 'copied' : 'composed'].map((x) =>
      typeof x === 'number' ? Math.round(x * 1000) / 1000 : x,
    ),
  )

describe('a script', () => {
  it('copies what is only cut', () => {
    const script = write(edited({ do: 'remove', id: 'a', from: at(10), to: at(20) }))
    expect(shape(script)).toEqual([
      [0, 10, 'copied'],
      [10, 80, 'copied'],
    ])
    expect(script.picture.map((s) => s.whole?.from)).toEqual([0, 20])
    expect(script.sound.map((s) => [s.at, s.length, s.source])).toEqual([
      [0, 10, { kind: 'feed', feed: 1, from: 0 }],
      [10, 80, { kind: 'feed', feed: 1, from: 20 }],
    ])
  })
  it('composes under a stretch alone', () => {
    expect(
      shape(
        write(
          edited({
            do: 'stretch',
            id: 'm',
            from: at(40),
            to: at(60),
            what: { kind: 'mask', how: 'blur', box: { x: 0, y: 0, width: 0.5, height: 0.5 } },
          }),
        ),
      ),
    ).toEqual([
      [0, 40, 'copied'],
      [40, 20, 'composed'],
      [60, 40, 'copied'],
    ])
  })
  it('puts inserts where they belong, also when that instant was taken out', () => {
    const card = { kind: 'card' as const, title: 'T', text: '', seconds: 3, ink: '#ffffff', ground: '#000000' }
    const script = write(
      edited(
        { do: 'remove', id: 'a', from: at(0), to: at(10) },
        { do: 'insert', id: 't', at: at(5), what: card },
        { do: 'insert', id: 'e', at: at(100), what: card },
      ),
    )
    expect(shape(script)).toEqual([
      [0, 3, 'composed'],
      [3, 90, 'copied'],
      [93, 3, 'composed'],
    ])
    expect(script.sound.map((s) => s.source !== null)).toEqual([false, true, false])
    expect(script.length).toBe(96)
  })
  it('fades on both sides of a seam, and at no end that was not cut', () => {
    const script = write(edited({ do: 'remove', id: 'a', from: at(10), to: at(20) }, { do: 'fade', seconds: 0.5 }))
    expect(script.picture.map((s) => s.light)).toEqual([
      [1, 1],
      [1, 0],
      [0, 1],
      [1, 1],
    ])
    expect(shape(script).map((s) => s[2])).toEqual(['copied', 'composed', 'composed', 'copied'])
  })
  it('fades evenly through whatever begins meanwhile', () => {
    const script = write(
      edited(
        { do: 'remove', id: 'a', from: at(10), to: at(20) },
        { do: 'fade', seconds: 1 },
        {
          do: 'stretch',
          id: 'm',
          from: at(20.4),
          to: at(30),
          what: { kind: 'mask', how: 'solid', box: { x: 0, y: 0, width: 0.5, height: 0.5 } },
        },
      ),
    )
    const fading = script.picture
      .filter((s) => s.at >= 9.99 && s.at < 11)
      .map((s) => s.light.map((l) => Math.round(100 * l) / 100))
    expect(fading).toEqual([
      [0, 0.4],
      [0.4, 1],
    ])
  })
  it('does not take an insert in the middle for a seam', () => {
    const script = write(
      edited(
        { do: 'insert', id: 'p', at: at(50), what: { kind: 'picture', file: 'pic', seconds: 2 } },
        { do: 'fade', seconds: 0.5 },
      ),
    )
    expect(shape(script)).toEqual([
      [0, 50, 'copied'],
      [50, 2, 'composed'],
      [52, 50, 'copied'],
    ])
  })
  it('lays the camera over the screen, and only while a layout says so', () => {
    expect(shape(write(edited(), [screen, camera, sound]))).toEqual([[0, 100, 'composed']])
    const script = write(
      edited(
        { do: 'layout', layout: 'screen' },
        { do: 'stretch', id: 'l', from: at(20), to: at(30), what: { kind: 'layout', layout: 'beside' } },
      ),
      [screen, camera, sound],
    )
    expect(shape(script)).toEqual([
      [0, 20, 'copied'],
      [20, 10, 'composed'],
      [30, 70, 'copied'],
    ])
    expect(script.picture[1]?.layers).toHaveLength(2)
  })
  it('lays what was drawn on the screen, wherever a layout puts it, and nowhere while it is not seen', () => {
    const ink: EditCommand = {
      do: 'stretch',
      id: 'ink',
      from: at(0),
      to: at(100),
      what: {
        kind: 'strokes',
        strokes: [{ colour: '#000000', width: 0.01, opacity: 1, points: [{ x: 0, y: 0, at: 0 }] }],
      },
    }
    const drawn = (feeds: ScriptFeed[], layout: 'inset' | 'beside' | 'camera') =>
      write(edited(ink, { do: 'layout', layout }), feeds).picture.flatMap((s) =>
        s.layers.flatMap((l) => (l.kind === 'strokes' ? [l.box] : [])),
      )[0]
    const both = [screen, camera, sound]
    const whole = { x: 0, y: 0, width: 1280, height: 720 }
    expect(drawn(both, 'inset')).toEqual(whole)
    const beside = drawn(both, 'beside')
    expect(beside).toEqual(
      arrange('beside', new Map(Object.entries({ screen, camera })), whole).find((p) => p.feed === 'screen')?.box,
    )
    expect(beside?.width).toBeLessThan(1000)
    expect(drawn(both, 'camera')).toBeUndefined()
    expect(drawn([camera, sound], 'camera')).toEqual({ x: 0, y: 0, width: 640, height: 480 })
  })
  it('holds a picture that ends a little early, and not one that is long over', () => {
    expect(shape(write(edited(), [{ ...screen, duration: 98.5 }, sound]))).toEqual([[0, 100, 'copied']])
    expect(shape(write(edited(), [{ ...screen, duration: 50 }, sound]))).toEqual([
      [0, 52, 'copied'],
      [52, 48, 'composed'],
    ])
  })
  it('runs takes end to end', () => {
    const script = write(edited(), [
      { ...screen, duration: 40 },
      { ...sound, duration: 40 },
      { ...screen, offset: 40, duration: 60 },
      { ...sound, offset: 40, duration: 60 },
    ])
    expect(script.picture.map((s) => s.whole)).toEqual([
      { feed: 0, from: 0 },
      { feed: 2, from: 0 },
    ])
    expect(script.sound.map((s) => s.source)).toEqual([
      { kind: 'feed', feed: 1, from: 0 },
      { kind: 'feed', feed: 3, from: 0 },
    ])
  })
  it('takes the sound of a video that says so', () => {
    const over = (on: boolean) =>
      write(
        edited({
          do: 'stretch',
          id: 'v',
          from: at(10),
          to: at(20),
          what: { kind: 'video', file: 'clip', box: { x: 0, y: 0, width: 1, height: 1 }, sound: on },
        }),
      ).sound.map((s) => s.source?.kind)
    expect(over(true)).toEqual(['feed', 'asset', 'feed'])
    expect(over(false)).toEqual(['feed'])
  })
  it('gives a sound recording a frame when something is to be seen', () => {
    expect(write(edited(), [sound]).frame).toBeNull()
    expect(
      write(
        edited({
          do: 'stretch',
          id: 'p',
          from: at(0),
          to: at(100),
          what: { kind: 'picture', file: 'pic', box: { x: 0, y: 0, width: 1, height: 1 }, opacity: 1 },
        }),
        [sound],
      ).frame,
    ).toEqual({ width: 1280, height: 720 })
  })
  it('says what is missing, and when nothing is left', () => {
    const edit = edited({ do: 'insert', id: 'p', at: at(5), what: { kind: 'picture', file: 'lost.png', seconds: 2 } })
    expect(assetsOf(edit)).toEqual(['lost.png'])
    expect(() => writeScript(edit, [screen], noAssets)).toThrow('“lost.png”, which is not there')
    expect(() => write(edited({ do: 'remove', id: 'a', from: at(0), to: at(100) }))).toThrow(InvalidScript)
    const show = (kind: 'picture' | 'video', file: string) =>
      write(
        edited({
          do: 'insert',
          id: 'x',
          at: at(5),
          what: kind === 'picture' ? { kind, file, seconds: 2 } : { kind, file, from: at(0), to: at(2) },
        }),
      )
    expect(() => show('picture', 'clip')).toThrow('as a picture, and it is a video')
    expect(() => show('video', 'pic')).toThrow('as a video, and it is a picture')
    expect(() => show('video', 'voice')).toThrow('in which there is no picture')
  })
  it('covers the whole result without a gap, whatever is done', () => {
    const range = fc
      .tuple(fc.integer({ min: 0, max: 98 }), fc.integer({ min: 1, max: 40 }))
      .map(([from, length]) => ({ from: at(from), to: at(Math.min(100, from + length)) }))
    const command = fc.oneof(
      range.map((r): EditCommand => ({ do: 'remove', id: `r${r.from}`, ...r })),
      range.map((r): EditCommand => ({
        do: 'stretch',
        id: `s${r.from}`,
        ...r,
        what: { kind: 'mask', how: 'solid', box: { x: 0, y: 0, width: 1, height: 1 } },
      })),
      fc.integer({ min: 0, max: 100 }).map((t): EditCommand => ({
        do: 'insert',
        id: `i${t}`,
        at: at(t),
        what: { kind: 'picture', file: 'pic', seconds: 2 },
      })),
      fc.constant<EditCommand>({ do: 'fade', seconds: 0.4 }),
    )
    fc.assert(
      fc.property(fc.array(command, { maxLength: 8 }), (commands) => {
        const edit = edited(...commands)
        let script
        try {
          script = write(edit)
        } catch (error) {
          if (error instanceof InvalidScript) return
          throw error
        }
        for (const spans of [script.picture, script.sound]) {
          let end = 0
          for (const span of spans) {
            expect(span.at).toBeCloseTo(end, 6)
            expect(span.length).toBeGreaterThan(0)
            end = span.at + span.length
          }
          expect(end).toBeCloseTo(script.length, 6)
        }
      }),
    )
  })
})

describe('the level of the sound', () => {
  const level = (id: string, from: number, to: number, gain: number | null): EditCommand => ({
    ...{ do: 'stretch', id, from: at(from), to: at(to) },
    what: { kind: 'level', gain },
  })
  const heard = (script: Script) => script.sound.map((s) => [s.at, s.length, Math.round(1000 * (s.gain ?? 1)) / 1000])

  it('holds for its stretch, and leaves the picture to be copied', () => {
    const script = write(edited(level('a', 10, 20, -20), level('b', 15, 30, 6), level('c', 40, 50, null)))
    expect(heard(script)).toEqual([
      [0, 10, 1],
      [10, 5, 0.1],
      [15, 5, 0.2],
      [20, 10, 1.995],
      [30, 10, 1],
      [40, 10, 0],
      [50, 50, 1],
    ])
    expect(script.sound.map(isUntouched)).toEqual([true, false, false, false, true, false, true])
    expect(script.sound.slice(1).every((s, i) => runsOn(script.sound[i], s))).toBe(true)
    expect(shape(script)).toEqual([[0, 100, 'copied']])
  })
  it('of the lecture is lowered under a video that is heard with it', () => {
    const over = (under?: number): EditCommand => ({
      ...{ do: 'stretch', id: 'v', from: at(10), to: at(20) },
      what: {
        ...{ kind: 'video', box: { x: 0, y: 0, width: 1, height: 1 }, file: 'clip', sound: true },
        ...(under !== undefined && { under }),
      },
    })
    expect(soundAt(write(edited(over())).sound, 15)?.beneath).toBeUndefined()
    const both = soundAt(write(edited(over(-20), level('l', 0, 100, -20))).sound, 15)
    expect(both).toMatchObject({ source: { kind: 'asset', from: 0 }, beneath: { source: { kind: 'feed', from: 10 } } })
    expect(both?.gain).toBeUndefined()
    expect(both?.beneath?.gain).toBeCloseTo(0.01, 6)
  })
})

describe('a mark over all', () => {
  const watermark = { file: 'pic', box: { x: 0.8, y: 0, width: 0.2, height: 0.2 }, opacity: 0.5 }
  const marked = (layout: EditDocument['layout']) => ({ ...newEdit(at(100), 25), layout, watermark })
  const marks = (script: Script) =>
    script.picture.map(({ layers }) => layers.filter((l) => l.kind === 'still').map((l) => l.box.width))

  it('lies on the large picture, once, and on no other', () => {
    const script = write(marked('inset'), [screen, camera, sound])
    expect(marks(script)).toEqual(script.picture.map(() => [expect.any(Number)]))
    expect(script.picture.every((s) => s.whole === null)).toBe(true)
    const main = write(marked('inset'), [screen, camera, sound], { feed: 'screen', main: true })
    const inset = write(marked('inset'), [screen, camera, sound], { feed: 'camera', main: false })
    expect(marks(main).flat()).toHaveLength(main.picture.length)
    expect(marks(inset).flat()).toEqual([])
  })
  it('lies on what is put in, too, which has the whole frame', () => {
    const card = { kind: 'card' as const, title: 'Ice', text: '', seconds: 4, ink: '#ffffff', ground: '#000000' }
    const edit = { ...marked('inset'), inserts: [{ id: 'c', at: at(50), what: card }] }
    const script = write(edit, [screen, camera, sound])
    const put = script.picture.find((s) => s.layers.some((l) => l.kind === 'still' && l.still.kind === 'card'))
    expect(put?.layers.map((l) => l.kind === 'still' && l.still.kind)).toEqual(['card', 'picture'])
    expect(marks(write(edit, [screen, camera, sound], { feed: 'camera', main: false })).flat()).toEqual([])
  })
  it('goes with the camera where that is alone, and is among the files', () => {
    const inset = write(marked('camera'), [screen, camera, sound], { feed: 'camera', main: true })
    expect(marks(inset).flat()).toHaveLength(inset.picture.length)
    expect(assetsOf(marked('inset'))).toEqual(['pic'])
    expect(() => write({ ...marked('inset'), watermark: { ...watermark, file: 'clip' } })).toThrow(InvalidScript)
    expect(() => write({ ...marked('inset'), watermark: { ...watermark, file: 'gone' } })).toThrow('not there')
  })
})

describe('a script in parts', () => {
  const feeds = [screen, camera, sound]
  const main: Part = { feed: 'screen', main: true }
  const other: Part = { feed: 'camera', main: false }
  const card = { kind: 'card' as const, title: 'T', text: '', seconds: 3, ink: '#ffffff', ground: '#000000' }
  const mask = { kind: 'mask' as const, how: 'solid' as const, box: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 } }
  const inLayout = (layout: 'screen' | 'camera' | 'beside', from: number, to: number): EditCommand => ({
    do: 'stretch',
    id: `l${from}`,
    from: at(from),
    to: at(to),
    what: { kind: 'layout', layout },
  })

  it('costs a copy of each picture where both are only cut', () => {
    const edit = edited({ do: 'remove', id: 'a', from: at(10), to: at(20) })
    expect(shape(write(edit, feeds)).map((s) => s[2])).toEqual(['composed', 'composed'])
    for (const part of [main, other])
      expect(shape(write(edit, feeds, part))).toEqual([
        [0, 10, 'copied'],
        [10, 80, 'copied'],
      ])
    expect(write(edit, feeds, main).sounds).toBe(true)
    expect(write(edit, feeds, other)).toMatchObject({ sounds: false, frame: { width: 640, height: 480 } })
  })
  it('tells feeds by their ids: a second camera is seen where a slot names it, and goes out as a film of its own', () => {
    const board: ScriptFeed = { ...camera, id: 'camera-2' }
    const box = { x: 0.5, y: 0, width: 0.5, height: 1 }
    const slots = [
      { feed: 'screen', box: { x: 0, y: 0, width: 0.5, height: 1 }, fit: 'contain' as const },
      { feed: 'camera-2', box, fit: 'cover' as const },
    ]
    const edit = edited(
      { do: 'stretch', id: 'l', from: at(30), to: at(50), what: { kind: 'layout', layout: slots } },
      { do: 'stretch', id: 'm', from: at(30), to: at(50), what: { ...mask, on: 'camera-2' } },
    )
    const all = [screen, camera, board, sound]
    const script = write(edit, all)
    expect(partsOf(script, all).map((p) => p.feed)).toEqual(['screen', 'camera', 'camera-2'])
    expect(arrangements(script, all).map((a) => [a.at, a.slots.map((s) => s.feed)])).toEqual([
      [0, ['screen', 'camera']],
      [30, ['screen', 'camera-2']],
      [50, ['screen', 'camera']],
    ])
    expect(arrangements(script, all)[1]?.slots[1]).toEqual({ feed: 'camera-2', box, fit: 'cover' })
    // In the whole picture the mask ends where the slot does; in the film of that camera it lies where it was put.
    const seen = spanAt(script.picture, 40)!.layers
    expect(seen.at(-1)).toMatchObject({ kind: 'mask', box: { x: 960, y: 360, width: 320, height: 360 } })
    const own = write(edit, all, { feed: 'camera-2', main: false })
    expect(spanAt(own.picture, 40)!.layers.at(-1)).toMatchObject({ box: { x: 320, y: 240, width: 320, height: 240 } })
    expect(spanAt(own.picture, 20)!.layers).toEqual([])
  })
  it('knows what is seen and heard at every instant', () => {
    const edit = edited(
      { do: 'remove', id: 'a', from: at(10), to: at(20) },
      { do: 'insert', id: 'i', at: at(30), what: card },
    )
    const script = write(edit, feeds)
    expect([0, 9.99, 10, 20, 22.9, 23, 83].map((t) => spanAt(script.picture, t)?.at)).toEqual([
      0, 0, 10, 20, 20, 23, 23,
    ])
    expect([5, 21, 23].map((t) => soundAt(script.sound, t)?.source?.kind)).toEqual(['feed', undefined, 'feed'])
    expect(spanAt([], 1)).toBeUndefined()
  })
  it('holds nothing of a picture where the layout hides it', () => {
    const edit = edited(inLayout('screen', 30, 50), inLayout('camera', 60, 70))
    const shown = (part: Part) => write(edit, feeds, part).picture.map((s) => [s.at, s.layers.length])
    expect(shown(other)).toEqual([
      [0, 1],
      [30, 0],
      [50, 1],
    ])
    expect(shown(main)).toEqual([
      [0, 1],
      [60, 0],
      [70, 1],
    ])
  })
  it('lays what lies on a picture on its part alone, at the same place of it in every layout', () => {
    const edit = edited(
      inLayout('beside', 40, 60),
      { do: 'stretch', id: 's', from: at(0), to: at(100), what: mask },
      { do: 'stretch', id: 'c', from: at(0), to: at(10), what: { ...mask, on: 'camera' } },
    )
    const boxes = (script: Script) =>
      script.picture.map((s) => s.layers.flatMap((l) => (l.kind === 'mask' ? l.box : [])))
    expect(boxes(write(edit, feeds, main)).flat()).toEqual(
      Array.from({ length: 4 }, () => ({ x: 640, y: 360, width: 640, height: 360 })),
    )
    expect(boxes(write(edit, feeds, other))).toEqual([[{ x: 320, y: 240, width: 320, height: 240 }], []])
    const beside = write(edit, feeds).picture.find((s) => s.at === 40)
    const [picture, over] = beside?.layers ?? []
    expect(picture?.kind === 'feed' && over?.kind === 'mask').toBe(true)
    if (picture?.kind === 'feed' && over?.kind === 'mask') {
      expect(over.box.x).toBeCloseTo(picture.box.x + picture.box.width / 2, -1)
      expect(over.box.y).toBeCloseTo(picture.box.y + picture.box.height / 2, -1)
    }
    // The camera stands over what lies on the screen.
    expect(write(edit, feeds).picture[0]?.layers.map((l) => l.kind)).toEqual(['feed', 'mask', 'feed', 'mask'])
  })
  it('puts in between into the main one, and gives it the whole frame', () => {
    const edit = edited({ do: 'insert', id: 't', at: at(50), what: card })
    expect(write(edit, feeds, main).picture.map((s) => s.layers[0]?.kind)).toEqual(['feed', 'still', 'feed'])
    expect(write(edit, feeds, other).picture.map((s) => s.layers.length)).toEqual([1, 0, 1])
    const arranged = arrangements(write(edit, feeds), feeds)
    expect(arranged.map((a) => [a.at, a.slots.map((s) => s.feed).join(' ')])).toEqual([
      [0, 'screen camera'],
      [50, 'screen'],
      [53, 'screen camera'],
    ])
    expect(arranged[1]?.slots[0]?.box).toEqual({ x: 0, y: 0, width: 1, height: 1 })
    expect(partsOf(write(edit, feeds), feeds)).toEqual([main, other])
  })
  it('is of one part when only one picture is ever seen', () => {
    expect(partsOf(write(edited({ do: 'layout', layout: 'camera' }), feeds), feeds)).toEqual([
      { feed: 'camera', main: true },
    ])
    expect(partsOf(write(edited(), [sound]), [sound])).toEqual([])
  })
  it('shows at each instant, in each part, what the whole shows of its picture, whatever is done', () => {
    const moment = fc.double({ min: 0, max: 100, noNaN: true })
    const command = fc.oneof(
      fc.record({ do: fc.constant('remove' as const), from: moment, to: moment }),
      fc.record({ do: fc.constant('insert' as const), at: moment, what: fc.constant(card) }),
      fc.record({
        do: fc.constant('stretch' as const),
        from: moment,
        to: moment,
        what: fc.oneof(
          fc.constantFrom('inset' as const, 'screen' as const, 'camera' as const, 'beside' as const).map((layout) => ({
            kind: 'layout' as const,
            layout,
          })),
          fc.constant(mask),
        ),
      }),
      fc.record({ do: fc.constant('fade' as const), seconds: fc.constantFrom(0, 0.5) }),
    )
    fc.assert(
      fc.property(
        fc.array(command, { maxLength: 8 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (commands, share) => {
          let edit = edited()
          for (const [i, c] of commands.entries())
            if (!('from' in c) || c.to > c.from) edit = apply(edit, { ...c, id: `c${i}` } as EditCommand)
          fc.pre(edit.removed.reduce((left, r) => left - (r.to - r.from), 100) > 1)
          const whole = write(edit, feeds)
          const time = share * whole.length * 0.999
          const seen = (script: Script, index: number) => {
            const span = script.picture.findLast((s) => s.at <= time)
            const layer = span?.layers.find((l) => l.kind === 'feed' && l.feed === index)
            return layer?.kind === 'feed' ? layer.from + time - (span?.at ?? 0) : null
          }
          for (const [part, index] of [
            [main, 0],
            [other, 1],
          ] as const) {
            const alone = write(edit, feeds, part)
            expect(alone.length).toBe(whole.length)
            const [a, b] = [seen(whole, index), seen(alone, index)]
            expect(b === null).toBe(a === null)
            if (a !== null && b !== null) expect(b).toBeCloseTo(a, 6)
          }
        },
      ),
    )
  })
})

describe('what of a group of pictures can be copied', () => {
  const group = (...times: number[]) => times.map((timestamp) => ({ timestamp }))
  it('is all of it when it ends before the cut', () => {
    expect(copyablePart(group(0, 1, 2, 3), 4, 0.1)).toEqual({ count: 4, encodeFrom: null })
  })
  it('is up to the cut when pictures come in order', () => {
    expect(copyablePart(group(0, 1, 2, 3), 2, 0.1)).toEqual({ count: 2, encodeFrom: null })
  })
  it('leaves out what is coded before the cut and shown behind it, and all that hangs on it', () => {
    // Shown I0 B1 B2 P3 B4 B5 P6, decoded I0 P3 B1 B2 P6 B4 B5; cut after 4.
    expect(copyablePart(group(0, 3, 1, 2, 6, 4, 5), 5, 0.1)).toEqual({ count: 4, encodeFrom: 4 })
    expect(copyablePart(group(0, 3, 1, 2, 6, 4, 5), 2, 0.1)).toEqual({ count: 1, encodeFrom: 1 })
  })
  it('never copies a frame from behind the cut, nor leaves a gap', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 5 }),
        fc.integer({ min: 1, max: 30 }),
        fc.integer({ min: 1, max: 40 }),
        (depth, length, cut) => {
          const times = [0]
          for (let p = depth; p < length + depth; p += depth)
            times.push(p, ...Array.from({ length: depth - 1 }, (_, i) => p - depth + 1 + i))
          const { count, encodeFrom } = copyablePart(group(...times), cut, 0.1)
          const copied = times.slice(0, count).sort((a, b) => a - b)
          expect(copied).toEqual(Array.from({ length: count }, (_, i) => i))
          expect(copied.every((t) => t < cut)).toBe(true)
          if (encodeFrom !== null) expect(encodeFrom).toBe(count)
          else expect(count).toBe(Math.min(cut, times.length))
        },
      ),
    )
  })
})

describe('the plan of copied sound', () => {
  const aac = { packet: 1024 / 48_000, unit: 1024 / 48_000, lead: 1024 / 48_000, settle: 2048 / 48_000 }
  const opus = { packet: 0.06, unit: 0.01, lead: 0.01, settle: 0.08 }
  const stretches = fc
    .array(
      fc.tuple(
        fc.double({ min: 0.01, max: 20, noNaN: true }),
        fc.double({ min: 0.01, max: 5, noNaN: true }),
        fc.boolean(),
      ),
      { minLength: 1, maxLength: 12 },
    )
    .map((list) => {
      let at = 0
      let from = 0
      return list.map(([length, gap, sounds]): SoundStretch => {
        from += gap
        const stretch = { at, length, source: sounds ? { from, grid: -0.0213, begin: -0.0213, end: 1000 } : null }
        at += length
        from += length
        return stretch
      })
    })
  it('has no gaps, ends with the result, and puts every run within half a unit of its place', () => {
    fc.assert(
      fc.property(stretches, fc.constantFrom(aac, opus), (list, grid) => {
        const length = list.reduce((sum, s) => sum + s.length, 0)
        const pieces = planSound(list, length, grid)
        let end = 0
        for (const piece of pieces) {
          expect(piece.at).toBeCloseTo(end, 6)
          end += piece.length
          if (piece.kind === 'encode') continue
          const stretch = list[piece.span]!
          expect(Math.abs(piece.shift)).toBeLessThanOrEqual(grid.unit / 2 + 1e-9)
          expect(piece.at - (stretch.at + (piece.from - stretch.source!.from))).toBeCloseTo(piece.shift, 6)
          // Nothing is copied from behind the stretch's own end but the rest of a last packet.
          expect(piece.from + piece.length).toBeLessThanOrEqual(
            stretch.source!.from + stretch.length + grid.packet / 2 + 1e-6,
          )
        }
        expect(Math.abs(end - length)).toBeLessThanOrEqual(grid.packet / 2 + grid.unit / 2 + 1e-9)
      }),
    )
  })
  it('copies all but a few packets at each seam', () => {
    const pieces = planSound(
      [
        { at: 0, length: 600, source: { from: 0, grid: 0, begin: 0, end: 1300 } },
        { at: 600, length: 600, source: { from: 700, grid: 0, begin: 0, end: 1300 } },
      ],
      1200,
      aac,
    )
    const encoded = pieces.filter((p) => p.kind === 'encode').reduce((sum, p) => sum + p.length, 0)
    expect(encoded).toBeLessThan(0.12)
  })
})

describe('HLS playlists', () => {
  const main = '#EXTM3U\n#EXT-X-VERSION:6\n\n#EXT-X-STREAM-INF:BANDWIDTH=1,CODECS="avc3"\nplaylist-1.m3u8\n'
  it('name the captions for every variant', () => {
    const lines = withSubtitles(main, { language: 'en', label: 'Say "hi"' }, 'captions.m3u8').split('\n')
    expect(lines).toContain(
      '#EXT-X-MEDIA:TYPE=SUBTITLES,GROUP-ID="captions",NAME="Say ’hi’",LANGUAGE="en",DEFAULT=NO,AUTOSELECT=YES,URI="captions.m3u8"',
    )
    expect(lines).toContain('#EXT-X-STREAM-INF:BANDWIDTH=1,CODECS="avc3",SUBTITLES="captions"')
    expect(lines.findIndex((l) => l.includes('SUBTITLES,'))).toBeLessThan(lines.indexOf('playlist-1.m3u8'))
  })
  it('hold one file over the whole length', () => {
    expect(subtitlePlaylist('captions.vtt', 61.2)).toContain(
      '#EXT-X-TARGETDURATION:62\n#EXTINF:61.200,\ncaptions.vtt\n#EXT-X-ENDLIST',
    )
  })
})
