/**
 * What the server keeps: versions, torn uploads, races, answers; also after a restart, and from an earlier version of
 * Thaw.
 */
import { createHash } from 'node:crypto'
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FIRST_ISSUER, personKey } from '#core/course/people'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { isAnswerEvent, type AnswerEvent, type Student } from '#core/schema/attempt'
import type { OverrideEntry } from '#core/schema/grading'
import type { ReceivedStatement } from '#core/schema/watching'
import { PART_SIZE, type UploadStart } from '#core/schema/publication'
import type { QuestionKey } from '#core/schema/questions'
import { watchStatement, type Stretch } from '#core/results/played'
import { checkpoint, placeOf, publication, setOf } from '../../test/publication'

let folder: string
let close: () => Promise<void>
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'thaw-stored-'))
  close = async () => undefined
})
afterEach(async () => {
  await close()
  await rm(folder, { recursive: true })
})

/** The modules as after a restart: nothing in memory, the storage as it was. */
async function restart() {
  await close()
  vi.resetModules()
  const { openFileStore } = await import('../store/files')
  const { setStore } = await import('./storage')
  const store = await openFileStore({ folder, log: () => undefined })
  setStore(store)
  close = () => store.close()
  return {
    store,
    publications: await import('./publications'),
    responses: await import('./responses'),
    grading: await import('./grading'),
    watching: await import('./watching'),
    forgetting: await import('./forgetting'),
    audit: await import('./audit'),
    live: await import('./live'),
    demo: await import('./demo'),
    upgrade: await import('./upgrade'),
    places: await import('./places'),
    pictures: await import('./pictures'),
  }
}
type Modules = Awaited<ReturnType<typeof restart>>

const media = new Uint8Array(2 * PART_SIZE + 100).map((_, i) => (i * 7) % 256)
const parts = [0, 1, 2].map((i) => media.subarray(i * PART_SIZE, (i + 1) * PART_SIZE))
const sha = (b: Uint8Array) => createHash('sha256').update(b).digest('hex')
const start = (title: string, questions: string[] = [], right = 'a'): UploadStart => {
  const asked = questions.map((id) => checkpoint(`cp-${id}`, 1, id))
  return publication('p', title, 5, { size: media.length, parts: parts.map(sha) }, asked, right)
}
async function send({ publications }: Modules, what: UploadStart): Promise<string> {
  const { version: upload } = await publications.startUpload('p', what)
  for (const [i, part] of parts.entries()) await publications.putPart('p', upload, 'screen.mp4', i, part)
  return upload
}
async function publish(modules: Modules, what: UploadStart): Promise<string> {
  const upload = await send(modules, what)
  await modules.publications.commitUpload('p', upload)
  return upload
}
async function bytes(slices: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = []
  for await (const slice of slices) all.push(slice)
  return Buffer.concat(all)
}
const files = async () =>
  (await readdir(folder, { recursive: true, withFileTypes: true }))
    .filter((e) => e.isFile() && !e.parentPath.endsWith('starts'))
    .map((e) => join(e.parentPath, e.name).slice(folder.length + 1))
const whole = async ({ publications }: Modules) => {
  const found = (await publications.readPublication('p'))!
  return (
    Buffer.compare(
      await bytes(publications.readRange(found.version, found.manifest.files[0]!, 0, media.length - 1)),
      media,
    ) === 0
  )
}

const rightOf = (key?: QuestionKey) => (key?.kind === 'one-right' ? key.right : undefined)

