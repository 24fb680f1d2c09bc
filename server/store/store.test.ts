/** The store as files: what was acknowledged is there, whatever a kill or a full disk leaves. */
import { appendFile, mkdtemp, readdir, readFile, rename, rm, stat, symlink, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Type } from '@sinclair/typebox'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { openFileStore } from './files'
import type { Store } from './store'

const Thing = Type.Object({ id: Type.String(), n: Type.Number() }, { additionalProperties: false })

let folder: string
let store: Store
const said: string[] = []
const open = async () => (store = await openFileStore({ folder, log: (says) => said.push(says) }))
const reopen = async () => {
  await store.close()
  return open()
}
beforeEach(async () => {
  said.length = 0
  folder = await mkdtemp(join(tmpdir(), 'thaw-store-'))
  await open()
})
afterEach(async () => {
  await store.close()
  await rm(folder, { recursive: true })
})

describe('documents', () => {
  const things = () => store.documents('things', Thing)
  it('are replaced whole, also under names that tools like to hide', async () => {
    for (const id of ['a', 'node_modules', 'constructor']) {
      await things().write(id, { id, n: 1 })
      await things().write(id, { id, n: 2 })
      expect(await things().read(id)).toEqual({ id, n: 2 })
    }
    await reopen()
    expect((await things().ids()).sort()).toEqual(['a', 'constructor', 'node_modules'])
    await things().remove('a')
    await things().remove('a')
    expect(await things().read('a')).toBeNull()
  })
  it('that cannot be read are set aside, told to the author, and in nobody’s way', async () => {
    await things().write('torn', { id: 'torn', n: 1 })
    await things().write('whole', { id: 'whole', n: 1 })
    const whole = await readFile(join(folder, 'documents/things/torn.json'), 'utf8')
    for (const text of ['', '{"id":"torn","n', '{"id":"torn"}', whole.replace('"n":1', '"n":3')]) {
      await writeFile(join(folder, 'documents/things/torn.json'), text)
      await reopen()
      expect(await things().read('torn')).toBeNull()
      expect(await things().read('torn')).toBeNull()
      expect(await things().read('whole')).toEqual({ id: 'whole', n: 1 })
    }
    expect(said).toHaveLength(4)
    // What was written before there were checksums is read as it is.
    await writeFile(join(folder, 'documents/things/torn.json'), '{"id":"torn","n":5}')
    await reopen()
    expect(await things().read('torn')).toEqual({ id: 'torn', n: 5 })
    expect((await store.setAside()).map((s) => s.says)).toEqual(
      said.map(() => expect.stringContaining('“torn” (things) could not be read')),
    )
  })
  it('are told of when they are set aside, also where there was no room to say why', async () => {
    await things().write('torn', { id: 'torn', n: 1 })
    await reopen()
    await writeFile(join(folder, 'documents/things/torn.json'), '{"id"')
    await things().read('torn')
    const aside = join(folder, 'set-aside')
    const [says] = (await readdir(aside)).filter((name) => name.endsWith('.says'))
    for (const lose of [() => writeFile(join(aside, says!), ''), () => rm(join(aside, says!))]) {
      await lose()
      expect((await store.setAside()).map((s) => s.says)).toEqual([
        expect.stringMatching(/^“[^”]*torn[^”]*” could not be read and was set aside/),
      ])
    }
  })
  it('are made by one of many at once', async () => {
    const made = await Promise.all(Array.from({ length: 20 }, (_, n) => things().create('once', { id: 'once', n })))
    expect(made.filter(Boolean)).toHaveLength(1)
    expect(await things().read('once')).toEqual({ id: 'once', n: made.indexOf(true) })
  })
  it('are read by nobody else on the machine', async () => {
    await things().write('secret', { id: 'secret', n: 1 })
    expect((await stat(join(folder, 'documents/things/secret.json'))).mode & 0o777).toBe(0o600)
    expect((await stat(join(folder, 'documents/things'))).mode & 0o777).toBe(0o700)
  })
  it('leave nothing behind that a killed write had begun', async () => {
    await things().write('a', { id: 'a', n: 1 })
    await writeFile(join(folder, 'documents/things/a.json.0000.unfinished'), '{"id"')
    await reopen()
    expect(await readdir(join(folder, 'documents/things'))).toEqual(['a.json'])
  })
})

