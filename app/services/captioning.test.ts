import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { deleteCue, setText } from '#core/captions/track'
import { joinTakes } from '#core/record/recording'
import type { Take } from '#core/schema/lecture'
import { db } from '~/db/database'
import { storeFile } from '~/db/files'
import { JobCancelled, type useJobs } from '~/stores/jobs'
import { draftArrivals, draftCaptions } from './captioning'
import { changeLecture } from './cards'
import { documentRow, stepsOf, storeDocument, travel } from './documents'
import { noteArrival, stoppedDrafts, toDraft } from './heard'
import { RECORDING } from './takes'
import { keepWord } from './words'

const take: Take = {
  ...{ id: 't', lectureId: 'l', state: 'whole', startedAt: '2026-11-23T09:00:00Z', duration: 60, pauses: [], note: '' },
  feeds: [
    {
      ...{ id: 'sound', kind: 'sound', label: 'Microphone', fileId: 'f', offset: 0.5, duration: 59 },
      ...{ width: 0, height: 0, frameRate: 0 },
    },
  ],
}
const recording = joinTakes([take])!

/** Jobs of one page, which keep what was said of each. */
function jobs() {
  const all: { says: string; restart?: unknown }[] = []
  const abort = new AbortController()
  const start = async (_: string, __: string, says: string, run: (context: object) => Promise<void>, more: object) => {
    const job = { says, ...more }
    all.push(job)
    await run({
      engine: { extractSpeech: async () => new Blob(['wav']) },
      scratch: 'job',
      signal: abort.signal,
      progress: (_: number, text?: string) => {
        if (text) job.says = text
      },
    })
  }
  return { all, abort, store: { start } as unknown as ReturnType<typeof useJobs> }
}

/** What the server says when it is asked next: lines, after which the connection is lost, unless all was heard. */
let answers: (object | (() => Promise<void>))[][] = []
let asked: string[] = []
let told: string[] = []
let problem = ''
let recordingNow = false
const word = (text: string, from: number) => ({ word: { text, from, to: from + 0.5, confidence: 0.9 } })
beforeEach(async () => {
  answers = []
  asked = []
  problem = ''
  recordingNow = false
  vi.stubGlobal('navigator', {
    locks: {
      request: async (...all: unknown[]) => {
        if (all[0] === RECORDING) recordingNow = false
        return (all.at(-1) as (lock: object) => unknown)({})
      },
      query: async () => ({ held: recordingNow ? [{ name: RECORDING }] : [] }),
    },
  })
  vi.stubGlobal('fetch', async (url: string, init?: RequestInit) => {
    if (url === '/api/author/session') return Response.json({ signedIn: true, says: '' })
    if (url === '/api/speech/vocabulary') {
      told = (JSON.parse(init?.body as string) as { lines: string[] }).lines
      return Response.json({ id: 'words' })
    }
    if (init?.method !== 'POST') return Response.json({ available: !problem, says: problem })
    asked.push(new URL(url, 'http://x').searchParams.get('from') ?? '')
    const said = answers.shift() ?? []
    return new Response(
      new ReadableStream({
        async start(controller) {
          for (const line of said)
            if (typeof line === 'function') await line()
            else controller.enqueue(new TextEncoder().encode(JSON.stringify(line) + '\n'))
          controller.close()
        },
      }),
    )
  })
  await Promise.all(db.tables.map((t) => t.clear()))
  await db.courses.put({ id: 'c', code: 'C1', title: 'Ice', termId: 'term' })
  await db.lectures.put({
    id: 'l',
    courseId: 'c',
    week: 1,
    title: 'Ice',
    description: '',
    createdAt: '2026-11-23T09:00:00Z',
  })
  await db.takes.put(take)
  await storeFile({ id: 'f', type: 'audio/mp4', name: 'f', size: 3 }, new Blob(['abc']), () => undefined)
})
const cues = async () => ((await documentRow('l', 'captions'))?.document.cues ?? []).map((c) => [c.from, c.text])
const edit = async (text: string) => {
  const before = (await documentRow('l', 'captions'))!.document
  await storeDocument('l', 'captions', before, setText(before, before.cues[0]!.id, text), { says: 'Changed a cue' })
}
const draft = (how: 'add' | 'replace', { store } = jobs()) => draftCaptions(recording, 'l', recording.takes, how, store)