describe('a publication', () => {
  it('is there after a restart, and every range of it is right', async () => {
    await publish(await restart(), start('one'))
    const { publications } = await restart()
    const found = await publications.readPublication('p')
    expect(found?.manifest.title).toBe('one')
    const ranges = [
      [0, media.length - 1],
      [0, 0],
      [PART_SIZE - 1, PART_SIZE],
      [PART_SIZE + 5, 2 * PART_SIZE + 50],
      [media.length - 1, media.length - 1],
    ] as const
    for (const [from, to] of ranges)
      expect(
        Buffer.compare(
          await bytes(publications.readRange(found!.version, found!.manifest.files[0]!, from, to)),
          Buffer.from(media.subarray(from, to + 1)),
        ),
      ).toBe(0)
  })
  it('that was replaced can be watched to its end for a day, and its keys stay', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const modules = await restart()
    const { publications } = modules
    const one = await publish(modules, start('one', ['q']))
    const two = await publish(modules, start('two'))
    await publications.removeReplaced()
    expect(await modules.store.parts.names('media')).toEqual(expect.arrayContaining([one, two]))
    // By those alone who began before it was replaced.
    const watched = async (began: number) =>
      (await publications.readWatched('p', one, new Date(began).toISOString()))?.manifest.title
    expect([await watched(Date.now() - 60_000), await watched(Date.now() + 1)]).toEqual(['one', undefined])
    vi.setSystemTime(Date.now() + 25 * 3600 * 1000)
    await publications.removeReplaced()
    expect(await modules.store.parts.names('media')).toEqual([two])
    expect(await watched(0)).toBeUndefined()
    const setOfOne = (await publications.readVersionOf('p', one))!.sets[0]!
    expect(setOfOne.keys.keys).toHaveLength(1)
    const { sets, current } = await publications.gradedSets(placeOf('pl', 'p', 'c'), new Set([setOfOne.version]))
    expect(sets.map((s) => s.checkpoints.length)).toEqual([1, 0])
    expect(current).toEqual([(await publications.readVersionOf('p', two))!.sets[0]!.version])
    vi.useRealTimers()
  })
  it('is removed at once, with the captions that were replaced, when that is asked for', async () => {
    const modules = await restart()
    const { publications } = modules
    const track = (text: string) => ({ language: 'en', role: 'captions' as const, text })
    const one = await publish(modules, { ...start('one'), captions: [track('WEBVTT 1')] })
    const two = await publish(modules, { ...start('two'), captions: [track('WEBVTT 2')] })
    const before = (await publications.readPublication('p'))!.captions!.version
    await publications.publishCaptions('p', { version: two, captions: [track('WEBVTT 3')] })
    expect(await publications.removeEarlier('p')).toBe(3)
    expect(await modules.store.parts.names('media')).toEqual([two])
    expect(await publications.captionVersions().ids()).toHaveLength(1)
    const long = '2000-01-01T00:00:00.000Z'
    expect(await publications.readWatched('p', one, long)).toBeNull()
    expect(await publications.readTrackOf('p', before, 'captions-en', long)).toBeNull()
    expect((await publications.readPublication('p'))?.captions?.tracks).toEqual([track('WEBVTT 3')])
    expect(await publications.removeEarlier('p')).toBe(0)
    expect(await whole(modules)).toBe(true)
    await expect(publications.removeEarlier('never')).rejects.toMatchObject({ statusCode: 404 })
  })
  it('stays whole however often the same commit comes at once', async () => {
    const modules = await restart()
    await publish(modules, start('one'))
    const upload = await send(modules, start('two'))
    await Promise.all([1, 2, 3, 4].map(() => modules.publications.commitUpload('p', upload)))
    await modules.publications.commitUpload('p', upload)
    expect((await modules.publications.readPublication('p'))?.manifest.title).toBe('two')
    expect(await whole(modules)).toBe(true)
  })
  it('is the old or the new one, and whole, when it is given up while it is committed', async () => {
    const modules = await restart()
    await publish(modules, start('one'))
    for (const order of [
      ['commit', 'abort'],
      ['abort', 'commit'],
      ['commit', 'abort', 'commit', 'abort'],
    ] as const) {
      const upload = await send(modules, start('next'))
      const acts = {
        commit: () => modules.publications.commitUpload('p', upload),
        abort: () => modules.publications.abortUpload('p', upload),
      }
      const done = await Promise.allSettled(order.map((what) => acts[what]()))
      const committed = done.some((d, i) => order[i] === 'commit' && d.status === 'fulfilled')
      expect((await modules.publications.readPublication('p'))?.version === upload).toBe(committed)
      expect(await whole(modules)).toBe(true)
      if (committed) await expect(acts.abort()).rejects.toThrow(/published already/)
    }
  })
  it('can be read at any moment of a commit', async () => {
    const modules = await restart()
    await publish(modules, start('one'))
    for (let i = 0; i < 5; i++) {
      const upload = await send(modules, start(`${i}`))
      const reads = Array.from({ length: 8 }, () => whole(modules))
      await modules.publications.commitUpload('p', upload)
      expect(await Promise.all([...reads, whole(modules)])).not.toContain(false)
    }
  })
  it('keeps an upload over a restart, and leaves nothing of what no upload and no publication names', async () => {
    let modules = await restart()
    await publish(modules, start('one'))
    const before = (await files()).sort()
    const upload = await send(modules, start('two'))
    // A kill between any two lines leaves one of these behind.
    await modules.store.parts.write('media/lost-version/media.mp4/000000', parts[0]!)
    const lost = start('lost')
    await modules.publications.versions().write('lost-document', { publicationId: 'p', manifest: lost.manifest })
    await modules.publications.setVersions().write('lost-set', { publicationId: 'p', ...lost.sets[0]! })
    await modules.publications.captionVersions().write('lost-captions', { publicationId: 'p', tracks: [] })
    modules = await restart()
    await modules.publications.removeOrphans()
    await modules.publications.commitUpload('p', upload)
    expect(await whole(modules)).toBe(true)
    // It stays a month, should whatever named it be put back.
    expect((await files()).filter((f) => f.includes('lost') && !f.includes('orphans'))).toHaveLength(4)
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(Date.now() + 31 * 24 * 3600 * 1000)
    modules = await restart()
    await modules.publications.removeOrphans()
    vi.useRealTimers()
    expect((await files()).some((f) => f.includes('lost'))).toBe(false)
    const given = await send(modules, start('three'))
    await modules.publications.abortUpload('p', given)
    const { sets, captions } = (await modules.publications.readPublication('p'))!
    const counting = [upload, sets[0]!.version, captions!.version]
    expect((await files()).filter((f) => !counting.some((v) => f.includes(v))).sort()).toEqual(before)
  })
  it('whose document cannot be read keeps its media until a person has looked', async () => {
    let modules = await restart()
    const one = await publish(modules, start('one'))
    await writeFile(join(folder, 'documents/publications/p.json'), '{"curr')
    modules = await restart()
    await modules.publications.removeOrphans()
    expect(await modules.publications.readPublication('p')).toBeNull()
    expect(await modules.store.parts.names('media')).toEqual([one])
    vi.useFakeTimers({ toFake: ['Date'] })
    vi.setSystemTime(Date.now() + 31 * 24 * 3600 * 1000)
    modules = await restart()
    await modules.publications.removeOrphans()
    vi.useRealTimers()
    expect(await modules.store.parts.names('media')).toEqual([one])
    expect((await modules.store.setAside())[0]?.says).toMatch(/“p” \(publications\) could not be read/)
  })
  it('one bit of whose document has changed loses nothing: put back, it is as it was', async () => {
    let modules = await restart()
    const one = await publish(modules, start('one'))
    const path = join(folder, 'documents/publications/p.json')
    const text = await readFile(path, 'utf8')
    const at = text.indexOf(`"versions":[{"version":"${one}`) + '"versions":[{"version":"'.length
    await writeFile(path, text.slice(0, at) + String.fromCharCode(text.charCodeAt(at) ^ 1) + text.slice(at + 1))
    for (let day = 0; day < 3; day++) {
      modules = await restart()
      await modules.publications.removeOrphans()
      await modules.publications.removeReplaced()
    }
    expect((await modules.store.setAside())[0]?.says).toMatch(/“p” \(publications\) could not be read/)
    await writeFile(path, text)
    modules = await restart()
    expect(await whole(modules)).toBe(true)
  })
  it('whose document the disk does not give keeps nobody from being served', async () => {
    let modules = await restart()
    await publish(modules, start('one'))
    await mkdir(join(folder, 'documents/publications/other.json'))
    modules = await restart()
    await modules.publications.removeOrphans()
    await modules.publications.removeReplaced()
    expect(await whole(modules)).toBe(true)
    await expect(modules.publications.readPublication('other')).rejects.toThrow(/EISDIR/)
  })
  it('nobody goes on with is given up after an hour, and not while its parts still come', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const { publications, store } = await restart()
    const { version: slow } = await publications.startUpload('p', start('slow'))
    const { version: dead } = await publications.startUpload('p', start('dead'))
    for (const [i, part] of parts.entries()) {
      vi.setSystemTime(Date.now() + 50 * 60 * 1000)
      await publications.putPart('p', slow, 'screen.mp4', i, part)
      await publications.giveUpStale()
    }
    await publications.commitUpload('p', slow)
    await expect(publications.commitUpload('p', dead)).rejects.toThrow(/not open any more/)
    expect(await store.parts.names('media')).toEqual([slow])
    vi.useRealTimers()
  })
  it('goes on beside one other of the same lecture; a third takes the place of what has not come on for longest', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const { publications, store } = await restart()
    const opened: string[] = []
    for (const title of ['first', 'second', 'third']) {
      vi.setSystemTime(Date.now() + 60_000)
      opened.push((await publications.startUpload('p', start(title))).version)
      vi.setSystemTime(Date.now() + 1000)
      if (title === 'second') await publications.putPart('p', opened[0]!, 'screen.mp4', 0, parts[0]!)
    }
    vi.useRealTimers()
    const put = (version: string) => publications.putPart('p', version, 'screen.mp4', 1, parts[1]!)
    await put(opened[0]!)
    await put(opened[2]!)
    await expect(put(opened[1]!)).rejects.toThrow(/not open any more/)
    expect((await store.parts.names('media')).sort()).toEqual([opened[0]!, opened[2]!].sort())
  })
  it('is refused when too many are under way', async () => {
    const { publications } = await restart()
    const opened = await Promise.allSettled(
      Array.from({ length: 80 }, (_, i) => {
        const upload = start('many')
        const sets = upload.sets.map(({ set, keys }) => ({
          set: { ...set, publicationId: `p${i}` },
          keys: { ...keys, publicationId: `p${i}` },
        }))
        return publications.startUpload(`p${i}`, { ...upload, manifest: { ...upload.manifest, id: `p${i}` }, sets })
      }),
    )
    expect(opened.filter((o) => o.status === 'fulfilled')).toHaveLength(64)
    expect(opened.find((o) => o.status === 'rejected')?.reason).toMatchObject({ statusCode: 429 })
  })
  it('is refused when all that is under way is more than the server takes', async () => {
    const { publications } = await restart()
    const large = start('large')
    large.manifest.files[0] = {
      ...large.manifest.files[0]!,
      size: 20 * 2 ** 30,
      parts: new Array<string>(20 * 1024).fill(sha(media)),
    }
    const opened = await Promise.allSettled([1, 2, 3, 4].map(() => publications.startUpload('p', large)))
    expect(opened.filter((o) => o.status === 'fulfilled')).toHaveLength(3)
    expect(opened.find((o) => o.status === 'rejected')).toMatchObject({ reason: { statusCode: 413 } })
  })
})