describe('journals', () => {
  const journals = () => store.journals('answers', Thing, (e) => e.id)
  const add = (name: string, ...ids: string[]) =>
    journals().append('place', name, () => ids.map((id) => ({ id, n: 1 })))
  const file = async () =>
    join(folder, 'journals/answers/place', (await readdir(join(folder, 'journals/answers/place')))[0] ?? '')

  it('keep an entry once, in the order of coming, each with a number of its own, also over restarts', async () => {
    const one = journals()
    await Promise.all(
      Array.from({ length: 40 }, (_, i) => one.append('place', `s${i % 8}`, () => [{ id: `e${i >> 1}`, n: i }])),
    )
    await reopen()
    await add('s0', 'e0', 'later', 'later')
    const all = await journals().readGroup('place', 0)
    expect(new Set(all.map((e) => e.seq)).size).toBe(all.length)
    expect(all.at(-1)?.id).toBe('later')
    expect(all.filter((e) => e.id === 'later')).toHaveLength(1)
    expect(all).toHaveLength(41)
    expect(await journals().readGroup('place', all.at(-2)?.seq ?? 0)).toEqual([all.at(-1)])
  })
  it('cut a torn last line off and go on behind the whole ones', async () => {
    await add('s', 'one', 'two')
    for (const torn of ['{"seq":9,"entr', '{"seq":9,"entry":{"id":"never","n":1}}']) {
      await reopen()
      await appendFile(await file(), torn)
      expect((await journals().read('place', 's')).map((e) => e.id)).not.toContain('never')
      await add('s', `after ${torn.length}`)
    }
    await reopen()
    expect((await journals().read('place', 's')).map((e) => e.id)).toEqual(['one', 'two', 'after 14', 'after 38'])
    expect(
      (await readFile(await file(), 'utf8'))
        .split('\n')
        .filter(Boolean)
        .every((line) => JSON.parse(line)),
    ).toBe(true)
  })
  it('serve the other entries when one cannot be read', async () => {
    await add('s', 'one')
    await reopen()
    await appendFile(await file(), 'rubbish\n')
    await add('s', 'two')
    expect((await journals().read('place', 's')).map((e) => e.id)).toEqual(['one', 'two'])
    await vi.waitFor(async () => expect(await store.setAside()).toHaveLength(1))
    // One bit, in what is right JSON still.
    await reopen()
    await writeFile(await file(), (await readFile(await file(), 'utf8')).replace('"one"', '"onf"'))
    expect((await journals().read('place', 's')).map((e) => e.id)).toEqual(['two'])
  })
  it('go on with greater numbers when the count of starts is lost, or cannot be read', async () => {
    for (let i = 0; i < 3; i++) {
      await reopen()
      await add('s', `e${i}`)
    }
    const starts = join(folder, 'documents/starts/server.json')
    for (const lose of [() => rm(starts), () => writeFile(starts, '{"starts"')]) {
      const last = (await journals().readGroup('place', 0)).at(-1)?.seq ?? 0
      await lose()
      await reopen()
      await add('s', `after ${last}`)
      expect((await journals().readGroup('place', last)).map((e) => e.id)).toEqual([`after ${last}`])
    }
  })
  it('let one decide on what is there, however many come at once', async () => {
    const one = journals()
    await Promise.all(
      Array.from({ length: 30 }, (_, i) =>
        one.append('place', 's', (held) => (held.length < 3 ? [{ id: `e${i}`, n: i }] : [])),
      ),
    )
    expect(await one.read('place', 's')).toHaveLength(3)
  })
  it('refuse alone what cannot be decided', async () => {
    const one = journals()
    const [bad, good] = await Promise.allSettled([
      one.append('place', 's', () => {
        throw new Error('no')
      }),
      one.append('place', 's', () => [{ id: 'good', n: 1 }]),
    ])
    expect([bad.status, good.status]).toEqual(['rejected', 'fulfilled'])
  })
  it('are removed whole, unless something came meanwhile, and can be begun anew', async () => {
    await add('s', 'one')
    await add('t', 'two')
    const one = journals()
    const [kept, , gone] = await Promise.all([
      one.remove('place', 's', (held) => held.length === 0),
      add('s', 'three'),
      one.remove('place', 't', (held) => held.length === 1),
    ])
    expect([kept, gone]).toEqual([false, true])
    expect((await one.readGroup('place', 0)).map((e) => e.id)).toEqual(['one', 'three'])
    // Asked for in one breath, what comes after a removal is there after it.
    await Promise.all([one.remove('place', 's', () => true), add('s', 'four')])
    await add('s', 'five')
    await reopen()
    expect((await journals().readGroup('place', 0)).map((e) => e.id)).toEqual(['four', 'five'])
    expect(await journals().remove('place', 'never', () => true)).toBe(true)
  })
  it('are written anew when they have grown, as what they come to', async () => {
    const sums = () =>
      store.journals(
        ...(['sums', Thing, (e: { id: string }) => e.id, (data: unknown) => data] as const),
        // Of each hundred the last one says all.
        (held) => held.filter((e, i) => i === held.length - 1 || e.n % 100 === 99),
      )
    const lines = async () => {
      const [name = ''] = await readdir(join(folder, 'journals/sums/place'))
      return (await readFile(join(folder, 'journals/sums/place', name), 'utf8')).split('\n').length - 1
    }
    const tell = (n: number) => sums().append('place', 's', () => [{ id: `e${n}`, n }])
    for (let n = 0; n < 300; n++) await tell(n)
    expect(await lines()).toBeLessThan(100)
    const held = await sums().read('place', 's')
    expect(held.filter((e) => e.n % 100 === 99).map((e) => e.id)).toEqual(['e99', 'e199', 'e299'])
    await Promise.all(Array.from({ length: 100 }, (_, i) => tell(300 + i)))
    await reopen()
    const all = await sums().readGroup('place', 0)
    expect(all.at(-1)?.id).toBe('e399')
    expect(all.map((e) => e.seq)).toEqual([...new Set(all.map((e) => e.seq))].sort((a, b) => a - b))
    expect((await readdir(join(folder, 'journals/sums/place'))).length).toBe(1)
  })
  it('acknowledge nothing on a full disk, and go on when there is room', async () => {
    await add('s', 'one')
    const path = await file()
    await rename(path, `${path}.kept`)
    await symlink('/dev/full', path)
    await expect(add('s', 'two')).rejects.toThrow(/ENOSPC/)
    await rm(path)
    await rename(`${path}.kept`, path)
    expect((await journals().read('place', 's')).map((e) => e.id)).toEqual(['one'])
    await add('s', 'three', 'two')
    await reopen()
    expect((await journals().read('place', 's')).map((e) => e.id)).toEqual(['one', 'three', 'two'])
  })
})