describe('a draft', () => {
  it('puts cues where they are said, and is no step that could be undone', async () => {
    answers = [[word('snow', 1), word('falls', 1.6), { until: 9 }, word('ice', 20), { until: 59 }, { done: true }]]
    await draft('add')
    expect(await cues()).toEqual([
      [1.5, 'snow falls'],
      [20.5, 'ice'],
    ])
    expect(await stepsOf('l-captions')).toEqual([])
    expect(await db.heard.get('t')).toMatchObject({ until: 59, joined: 59, whole: true })
  })
  it('that was cut off goes on where it was, and leaves what was written and what was deleted', async () => {
    answers = [[word('snow', 1), { until: 9 }, word('fals', 10), { until: 15 }, word('lost', 16)]]
    await expect(draft('add')).rejects.toThrow('it goes on where it was')
    await edit('Snow.')
    const before = (await documentRow('l', 'captions'))!.document
    await storeDocument('l', 'captions', before, deleteCue(before, before.cues[1]!.id), { says: 'Deleted a cue' })
    answers = [[word('ice', 20), { until: 59 }, { done: true }]]
    await draft('add')
    expect(asked).toEqual(['0', '15'])
    expect(await cues()).toEqual([
      [1.5, 'Snow.'],
      [20.5, 'ice'],
    ])
  })
  it('keeps what is written while it goes on, and does not bring back what was deleted', async () => {
    // Each look at the clock is ten seconds later: what is heard is kept at once.
    let clock = 0
    vi.spyOn(performance, 'now').mockImplementation(() => (clock += 10_000))
    answers = [
      [
        ...[word('snow', 1), { until: 9 }],
        async () => {
          await vi.waitFor(async () => expect(await cues()).toHaveLength(1), { timeout: 20_000 })
          await edit('Snow!')
        },
        ...[word('falls', 12), { until: 20 }, word('ice', 30), { until: 59 }, { done: true }],
      ],
    ]
    await draft('add')
    expect((await cues()).map(([, text]) => text)).toEqual(['Snow!', 'falls', 'ice'])
    await travel('l', ['captions'], 'undo')
    expect((await cues()).map(([, text]) => text)).toEqual(['snow', 'falls', 'ice'])
    vi.restoreAllMocks()
  })
  it('that takes the place of another does so at its end, as one step, but for what was written meanwhile', async () => {
    answers = [[word('snow', 1), word('sand', 30), { until: 59 }, { done: true }]]
    await draft('add')
    await edit('Snow.')
    answers = [
      [
        word('know', 1),
        async () => {
          const { document } = (await documentRow('l', 'captions'))!
          await storeDocument('l', 'captions', document, setText(document, document.cues[1]!.id, 'Sun'), {
            says: 'Changed',
          })
        },
        ...[word('sun', 30), { until: 40 }],
      ],
      [word('ice', 50), { until: 59 }, { done: true }],
    ]
    await expect(draft('replace')).rejects.toThrow('lost')
    expect((await cues()).map(([, text]) => text)).toEqual(['Snow.', 'Sun'])
    await draft('replace')
    expect((await cues()).map(([, text]) => text)).toEqual(['know', 'Sun', 'ice'])
    await travel('l', ['captions'], 'undo')
    expect((await cues()).map(([, text]) => text)).toEqual(['Snow.', 'Sun'])
    // Asked for once more, all is heard anew.
    answers = [[word('no', 1), { until: 59 }, { done: true }]]
    await draft('replace')
    expect(asked.at(-1)).toBe('0')
    expect((await cues()).map(([, text]) => text)).toEqual(['no'])
  })
  it('waits while something is recorded, and goes on after it', async () => {
    answers = [
      [word('snow', 1), async () => void (recordingNow = true), { until: 9 }, word('never', 12), { until: 20 }],
      [word('ice', 20), { until: 59 }, { done: true }],
    ]
    await draft('add')
    expect(asked).toEqual(['0', '9'])
    expect((await cues()).map(([, text]) => text)).toEqual(['snow', 'ice'])
  })
  it('says where nothing could be recognised, and when no word was heard', async () => {
    answers = [[word('snow', 1), { missed: { from: 4, to: 9, says: 'it fell over' } }, { until: 59 }, { done: true }]]
    const some = jobs()
    await draft('add', some)
    expect(some.all[0]?.says).toBe('Not everything could be recognised: at 0:05')
    await db.heard.clear()
    answers = [[{ until: 59 }, { done: true }]]
    await expect(draft('add')).rejects.toThrow('heard no words')
  })
  it('tells the recogniser of the course’s words, its lectures and the slides', async () => {
    await keepWord('c', 'firn', ['fern'])
    await db.takes.put({ ...take, slides: [{ at: 0, title: 'What firn is' }] })
    answers = [[word('snow', 1), { until: 59 }, { done: true }]]
    await draft('add')
    expect(told).toEqual(['firn', 'firn', 'Ice', 'What firn is'])
  })
  it('of which the recogniser complains fails with its sentence', async () => {
    answers = [[{ error: 'no model' }]]
    await expect(draft('add')).rejects.toThrow('no model')
    expect(await cues()).toEqual([])
  })
})