describe('sets of questions', () => {
  const place = placeOf('pl', 'p', 'c')
  const sent = (questions: string[], right = 'a', id = place.sets[0]!) =>
    setOf(
      'p',
      id,
      questions.map((q) => checkpoint(`cp-${q}`, 1, q)),
      right,
    )

  it('are published anew without the media, each version once, and answers are graded by the one that was seen', async () => {
    const modules = await restart()
    const { publications, responses } = modules
    const version = await publish(modules, start('one', ['q1']))
    const before = (await publications.readPublication('p'))!.sets[0]!.version
    const first = await publications.publishSets('p', { version, sets: [sent(['q1', 'q2'], 'b')] })
    // Sent again, as after an answer that was lost.
    expect(await publications.publishSets('p', { version, sets: [sent(['q1', 'q2'], 'b')] })).toEqual(first)
    const now = (await publications.readPublication('p'))!
    expect([now.version, now.sets.length, now.sets[0]?.version]).toEqual([version, 1, first.sets[place.sets[0]!]])
    expect(await whole(modules)).toBe(true)
    const answer = {
      id: 'e',
      kind: 'answer',
      questionId: 'q1',
      answer: { kind: 'one-right', choice: 'a' },
      at: '2026-11-23T10:00:00.000Z',
    }
    const { taken } = await responses.sortEvents(place, now, [{ ...answer, version: before }])
    expect(taken.map((e) => e.version)).toEqual([before])
    const { sets, current } = await publications.gradedSets(place, new Set([before]))
    expect(sets.map((s) => rightOf(s.keys[0]))).toEqual(['a', 'b'])
    expect(current).toEqual([now.sets[0]?.version])
    // Whoever began with the earlier one goes on with it.
    expect(
      (await publications.readWatched('p', version, '2000-01-01T00:00:00.000Z', [before]))?.sets.map((s) => s.version),
    ).toEqual([before])
  })
  it('are refused for a version that does not count any more, and leave nothing', async () => {
    const modules = await restart()
    const { publications } = modules
    const version = await publish(modules, start('one', ['q1']))
    await publish(modules, start('two', ['q1']))
    const kept = (await files()).sort()
    await expect(publications.publishSets('p', { version, sets: [sent(['q1'], 'b')] })).rejects.toMatchObject({
      statusCode: 409,
    })
    const { version: current } = (await publications.readPublication('p'))!
    const behind = setOf('p', 'x', [checkpoint('cp', 99, 'q1')])
    await expect(publications.publishSets('p', { version: current, sets: [behind] })).rejects.toThrow(/behind the end/)
    // A question has one id over all sets: an answer names it alone.
    const twice = setOf('p', 'second', [checkpoint('cp', 1, 'q1')])
    await expect(publications.publishSets('p', { version: current, sets: [twice] })).rejects.toThrow(/twice/)
    expect((await files()).sort()).toEqual(kept)
  })
  it('do not replace unseen what another browser published, and name it', async () => {
    const modules = await restart()
    const { publications } = modules
    const id = place.sets[0]!
    const version = await publish(modules, start('one', ['q1']))
    const known = { [id]: (await publications.readPublication('p'))!.sets[0]!.version }
    const upload = await send(modules, { ...start('two', ['q1'], 'b'), known })
    const other = await publications.publishSets('p', { version, sets: [sent(['q1', 'q2'])], known })
    // Sent again, as after an answer that was lost: it is there already.
    expect(await publications.publishSets('p', { version, sets: [sent(['q1', 'q2'])], known })).toEqual(other)
    const mine = { version, sets: [sent(['q1'], 'b')] }
    const refusal = { statusCode: 412, message: expect.stringMatching(/published from another browser/) as string }
    await expect(publications.publishSets('p', { ...mine, known })).rejects.toMatchObject(refusal)
    await expect(publications.startUpload('p', { ...start('two', ['q1'], 'b'), known })).rejects.toMatchObject(refusal)
    await expect(publications.commitUpload('p', upload)).rejects.toMatchObject(refusal)
    expect((await publications.readPublication('p'))!.sets[0]!.version).toBe(other.sets[id])
    const after = await publications.publishSets('p', { ...mine, known: other.sets })
    expect((await publications.readPublication('p'))!.sets[0]!.version).toBe(after.sets[id])
  })
  it('are several, of which a place asks its own', async () => {
    const modules = await restart()
    const { publications, responses } = modules
    const what = start('one', ['q1'])
    await publish(modules, { ...what, sets: [...what.sets, sent(['q2'], 'a', 'second')] })
    const now = (await publications.readPublication('p'))!
    const asks = (sets: string[]) =>
      publications.askedAt(placeOf('pl', 'p', 'c', { sets }), now).flatMap((s) => s.set.checkpoints.map((c) => c.id))
    expect([asks(place.sets), asks(['second']), asks([]), asks(['gone', 'second'])]).toEqual([
      ['cp-q1'],
      ['cp-q2'],
      [],
      ['cp-q2'],
    ])
    const answer = (questionId: string) => ({
      id: questionId,
      kind: 'answer',
      questionId,
      answer: { kind: 'one-right', choice: 'a' },
      at: '2026-11-23T10:00:00.000Z',
    })
    const { taken, refused } = await responses.sortEvents(place, now, [answer('q1'), answer('q2')])
    expect([taken.map((e) => e.id), refused.map((e) => e.id)]).toEqual([['q1'], ['q2']])
    // Not by naming it either; and what has no name that can be told is told by its place.
    const { version } = now.sets.find(({ set }) => set.id === 'second')!
    const named = await responses.sortEvents(place, now, [
      ...[{ ...answer('q2'), version }, { ...answer('q1'), id: { toString: null } }, answer('q1')],
      { ...answer('q1'), id: 'hand-in', kind: 'hand-in', version, questionId: undefined, answer: undefined },
    ])
    expect([named.taken.map((e) => e.id), named.refused.map((e) => e.id)]).toEqual([['q1'], ['q2', '1', 'hand-in']])
  })
})

describe('captions', () => {
  const track = (text: string, language = 'en') => ({
    ...{ language, role: 'captions' as const },
    text: `WEBVTT\n\n00:00.000 --> 00:01.000\n${text}\n`,
  })
  it('are published anew without the media; what they said before goes at the next start', async () => {
    let modules = await restart()
    const version = await publish(modules, { ...start('one'), captions: [track('first')] })
    const first = (await modules.publications.readPublication('p'))!.captions!
    expect(first.tracks).toEqual([track('first')])
    const both = [track('second'), track('zweitens', 'de')]
    for (let n = 0; n < 3; n++) await modules.publications.publishCaptions('p', { version, captions: both })
    expect((await modules.publications.publications().read('p'))!.captions).toHaveLength(2)
    modules = await restart()
    await modules.publications.removeOrphans()
    const { captions } = (await modules.publications.readPublication('p'))!
    expect(captions!.tracks).toEqual(both)
    const read = (v: string, key: string) =>
      modules.publications.readTrackOf('p', v, key, new Date(Date.now() + 1).toISOString())
    expect(await read(captions!.version, 'captions-de')).toBe(both[1]!.text)
    expect(await read(captions!.version, 'captions-fr')).toBeNull()
    expect(await read(first.version, 'captions-en')).toBeNull()
    expect(await modules.publications.readTrackOf('other', captions!.version, 'captions-de', '')).toBeNull()
  })
  it('are refused for a version that does not count any more, and where one cannot be read', async () => {
    const modules = await restart()
    const before = await publish(modules, start('one'))
    const version = await publish(modules, { ...start('two'), captions: [track('here')] })
    const send = (of: string, captions: UploadStart['captions']) =>
      modules.publications.publishCaptions('p', { version: of, captions })
    await expect(send(before, [track('late')])).rejects.toMatchObject({ statusCode: 409 })
    await expect(send(version, [{ ...track('x'), text: 'WEBVTT\n\nno cue' }])).rejects.toMatchObject({
      statusCode: 400,
    })
    await expect(send(version, [track('a'), track('b')])).rejects.toMatchObject({ statusCode: 400 })
    expect((await modules.publications.readPublication('p'))!.captions!.tracks).toEqual([track('here')])
  })
  it('go with an upload that is given up', async () => {
    const modules = await restart()
    const { version } = await modules.publications.startUpload('p', { ...start('one'), captions: [track('a')] })
    expect(await modules.publications.captionVersions().ids()).toHaveLength(1)
    await modules.publications.abortUpload('p', version)
    expect(await modules.publications.captionVersions().ids()).toEqual([])
  })
})

