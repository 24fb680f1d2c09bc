import 'fake-indexeddb/auto'
import { beforeEach, expect, it, vi } from 'vitest'
import { newEdit } from '#core/edit/edit'
import { joinTakes } from '#core/record/recording'
import type { EditDocument } from '#core/schema/edit'
import type { Take } from '#core/schema/lecture'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { storeFile } from '~/db/files'
import type { JobContext } from '~/stores/jobs'
import { backdropsFor, filmsBehind, replaceBackgrounds } from './backdrops'
import { removeTake } from './takes'

const feed = { offset: 0, duration: 60, width: 64, height: 36, frameRate: 25 }
const take: Take = {
  ...{ id: 't', lectureId: 'l', state: 'whole', startedAt: '2026-11-23T10:00:00.000Z', duration: 60, pauses: [] },
  note: '',
  feeds: [
    { ...feed, id: 'screen', kind: 'screen', label: 'Screen', fileId: 'f1' },
    { ...feed, id: 'camera', kind: 'camera', label: 'Camera', fileId: 'f2' },
  ],
}
const recording = joinTakes([take])!
const blurred: EditDocument = {
  ...newEdit(recorded(60), 25),
  background: { on: 'camera', how: { kind: 'blur' } },
}
const made: string[] = []
const context = {
  engine: {
    replaceBackground: (film: Blob, how: { kind: string }) =>
      film.text().then((t) => void made.push(`${t} ${how.kind}`)),
    readScratch: () => Promise.resolve(new Blob([made.at(-1)!])),
  },
  scratch: 's',
  progress: () => undefined,
} as unknown as JobContext

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
  made.length = 0
  await db.takes.put(take)
  for (const id of ['f1', 'f2'])
    await storeFile({ id, type: 'video/mp4', name: id, size: 2 }, new Blob([id]), () => undefined)
})

it('are made of the camera alone, once for each thing that is to be behind', async () => {
  const films = await backdropsFor(blurred, recording, context)
  expect([...films.keys()]).toEqual(['f2'])
  expect(await films.get('f2')!.text()).toBe('f2 blur')
  await backdropsFor(blurred, recording, context)
  expect(made).toEqual(['f2 blur'])
  const how = { kind: 'colour' as const, colour: '#00c000' }
  const green = { ...blurred, background: { on: 'camera', how } }
  expect(await (await backdropsFor(green, recording, context)).get('f2')!.text()).toBe('f2 colour')
  expect(await db.backdrops.count()).toBe(1)
})
it('are none where nothing is to be behind, or the picture is not there', async () => {
  expect(filmsBehind(newEdit(recorded(60), 25), recording)).toEqual([])
  expect(filmsBehind({ background: { on: 'camera-2', how: { kind: 'blur' } } }, recording)).toEqual([])
  const picture = { on: 'camera', how: { kind: 'picture' as const, file: 'gone' } }
  await expect(backdropsFor({ ...blurred, background: picture }, recording, context)).rejects.toThrow(
    'The picture that is to be behind the speaker is not in this browser any more.',
  )
  await db.files.delete('f2')
  await expect(backdropsFor(blurred, recording, context)).rejects.toThrow('not in this browser any more')
  expect(made).toEqual([])
})
it('go with their take, and are not kept for one that is gone', async () => {
  await backdropsFor(blurred, recording, context)
  await removeTake(take)
  expect(await db.backdrops.count()).toBe(0)
  await storeFile({ id: 'f2', type: 'video/mp4', name: 'f2', size: 2 }, new Blob(['f2']), () => undefined)
  await backdropsFor(blurred, recording, context)
  expect(await db.backdrops.count()).toBe(0)
})
it('are made as a job when they are lacking, and not otherwise', async () => {
  vi.stubGlobal('navigator', { locks: { request: (_: string, act: () => unknown) => Promise.resolve(act()) } })
  const started: string[] = []
  const start = async (kind: string, _of: string, _says: string, run: (c: JobContext) => Promise<unknown>) => {
    started.push(kind)
    await run(context)
  }
  const jobs = { start } as unknown as Parameters<typeof replaceBackgrounds>[3]
  await replaceBackgrounds(blurred, recording, 'l', jobs)
  await replaceBackgrounds(blurred, recording, 'l', jobs)
  expect(started).toEqual(['backdrop'])
})