describe('a take that has come', () => {
  const arrive = () => changeLecture('l', () => noteArrival(take), [db.heard, db.courses])
  it('is drafted by itself, and not again', async () => {
    await arrive()
    answers = [[word('snow', 1), { until: 59 }, { done: true }]]
    const { store, all } = jobs()
    await draftArrivals(store)
    await draftArrivals(store)
    expect(all).toHaveLength(1)
    // It is found again by itself, not restarted from its row.
    expect(all[0]).not.toHaveProperty('restart')
    expect(await cues()).toEqual([[1.5, 'snow']])
  })
  it('waits for a recogniser, and goes on after what went wrong', async () => {
    await arrive()
    problem = 'There is none.'
    const { store, all } = jobs()
    await draftArrivals(store)
    expect(all).toHaveLength(0)
    problem = ''
    answers = [
      [word('snow', 1), { until: 30 }],
      [word('ice', 40), { until: 59 }, { done: true }],
    ]
    await draftArrivals(store)
    await draftArrivals(store)
    expect((await cues()).map(([, text]) => text)).toContain('ice')
    expect((await db.heard.get('t'))?.arrived).toBe(false)
  })
  it('is left alone where its course says so, where captions are checked, and where a person stopped it', async () => {
    await db.courses.update('c', { draftsOnArrival: false })
    await arrive()
    expect(await db.heard.count()).toBe(0)
    await db.courses.update('c', { draftsOnArrival: true })

    await arrive()
    const track = { format: 'thaw-captions' as const, version: 1 as const, language: 'en', source: 'person' as const }
    await storeDocument('l', 'captions', null, { ...track, state: 'on', cues: [] }, { says: '' })
    const { store, all } = jobs()
    await draftArrivals(store)
    expect(all).toHaveLength(0)

    await db.documents.clear()
    await arrive()
    const cancelling = { start: () => Promise.reject(new JobCancelled('Cancelled.')) } as unknown as typeof store
    await draftArrivals(cancelling)
    expect((await db.heard.get('t'))?.arrived).toBe(false)
  })
  it('that a person stops does not begin again by itself, although what was heard by then is kept', async () => {
    await arrive()
    let stopped = () => undefined as void
    const stop = new Promise<void>((resolve) => (stopped = resolve))
    answers = [[word('snow', 1), { until: 9 }, () => stop]]
    let running = Promise.resolve()
    const { store } = jobs()
    const start = async (...all: unknown[]) => {
      running = (store.start as (...all: unknown[]) => Promise<void>)(...all).catch(() => undefined)
      await vi.waitFor(() => expect(asked).toHaveLength(1), { timeout: 20_000 })
      throw new JobCancelled('Cancelled.')
    }
    await draftArrivals({ start } as unknown as typeof store)
    stopped()
    await running
    expect(await db.heard.get('t')).toMatchObject({ until: 9, joined: 9, arrived: false })
    expect(await cues()).toEqual([[1.5, 'snow']])
  })
  it('in which nobody speaks is no failure', async () => {
    await arrive()
    answers = [[{ until: 59 }, { done: true }]]
    await draftArrivals(jobs().store)
    expect(await db.heard.get('t')).toMatchObject({ whole: true, arrived: false })
  })
})

describe('what is still to be drafted', () => {
  it('is what has no captions, and what stopped before the end', async () => {
    expect(await toDraft(recording, [])).toHaveLength(1)
    expect(await stoppedDrafts(recording)).toEqual([])
    const row = { takeId: 't', fileId: 'f', words: [], until: 20, joined: 20 }
    await db.heard.put(row)
    expect(await toDraft(recording, [{ from: 2 } as never])).toHaveLength(1)
    await db.heard.put({ ...row, whole: true })
    expect(await toDraft(recording, [{ from: 2 } as never])).toEqual([])
    await db.heard.put({ ...row, fileId: 'another' })
    expect(await stoppedDrafts(recording)).toEqual([])
  })
})