describe('a lecture that is held', () => {
  const announcement = {
    place: placeOf('pl', 'p', 'c', { from: '2026-11-26T08:00:00.000Z' }),
    title: 'T',
    startsAt: '2026-11-26T10:00:00.000Z',
  }
  const segment = (run: number, n: number) => ({ run, n, duration: 1.5 })
  const kept = async ({ store }: Modules) =>
    (await Promise.all((await store.parts.names('live/pl')).map((run) => store.parts.names(`live/pl/${run}`)))).flat()
      .length

  it('goes on after a restart where it was, and keeps no more than can be watched', async () => {
    const modules = await restart()
    const { live } = modules
    await live.announce(announcement)
    for (let run = 1; run <= 2; run++) {
      expect((await live.transitionBroadcast('pl', { to: 'on' })).run).toBe(run)
      await live.putInit('pl', run, new Uint8Array(5))
      for (let n = 0; n < 100; n++) await live.putSegment('pl', segment(run, n), Uint8Array.from([run, n]))
    }
    // Three minutes are 120 segments, of both runs.
    expect(await kept(modules)).toBe(122)
    const again = await restart()
    expect((await again.live.broadcasts().read('pl'))?.segments).toHaveLength(120)
    for (let n = 100; n < 130; n++) await again.live.putSegment('pl', segment(2, n), Uint8Array.from([2, n]))
    expect(await again.live.liveSize('pl', 1, 'init')).toBeNull()
    expect(Array.from(await bytes(again.live.readLive('pl', 2, '129', 2)))).toEqual([2, 129])
    expect(await kept(again)).toBe(121)
    await again.live.announce({ ...announcement, title: 'Another' })
    expect(await again.live.broadcasts().read('pl')).toMatchObject({ title: 'Another', state: 'on', run: 2 })
    await again.live.endBroadcast('pl')
    expect((await files()).filter((f) => f.includes('live') || f.includes('broadcasts'))).toEqual([])
  })
  it('counts who watches now', async () => {
    const { live } = await restart()
    vi.useFakeTimers({ toFake: ['Date'] })
    for (const id of ['s1', 's2', 's1']) live.isWatching('pl', id)
    expect(live.watching('pl')).toBe(2)
    vi.setSystemTime(Date.now() + 8000)
    live.isWatching('pl', 's2')
    vi.setSystemTime(Date.now() + 8000)
    expect(live.watching('pl')).toBe(1)
    vi.useRealTimers()
  })
})

describe('pictures of questions', () => {
  const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3])
  it('are kept once by what is in them, and a set that shows another is refused', async () => {
    const modules = await restart()
    const { putPicture, readPicture } = modules.pictures
    const upload = start('one', ['q'])
    const picture = { kind: 'picture' as const, file: sha(png), description: 'Firn', width: 8, height: 8 }
    upload.sets[0]!.keys.keys[0]!.explanation = [picture]
    await expect(publish(modules, upload)).rejects.toMatchObject({ statusCode: 409 })
    await putPicture('p', sha(png), png)
    await putPicture('p', sha(png), png)
    await publish(modules, upload)
    const again = await restart()
    const found = await again.pictures.readPicture('p', sha(png))
    expect([found?.type, Buffer.from(found?.bytes ?? []).equals(png)]).toEqual(['image/png', true])
    expect(await readPicture('other', sha(png))).toBeNull()
    expect((await files()).filter((f) => f.includes('pictures'))).toHaveLength(1)
  })
  it('that are damaged, or something else, or named as a path, are refused', async () => {
    const { pictures } = await restart()
    const svg = new TextEncoder().encode('<svg onload="x()"/>')
    await expect(pictures.putPicture('p', sha(svg), svg)).rejects.toThrow(/PNG, JPEG or WebP/)
    await expect(pictures.putPicture('p', sha(svg), png)).rejects.toThrow(/damaged/)
    await expect(pictures.putPicture('p', '../secrets/x', png)).rejects.toThrow(/SHA-256/)
    expect(await pictures.readPicture('p', '../secrets/x')).toBeNull()
  })
})