describe('parts', () => {
  const bytes = Uint8Array.from({ length: 1000 }, (_, i) => i)
  it('give any range, and the names below a path', async () => {
    await store.parts.write('media/v1/media.mp4/000000', bytes)
    await store.parts.write('media/v1/media.mp4/000001', bytes.subarray(0, 10))
    await store.parts.write('media/node_modules/x', bytes)
    expect(Array.from((await store.parts.read('media/v1/media.mp4/000000', 5, 9))!)).toEqual([5, 6, 7, 8, 9])
    expect((await store.parts.read('media/v1/media.mp4/000000'))!.byteLength).toBe(1000)
    expect(await store.parts.size('media/v1/media.mp4/000001')).toBe(10)
    expect(await store.parts.read('media/v2/media.mp4/000000', 0, 5)).toBeNull()
    expect((await store.parts.names('media')).sort()).toEqual(['node_modules', 'v1'])
    expect(await store.parts.names('media/v1/media.mp4')).toHaveLength(2)
    await store.parts.removeAll('media/v1')
    expect(await readdir(join(folder, 'parts/media'))).toEqual(['node_modules'])
  })
})

it('is held by one process at a time', async () => {
  await expect(openFileStore({ folder })).rejects.toThrow(/Another Thaw server uses the folder/)
  await reopen()
})
it('is held for all who see the folder, wherever their temporary files are, and however long its path is', async () => {
  const deep = join(folder, 'a-long-name-of-a-folder/'.repeat(8))
  const temporary = process.env.TMPDIR
  const other = await openFileStore({ folder: deep })
  try {
    process.env.TMPDIR = await mkdtemp(join(folder, 'tmp-'))
    for (const held of [folder, deep]) await expect(openFileStore({ folder: held })).rejects.toThrow(/uses the folder/)
  } finally {
    if (temporary === undefined) delete process.env.TMPDIR
    else process.env.TMPDIR = temporary
    await other.close()
  }
})
it('keeps nothing more once another machine has taken the folder, and says so', async () => {
  const things = store.documents('things', Thing)
  const one = store.journals('answers', Thing, (e) => e.id)
  await things.write('a', { id: 'a', n: 1 })
  // As one does that sees the same disk, but no socket on it.
  await writeFile(join(folder, 'epoch'), 'another')
  const add = () => one.append('place', 's', () => [{ id: 'e', n: 1 }])
  for (const write of [
    () => things.write('a', { id: 'a', n: 2 }),
    () => things.remove('a'),
    add,
    () => store.parts.write('media/a', new Uint8Array(1)),
    () => store.parts.removeAll('media'),
  ])
    await expect(write()).rejects.toThrow(/has taken the folder/)
  expect(said.filter((s) => s.includes('has taken the folder'))).toHaveLength(1)
  await reopen()
  expect(await store.documents('things', Thing).read('a')).toEqual({ id: 'a', n: 1 })
  expect(await store.journals('answers', Thing, (e) => e.id).read('place', 's')).toEqual([])
})
it('takes turns by name', async () => {
  const order: string[] = []
  const slow = (name: string) => async () => {
    order.push(`${name} begins`)
    await new Promise((resolve) => setTimeout(resolve, 5))
    order.push(`${name} ends`)
  }
  await Promise.all([store.exclusive('x', slow('a')), store.exclusive('x', slow('b')), store.exclusive('y', slow('c'))])
  expect(order.filter((o) => !o.startsWith('c'))).toEqual(['a begins', 'a ends', 'b begins', 'b ends'])
})