describe('answers', () => {
  const place = placeOf('place', 'p', 'c')
  const student = (subject: string) => ({ issuer: FIRST_ISSUER, subject, name: subject })
  const event = (id: string, questionId = 'q1', kind: AnswerEvent['kind'] = 'answer', choice = 'a'): AnswerEvent => ({
    ...{ id, kind, questionId, at: '2026-11-23T10:00:00.000Z' },
    answer: { kind: 'one-right', choice },
  })
  async function keep({ publications, responses }: Modules, who: string, events: unknown[]) {
    const current = (await publications.readPublication('p'))!
    const { taken, refused } = await responses.sortEvents(place, current, events)
    return [...refused, ...(await responses.keepEvents(place, student(who), taken))]
  }

  it('that come at the same time are all kept, once, each with a number of its own', async () => {
    const modules = await restart()
    await publish(modules, start('one', ['q1']))
    await Promise.all(Array.from({ length: 40 }, (_, i) => keep(modules, `s${i % 20}`, [event(`e${i % 20}`)])))
    const again = await restart()
    await keep(again, 's1', [event('e1'), event('e99')])
    const all = await again.responses.answersAt('place')
    expect(all.map((e) => e.student.subject).sort()).toEqual(Array.from({ length: 20 }, (_, i) => `s${i}`).sort())
    expect(await again.responses.answersAt('place', all[18]!.seq)).toEqual([all[19]])
  })
  it('stand as first given; of what is only chosen the latest is kept, and nothing after the answer', async () => {
    const modules = await restart()
    await publish(modules, start('one', ['q1', 'q2']))
    for (let i = 0; i < 30; i++) await keep(modules, 's', [event(`c${i}`, 'q1', 'select', i % 2 ? 'a' : 'b')])
    expect(await modules.responses.begunBy('place', student('s'))).toEqual({
      q1: { attempt: 1, answer: { kind: 'one-right', choice: 'a' } },
    })
    await Promise.all([
      keep(modules, 's', [event('x', 'q1', 'answer', 'b')]),
      keep(modules, 's', [event('y', 'q1', 'answer', 'a')]),
    ])
    await keep(modules, 's', [
      event('z', 'q1', 'answer', 'a'),
      event('late', 'q1', 'select', 'a'),
      event('other', 'q2', 'select', 'b'),
    ])
    expect(
      (await modules.responses.answersOf('place', student('s'))).map(
        (e) => isAnswerEvent(e.event) && e.event.questionId,
      ),
    ).toEqual(['q1'])
    expect(await modules.responses.begunBy('place', student('s'))).toEqual({
      q2: { attempt: 1, answer: { kind: 'one-right', choice: 'b' } },
    })
    expect((await files()).filter((f) => f.startsWith('journals') || f.includes('selections'))).toHaveLength(2)
  })
  it('are taken by the version they were given on, and only what never can be is refused, by name', async () => {
    const modules = await restart()
    const one = await publish(modules, start('one', ['q1', 'q2', 'q3']))
    await publish(modules, start('two', ['q1', 'q3'], 'b'))
    const refused = await keep(modules, 's', [
      { ...event('1', 'q1'), version: one },
      { ...event('2', 'q2'), version: one },
      { ...event('3', 'q3'), version: one },
      event('4', 'q2'),
      { ...event('5', 'q1'), points: 9 },
      'rubbish',
      { ...event('6', 'q1'), answer: { kind: 'one-right', choice: 'z' } },
      { ...event('7', 'q1'), answer: { kind: 'true-false', value: true } },
    ])
    expect(refused.map((r) => r.id)).toEqual(['4', '5', '5', '6', '7'])
    const asked = (await modules.publications.readVersionOf('p', one))!.sets[0]!.version
    const kept = await modules.responses.answersOf('place', student('s'))
    expect(kept.map((e) => [e.event.id, e.event.version])).toEqual([
      ['1', asked],
      ['2', asked],
      ['3', asked],
    ])
    const { sets } = await modules.publications.gradedSets(place, new Set([asked]))
    expect(sets.find((s) => s.version === asked)?.keys.map(rightOf)).toEqual(['a', 'a', 'a'])
  })
  it('go on with what was begun where the lecture is published anew meanwhile, and only what changed runs out', async () => {
    vi.useFakeTimers({ toFake: ['Date'] })
    const modules = await restart()
    const upload = start('one', ['q1', 'q2', 'q3', 'q4'])
    await publish(modules, upload)
    const { version } = (await modules.publications.readPublication('p'))!.sets[0]!
    vi.setSystemTime(Date.now() + 60_000)
    const [set] = start('two', ['q1', 'q2', 'q3', 'q4']).sets
    for (const key of set!.keys.keys) if (key.kind === 'one-right' && key.questionId !== 'q1') key.right = 'b'
    await publish(modules, { ...start('two'), sets: [set!] })
    const old = (id: string, questionId: string) => ({ ...event(id, questionId), version })
    // What is asked alike says nothing of having gone on to the newer one.
    vi.setSystemTime(Date.now() + 60_000)
    expect(await keep(modules, 's', [old('1', 'q1'), old('2', 'q2')])).toEqual([])
    vi.setSystemTime(Date.now() + 3 * 3600 * 1000)
    expect((await keep(modules, 'other', [old('3', 'q1'), old('4', 'q2')])).map((r) => r.id)).toEqual(['4'])
    // Whoever answered as it is asked now does not go back.
    expect(await keep(modules, 's', [event('5', 'q3')])).toEqual([])
    vi.setSystemTime(Date.now() - 3 * 3600 * 1000)
    expect((await keep(modules, 's', [old('6', 'q4')])).map((r) => r.why)).toEqual([
      expect.stringMatching(/Reload the page/),
    ])
    vi.useRealTimers()
  })
  it('are so many, and no more, of one person; that is said', async () => {
    const modules = await restart()
    const upload = start('one', ['q1'])
    upload.sets[0]!.set.policy = { ...DEFAULT_POLICY, changes: true }
    await publish(modules, upload)
    const give = (from: number) =>
      Array.from({ length: 2600 }, (_, i) => event(`e${from + i}`, 'q1', 'answer', i % 2 ? 'a' : 'b'))
    expect(await keep(modules, 's', give(0))).toEqual([])
    const refused = await keep(modules, 's', give(2600))
    expect([refused.length, refused[0]?.why]).toEqual([200, expect.stringMatching(/More than 5000 answers/)])
    expect(await keep(modules, 'other', [event('x')])).toEqual([])
  })
  it('of several attempts follow on one another, after a restart and with everything sent twice too', async () => {
    const modules = await restart()
    const upload = start('one', ['q1', 'q2'])
    upload.sets[0]!.set.policy = { ...DEFAULT_POLICY, changes: true, attempts: { most: 2, counts: 'best' } }
    await publish(modules, upload)
    const { version } = (await modules.publications.readPublication('p'))!.sets[0]!
    const step = (kind: 'begin' | 'hand-in', attempt = 1) => ({
      ...{ id: `${kind}-${attempt}`, kind, attempt, version, at: '2026-11-23T10:00:00.000Z' },
    })
    const give = (id: string, choice: string, attempt = 1) => ({ ...event(id, 'q1', 'answer', choice), attempt })
    const first = [give('1', 'a'), give('2', 'b'), step('hand-in')]
    expect((await keep(modules, 's', [step('begin', 2)])).map((r) => r.why)).toEqual([
      expect.stringMatching(/cannot begin/),
    ])
    for (let i = 0; i < 2; i++) expect(await keep(modules, 's', first)).toEqual([])
    const late = await keep(modules, 's', [give('3', 'a'), event('4', 'q2', 'select')])
    expect(late.map((r) => [r.id, r.why])).toEqual([
      ['3', expect.stringMatching(/handed in before/)],
      ['4', expect.stringMatching(/handed in before/)],
    ])
    const again = await restart()
    // Two tabs begin the second one at once.
    const both = await Promise.all([
      keep(again, 's', [step('begin', 2)]),
      keep(again, 's', [{ ...step('begin', 2), id: 'other' }]),
    ])
    expect(both).toEqual([[], []])
    expect(await keep(again, 's', [give('5', 'a', 2), event('6', 'q2', 'select', 'b')])).toHaveLength(1)
    expect(await keep(again, 's', [{ ...event('7', 'q2', 'select', 'b'), attempt: 2 }])).toEqual([])
    const { attempts } = await again.responses.progressOf(place, student('s'))
    const made = [...attempts.values()][0]
    expect(made?.map(({ questions, endedAt }) => [questions.get('q1'), endedAt !== null])).toMatchObject([
      [{ kind: 'answered', answer: { choice: 'b' } }, true],
      [{ kind: 'answered', answer: { choice: 'a' } }, false],
    ])
    expect(await again.responses.begunBy('place', student('s'))).toMatchObject({ q2: { attempt: 2 } })
    expect((await keep(again, 's', [step('hand-in', 2), step('begin', 3)])).map((r) => r.id)).toEqual(['begin-3'])
  })
})

describe('what an earlier version of Thaw wrote', () => {
  const student = { id: 's1', name: 'Aino' }
  const answer = (seq: number, event: object) => ({
    seq,
    receivedAt: '2026-11-23T10:00:00.000Z',
    placeId: 'pl',
    student,
    event: { at: '2026-11-23T10:00:00.000Z', questionId: 'q', choiceId: 'a', ...event },
  })
  async function old(path: string, what: unknown): Promise<void> {
    await mkdir(dirname(join(folder, path)), { recursive: true })
    await writeFile(
      join(folder, path),
      what instanceof Uint8Array || typeof what === 'string' ? what : JSON.stringify(what),
    )
  }
  /** As servers before 0.2 were sent it. */
  const version1 = {
    format: 'thaw-publication',
    version: 1,
    id: 'p',
    title: 'old',
    description: '',
    language: 'en',
    duration: 5,
    width: 2,
    height: 2,
    madeAt: '2026-11-23T00:00:00.000Z',
    files: [{ name: 'media.mp4', type: 'video/mp4', size: media.length, parts: parts.map(sha) }],
    checkpoints: [checkpoint('cp-q', 1, 'q')],
  }
  it('are answers of people without a site: they stay theirs, and theirs go on in the same journal', async () => {
    const modules = await restart()
    await publish(modules, start('one', ['q1', 'q2']))
    const place = placeOf('place', 'p', 'c')
    const give = async ({ publications, responses }: Modules, who: Student, questionId: string) => {
      const current = (await publications.readPublication('p'))!
      const given = {
        id: questionId,
        kind: 'answer',
        questionId,
        answer: { kind: 'one-right', choice: 'a' },
        at: '2026-11-23T10:00:00.000Z',
      }
      await responses.keepEvents(place, who, (await responses.sortEvents(place, current, [given])).taken)
    }
    const now = { issuer: FIRST_ISSUER, subject: 's1', name: 'Aino' }
    await give(modules, now, 'q1')
    const [journal] = (await files()).filter((f) => f.startsWith('journals'))
    const line = JSON.parse(await readFile(join(folder, journal!), 'utf8')) as {
      sum?: string
      entry: { student: unknown }
    }
    line.entry.student = student
    // Lines had no checksum then.
    delete line.sum
    await writeFile(join(folder, journal!), `${JSON.stringify(line)}\n`)
    const after = await restart()
    expect((await after.responses.answersAt('place')).map((e) => e.student)).toEqual([now])
    await give(after, now, 'q2')
    const other = { issuer: 'https://other.example', subject: 's1' }
    await give(after, other, 'q1')
    expect(
      (await after.responses.answersOf('place', now)).map((e) => isAnswerEvent(e.event) && e.event.questionId),
    ).toEqual(['q1', 'q2'])
    expect(
      (await after.responses.answersOf('place', other)).map((e) => isAnswerEvent(e.event) && e.event.questionId),
    ).toEqual(['q1'])
  })
  it('is read where its manifest carries its questions, and has one picture', async () => {
    const { keys } = start('old', ['q']).sets[0]!
    await old('documents/versions/v1.json', { publicationId: 'p', manifest: version1, keys })
    const entry = { version: 'v1', committedAt: version1.madeAt, replacedAt: null, media: true }
    await old('documents/publications/p.json', { current: 'v1', versions: [entry] })
    const modules = await restart()
    await modules.upgrade.upgradeFolder(folder, modules.store)
    await modules.publications.removeOrphans()
    const found = await modules.publications.readPublication('p')
    expect(found?.manifest.feeds).toEqual([{ id: 'screen', file: 'media.mp4', width: 2, height: 2 }])
    expect(found?.sets[0]?.set.checkpoints).toEqual(version1.checkpoints)
  })
  it('asks its only set at its only place, takes what was answered to it, and goes on with an open upload', async () => {
    const { manifest, sets } = start('old', ['q'])
    const { keys, set } = sets[0]!
    const only = { format: set.format, version: 1, publicationId: 'p', checkpoints: set.checkpoints }
    const entry = { version: 'v1', committedAt: manifest.madeAt, replacedAt: null, media: true }
    await old('documents/publications/p.json', { current: 'v1', versions: [entry] })
    for (const version of ['v1', 'v2'])
      await old(`documents/versions/${version}.json`, { publicationId: 'p', manifest, set: only, keys })
    await old('documents/uploads/v2.json', { publicationId: 'p', startedAt: manifest.madeAt, bytes: media.length })
    const { sets: _s, options: _o, ...place } = placeOf('pl', 'p', 'c')
    await old('documents/places/pl.json', place)
    let modules = await restart()
    // Killed between any two lines of it, the next start goes on.
    for (let time = 0; time < 2; time++) await modules.upgrade.upgradeFolder(folder, modules.store)
    await modules.publications.removeOrphans()
    modules = await restart()
    const { publications, responses } = modules
    const [found, at] = [(await publications.readPublication('p'))!, (await modules.places.places().read('pl'))!]
    expect(publications.askedAt(at, found).map((s) => s.version)).toEqual(['v1'])
    const answered = { id: 'e', kind: 'answer', questionId: 'q', at: manifest.madeAt, version: 'v1' }
    // As players of then send it.
    expect((await responses.sortEvents(at, found, [{ ...answered, choiceId: 'a' }])).taken).toEqual([
      { ...answered, answer: { kind: 'one-right', choice: 'a' } },
    ])
    expect((await publications.gradedSets(at, new Set())).sets.map((s) => s.keys)).toEqual([keys.keys])
    for (const [i, part] of parts.entries()) await publications.putPart('p', 'v2', 'screen.mp4', i, part)
    await publications.commitUpload('p', 'v2')
    expect(publications.askedAt(at, (await publications.readPublication('p'))!).map((s) => s.version)).toEqual(['v2'])
  })
  it('is taken over whole, and what cannot be read is set aside', async () => {
    const { keys } = start('old', ['q']).sets[0]!
    await old('pub/p/v/v1/manifest.json', version1)
    await old('pub/p/v/v1/keys.json', keys)
    for (const [i, part] of parts.entries()) await old(`pub/p/v/v1/media.mp4/00000${i}`, part)
    await old('pub/p/live/00000007', { version: 'v1' })
    await old('pub/p/live/00000008', '{"vers')
    await old('places/pl', {
      id: 'pl',
      publicationId: 'p',
      courseId: 'ps201',
      week: 1,
      from: '2026-01-01T00:00:00.000Z',
      until: null,
    })
    await old('places/torn', '')
    await old('site/items/pl', {
      courseId: 'ps201',
      week: 1,
      title: 'old',
      from: '2026-01-01T00:00:00.000Z',
      until: null,
    })
    await old('secrets/session', 'a-secret-of-some-length')
    await old('secrets/course-site', 'a-secret-that-is-over')
    await old('responses/p/000000001', answer(1, { id: 'e1', kind: 'select', choiceId: 'b' }))
    await old('responses/p/000000002', answer(2, { id: 'e2', kind: 'answer' }))
    const modules = await restart()
    await modules.upgrade.upgradeFolder(folder, modules.store)
    await modules.upgrade.upgradeFolder(folder, modules.store)
    await modules.publications.removeOrphans()
    expect(await whole(modules)).toBe(true)
    expect(await modules.places.places().read('pl')).toMatchObject({ courseId: 'ps201' })
    expect((await modules.responses.answersAt('pl')).map((e) => [e.event.id, e.event.version])).toEqual([['e2', 'v1']])
    const { untoldItems } = await import('./course-site')
    expect(await untoldItems().read('pl')).toMatchObject({ title: 'old' })
    const { secret, secrets } = await import('./sessions')
    expect(await secret('session')).toBe('a-secret-of-some-length')
    expect(await secrets().read('course-site')).toBeNull()
    expect((await modules.store.setAside()).map((s) => s.says)).toEqual([
      expect.stringContaining('1 files of an earlier version (places)'),
    ])
    expect((await readdir(folder)).filter((n) => n !== 'epoch' && n !== '.held.sock').sort()).toEqual([
      'documents',
      'journals',
      'parts',
      'set-aside',
    ])
  })
})

describe('what was decided about answers', () => {
  const place = placeOf('place', 'p', 'c')
  const student = (subject: string) => ({ issuer: FIRST_ISSUER, subject })
  const points = (id: string, subject: string, given: number, more: Partial<OverrideEntry> = {}): OverrideEntry => ({
    ...{ id, at: '2026-11-28T10:00:00.000Z', kind: 'override', student: student(subject) },
    ...{ set: 'set', attempt: 1, questionId: 'q1', points: given, reason: 'x', ...more },
  })
  it('is kept once, in the order that it came in, also when the same comes twice at once', async () => {
    const modules = await restart()
    await publish(modules, start('one', ['q1']))
    const set = (await modules.publications.setsOf('p'))[0]!.id
    const sent = [points('a', 's1', 1, { set }), points('b', 's2', 2, { set }), points('c', 's1', 3, { set })]
    const both = await Promise.all([1, 2].map(() => modules.grading.keepGrading(place, sent)))
    for (const kept of both) expect(kept.map((k) => k.entry.id).sort()).toEqual(['a', 'b', 'c'])
    const again = await restart()
    await again.grading.keepGrading(place, sent)
    expect((await again.grading.gradingAt('place')).map((g) => g.entry.id)).toEqual(
      both[0]!.sort((a, b) => a.seq - b.seq).map((g) => g.entry.id),
    )
    const about = (await again.grading.decisionsAbout('place', student('s1'))).about(set, 1, 'q1')
    expect(about.override?.points).toBe(3)
  })
  it('about what was never asked there is refused, and nothing of it is kept', async () => {
    const modules = await restart()
    await publish(modules, start('one', ['q1']))
    const set = (await modules.publications.setsOf('p'))[0]!.id
    for (const wrong of [{ set: 'other' }, { set, questionId: 'q9' }])
      await expect(
        modules.grading.keepGrading(place, [points('a', 's1', 1, { set }), points('b', 's1', 1, wrong)]),
      ).rejects.toMatchObject({ statusCode: 404 })
    const unknown = { ...points('r', 's1', 1, { set }), kind: 'regrade' as const, version: 'v9' }
    await expect(modules.grading.keepGrading(place, [unknown as never])).rejects.toMatchObject({ statusCode: 404 })
    expect(await modules.grading.gradingAt('place')).toEqual([])
  })
})

describe('what was watched', () => {
  const student = (subject: string) => ({ issuer: FIRST_ISSUER, subject, name: subject.toUpperCase() })
  const everything = async () =>
    (await Promise.all((await files()).map((f) => readFile(join(folder, f), 'utf8')))).join()
  const said = (n: number, version: string, played: Stretch[], session = 1, placeId = 'place') =>
    watchStatement(
      { placeId, version, length: 5, session: `10000000-0000-4000-8000-${String(session).padStart(12, '0')}` },
      'paused',
      { time: played.at(-1)![1], played },
      { id: `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`, at: '2026-11-28T10:00:00.000Z' },
    )
  it('is kept once, after a restart as well, and says where to go on', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one'))
    const place = placeOf('place', 'p', 'c')
    const sent = [said(1, version, [[0, 2]]), said(2, version, [[0, 3]])]
    const keep = () => modules.watching.keepStatements(place, student('s1'), sent)
    expect(await Promise.all([keep(), keep()])).toEqual([[], []])
    const again = await restart()
    await again.watching.keepStatements(place, student('s1'), sent)
    await again.watching.keepStatements(place, student('s2'), [said(3, version, [[1, 4]], 2)])
    const { sessions, versions } = await again.watching.watchingAt(place)
    expect(sessions.map((s) => [s.student?.subject, s.played])).toEqual([
      ['s1', [[0, 3]]],
      ['s2', [[1, 4]]],
    ])
    expect(versions).toEqual([{ version, duration: 5, kept: [{ from: 0, to: 5, at: 0 }] }])
    const [first] = sessions
    expect((await again.watching.watchingAt(place, first!.seq)).sessions.map((s) => s.student?.subject)).toEqual(['s2'])
    expect(await again.watching.resumeAt('place', student('s1'))).toMatchObject({ at: 3, reached: 3 })
    expect(await again.watching.resumeAt('place', student('s9'))).toBeNull()
    expect(await again.watching.statementsAt(place)).toHaveLength(3)
    expect((await again.watching.statementsAt(place))[0]).toMatchObject({
      actor: { account: { homePage: FIRST_ISSUER, name: 's1' } },
      version: '1.0.3',
    })
  })
  it('of one person takes so much room and no more, which is said', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one'))
    const place = placeOf('place', 'p', 'c')
    const long = Array.from({ length: 1200 }, (_, i): Stretch => [i * 4, i * 4 + 1 + (i % 3)])
    const report = (n: number, session: number) => said(n, version, long.slice(0, 1200 - (n % 7)), session)
    let refused = 0
    for (let i = 0; i < 12; i++) {
      const batch = Array.from({ length: 50 }, (_, j) => report(50 * i + j, i % 2 ? 50 * i + j : 1))
      const why = await modules.watching.keepStatements(place, student('s1'), batch)
      refused += why.length
      if (why.length > 0) expect(why[0]?.why).toMatch(/not kept here/)
    }
    expect(refused).toBeGreaterThan(100)
    const [journal] = (await files()).filter((f) => f.startsWith('journals/watching'))
    expect((await readFile(join(folder, journal!))).length).toBeLessThan(2_500_000)
    expect(await modules.watching.resumeAt('place', student('s1'))).toMatchObject({ reached: 4799 })
    // Somebody else's is not held up by it, and after a restart it is as it was.
    expect(await modules.watching.keepStatements(place, student('s2'), [report(9000, 9000)])).toEqual([])
    const before = await modules.watching.watchingAt(place)
    expect(await (await restart()).watching.watchingAt(place)).toEqual(before)
  })
  it('goes with all else that is kept of a student when that is deleted, wherever it was cut off; others keep theirs', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one', ['q1', 'q2']))
    const set = (await modules.publications.setsOf('p'))[0]!.id
    const current = (await modules.publications.readPublication('p'))!
    const at = '2026-11-23T10:00:00.000Z'
    const answer = (id: string, questionId: string, kind: string) => ({
      ...{ id, kind, questionId, at },
      answer: { kind: 'one-right', choice: 'a' },
    })
    for (const placeId of ['place', 'gone'])
      for (const who of ['s1', 's2']) {
        const place = placeOf(placeId, 'p', 'c')
        const events = [answer(`a${who}${placeId}`, 'q1', 'answer'), answer(`b${who}${placeId}`, 'q2', 'select')]
        const { taken } = await modules.responses.sortEvents(place, current, events)
        await modules.responses.keepEvents(place, student(who), taken)
        await modules.watching.keepStatements(place, student(who), [said(1, version, [[0, 2]], 1, placeId)])
        await modules.grading.keepGrading(
          place,
          [...[{ id: `g${who}${placeId}`, at, kind: 'override' as const, student: student(who), set }]].map((e) => ({
            ...e,
            attempt: 1,
            questionId: 'q1',
            points: 1,
            reason: 'x',
          })),
        )
      }
    expect((await everything()).match(/"s1"/g)?.length).toBeGreaterThan(5)
    const others = (await everything()).match(/"s2"/g)?.length
    // A kill between any two of them leaves some; the same asked again deletes the rest.
    await modules.grading.gradingJournals().remove('gone', personKey(student('s1')), () => true)
    expect(await modules.forgetting.forgetStudent(student('s1'))).toBe(2)
    expect(await modules.forgetting.forgetStudent(student('s1'))).toBe(0)
    expect(await everything()).not.toMatch(/"s1"/)
    expect((await everything()).match(/"s2"/g)?.length).toBe(others)
    const again = await restart()
    expect(await again.responses.answersOf('place', student('s1'))).toEqual([])
    expect(await again.responses.begunBy('place', student('s1'))).toEqual({})
    expect(await again.responses.answersOf('place', student('s2'))).toHaveLength(1)
    expect(await again.watching.resumeAt('gone', student('s1'))).toBeNull()
  })
  it('goes by age where that is wished, once nothing came of a student at a place for so long', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one', ['q1', 'q2']))
    const current = (await modules.publications.readPublication('p'))!
    const set = (await modules.publications.setsOf('p'))[0]!.id
    const day = (n: number) => new Date(Date.parse('2026-01-01T00:00:00.000Z') + n * 86_400_000).toISOString()
    const place = placeOf('place', 'p', 'c')
    const answer = async (who: string, questionId: string, n: number) => {
      const given = { kind: 'answer', questionId, at: day(n), answer: { kind: 'one-right', choice: 'a' } }
      const { taken } = await modules.responses.sortEvents(place, current, [{ id: `${who}${questionId}`, ...given }])
      await modules.responses.keepEvents(place, student(who), taken, day(n))
    }
    await answer('old', 'q1', 0)
    await modules.watching.keepStatements(place, student('old'), [said(1, version, [[0, 2]], 1, 'place')], day(1))
    const was = { id: 'o', at: day(1), kind: 'override' as const, student: student('old'), set, attempt: 1 }
    await modules.grading.keepGrading(place, [{ ...was, questionId: 'q1', points: 1, reason: 'x' }], day(1))
    // A kill before the last of it.
    await modules.responses.answerJournals().remove('place', personKey(student('old')), () => true)
    await answer('back', 'q1', 0)
    await answer('back', 'q2', 50)
    await answer('marked', 'q1', 0)
    const mark = { id: 'm', at: day(50), kind: 'override' as const, student: student('marked'), set, attempt: 1 }
    await modules.grading.keepGrading(place, [{ ...mark, questionId: 'q1', points: 1, reason: 'x' }], day(50))
    const { forgetByAge } = modules.forgetting
    expect(await forgetByAge(60, Date.parse(day(60)))).toEqual({ people: 0, places: 0 })
    expect(await forgetByAge(40, Date.parse(day(60)))).toEqual({ people: 1, places: 1 })
    expect(await forgetByAge(40, Date.parse(day(60)))).toEqual({ people: 0, places: 0 })
    expect(await modules.responses.answersOf('place', student('old'))).toEqual([])
    expect(await modules.watching.resumeAt('place', student('old'))).toBeNull()
    expect(await modules.responses.answersOf('place', student('back'))).toHaveLength(2)
    expect(await modules.responses.answersOf('place', student('marked'))).toHaveLength(1)
    // What was done stands in the log, without a name.
    const logged = await modules.audit.activityAfter(0)
    expect(logged.map((e) => [e.action, e.from])).toEqual([['deleted-by-age', 'this server']])
    expect(await everything()).not.toMatch(/"old"/)
  })
  it('of another lecture, of a version that there never was, or unreadable is refused by name; the rest is kept', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one'))
    const place = placeOf('place', 'p', 'c')
    const refused = await modules.watching.keepStatements(place, student('s1'), [
      said(1, version, [[0, 1]], 1, 'elsewhere'),
      said(2, 'never', [[0, 1]]),
      { id: 'x' },
      null,
      said(5, version, [[0, 1]]),
    ])
    expect(refused.map((r) => r.id.slice(-1))).toEqual(['1', '2', '2', '3'])
    expect(refused.every((r) => r.why.length > 10)).toBe(true)
    expect(await modules.watching.statementsAt(place)).toHaveLength(1)
  })
  it('is refused, and not passed over, for which a day has no room; what is there already is not counted again', async () => {
    const { withRoom } = (await restart()).watching
    const one = (id: string) => ({ statement: { id } }) as ReceivedStatement
    const split = (held: string[], those: string[]) => {
      const { taken, left } = withRoom(held.map(one), those.map(one), 3)
      return [taken, left].map((all) => all.map((s) => s.statement.id).join(''))
    }
    expect(split(['a', 'b'], ['b', 'c', 'd'])).toEqual(['c', 'd'])
    expect(split(['a', 'b', 'c'], ['a', 'c'])).toEqual(['', ''])
    expect(split(['a', 'b', 'c', 'd'], ['e'])).toEqual(['', 'e'])
  })
  it('is of nobody, and of no hour, where a place keeps sums only', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one'))
    const place = placeOf('place', 'p', 'c', { options: { download: false, sumsOnly: true } })
    for (const [i, who] of ['s1', 's2'].entries())
      await modules.watching.keepStatements(place, student(who), [said(i, version, [[0, 2]], i)])
    const kept = await modules.watching.watchingAt(place)
    expect(kept.sessions.map((s) => [s.student, s.until.slice(10)])).toEqual([
      [null, 'T00:00:00.000Z'],
      [null, 'T00:00:00.000Z'],
    ])
    expect(await modules.watching.resumeAt('place', student('s1'))).toBeNull()
    expect(await everything()).not.toMatch(/"s1"|"S1"|T10:00:00/)
  })
  it('by name becomes of nobody where a place keeps sums only from now on, whenever that was cut off', async () => {
    const modules = await restart()
    const version = await publish(modules, start('one'))
    const place = placeOf('place', 'p', 'c')
    for (const [i, who] of ['s1', 's2'].entries())
      await modules.watching.keepStatements(place, student(who), [said(i, version, [[0, 2 + i]], i)])
    const before = await modules.watching.watchingAt(place)
    const sums = { ...place, options: { download: false, sumsOnly: true } }
    // As a kill leaves it: one person's is in the sums, and by name still.
    await modules.watching.keepStatements(sums, student('s1'), [said(0, version, [[0, 2]], 0)])
    const again = await restart()
    await Promise.all([again.watching.forgetWhoWatched(sums), again.watching.statementsAt(sums)])
    const { sessions } = await again.watching.watchingAt(sums)
    expect(sessions.map((s) => [s.student, s.played]).sort()).toEqual([
      [null, [[0, 2]]],
      [null, [[0, 3]]],
    ])
    // Whoever has them by name already is given them anew.
    const seen = Math.max(...before.sessions.map((s) => s.seq))
    expect((await again.watching.watchingAt(sums, seen)).sessions.map((s) => s.session).sort()).toEqual(
      before.sessions.map((s) => s.session).sort(),
    )
    expect(await everything()).not.toMatch(/"s1"|"S1"|T10:00:00/)
  })
})

describe('the demo', () => {
  it('is planted once, moved to the present week, and never over what is there', async () => {
    vi.stubEnv('THAW_DEMO_FILES', fileURLToPath(new URL('../../demo/publications', import.meta.url)))
    vi.useFakeTimers({ now: Date.parse('2026-12-08T12:00:00Z'), toFake: ['Date'] })
    const { demo, publications, responses, places } = await restart()
    await demo.plantDemo()
    expect(await places.places().read('place-glacier')).toMatchObject({ from: '2026-11-09T08:00:00.000Z' })
    expect((await publications.readPublication('pub-glacier'))?.manifest.title).toBe('What a glacier is')
    const answers = await responses.answersAt('place-glacier')
    expect(answers.length).toBeGreaterThan(10)
    await places.places().remove('place-glacier')
    await demo.plantDemo()
    vi.useRealTimers()
    vi.unstubAllEnvs()
    expect(await places.places().read('place-glacier')).toBeNull()
  })
})
