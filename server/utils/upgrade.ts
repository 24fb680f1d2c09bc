/**
 * Takes over what earlier servers wrote. Before 0.2 that was a file for every item, by room: each item is written anew
 * before its file is removed, so that a kill leaves nothing out and the next start goes on. What cannot be read is kept
 * apart and told.
 */
import { readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { TSchema } from '@sinclair/typebox'
import { upgradeEvent } from '#core/course/people'
import { Broadcast } from '#core/schema/live'
import { StoredEvent } from '#core/schema/attempt'
import { onlySetId, readKeys, readPlace, readPublished } from '#core/packages/upgrade'
import { CourseItem } from '#core/schema/course-site'
import { parseAs } from '#core/schema/validate'
import { errorMessage } from '#core/text/error-message'
import { untoldItems } from './course-site'
import { publications, setVersions, versions } from './publications'
import { places } from './places'
import { broadcasts } from './live'
import { keepEvents } from './responses'
import { demoMark } from './demo'
import { secrets } from './sessions'
import { ifThere, makeFolder } from '../store/durable'
import type { Store } from '../store/store'

const rooms = ['pub', 'places', 'site', 'responses', 'secrets', 'live', 'uploads', 'demo']

const namesIn = async (path: string): Promise<string[]> => (await ifThere(readdir(path))) ?? []
const text = (path: string) => readFile(path, 'utf8')

/**
 * Until sets of questions stood apart, a version's document held its only one: that becomes a document of its own, by
 * the same id. Called before any version is read.
 */
async function splitVersions(folder: string): Promise<void> {
  const kept = join(folder, 'documents', 'versions')
  for (const name of await namesIn(kept)) {
    const version = name.replace(/\.json$/, '')
    try {
      const data = JSON.parse(await text(join(kept, name))) as Record<string, unknown>
      if (!('keys' in data)) continue
      const { manifest, set } = readPublished(data.manifest, data.set)
      const keys = readKeys(data.keys)
      await setVersions().write(version, { publicationId: manifest.id, set, keys })
      await versions().write(version, { publicationId: manifest.id, manifest })
    } catch (error) {
      // Whoever reads it sets it aside, and says so.
      console.error(`version ${version} could not be taken over:`, errorMessage(error))
    }
  }
}

export async function upgradeFolder(folder: string, store: Store): Promise<void> {
  // Until the course site was a process of its own its secret stood here; nothing goes by it any more.
  await secrets().remove('course-site')
  await splitVersions(folder)
  const here = (await namesIn(folder)).filter((name) => rooms.includes(name))
  if (here.length === 0) return
  /** Does it for each file or folder of a room, and removes those for which it worked. */
  const each = async (room: string, take: (name: string, path: string) => Promise<void>) => {
    for (const name of await namesIn(join(folder, room))) {
      const path = join(folder, room, name)
      try {
        await take(name, path)
        await rm(path, { recursive: true })
      } catch (error) {
        console.error(`${room}/${name} could not be taken over:`, errorMessage(error))
      }
    }
  }
  const document = async <S extends TSchema>(path: string, schema: S) =>
    parseAs(schema, JSON.parse(await text(path)), 'document of an earlier version')

  await each('secrets', async (name, path) => {
    if (name !== 'course-site') await secrets().write(name, { secret: (await text(path)).trim() })
  })
  await each('pub', (id, path) => takePublication(store, id, path))
  await each('places', async (id, path) => places().write(id, readPlace(JSON.parse(await text(path)))))
  await each('site/items', async (id, path) => untoldItems().write(id, await document(path, CourseItem)))
  await each('live', async (id, path) => {
    const broadcast = await document(join(path, 'broadcast'), Broadcast)
    for (const run of await namesIn(join(path, 'media')))
      for (const name of await namesIn(join(path, 'media', run)))
        await store.parts.write(`live/${id}/${run}/${name}`, await readFile(join(path, 'media', run, name)))
    await broadcasts().write(id, broadcast)
  })
  await each('responses', async (publicationId, path) => {
    const version = (await publications().read(publicationId))?.current ?? ''
    for (const seq of (await namesIn(path)).sort()) {
      const { placeId, student, event, receivedAt } = parseAs(
        StoredEvent,
        upgradeEvent(JSON.parse(await text(join(path, seq)))),
        'answer of an earlier version',
      )
      await keepEvents({ id: placeId, publicationId }, student, [{ ...event, version }], receivedAt)
    }
  })
  if ((await ifThere(text(join(folder, 'demo')))) !== null)
    await demoMark().write('demo', { plantedAt: new Date().toISOString() })
  for (const done of ['uploads', 'demo']) await rm(join(folder, done), { recursive: true, force: true })
  for (const room of here) await keepRest(folder, room)
}

/** The newest version that can be read becomes the one that counts, as it did before. */
async function takePublication(store: Store, id: string, path: string): Promise<void> {
  const markers = (await namesIn(join(path, 'live'))).sort().reverse()
  for (const marker of markers) {
    try {
      const { version } = JSON.parse(await text(join(path, 'live', marker))) as { version: string }
      const from = join(path, 'v', version)
      const { manifest, set } = readPublished(JSON.parse(await text(join(from, 'manifest.json'))))
      const keys = readKeys(JSON.parse(await text(join(from, 'keys.json'))))
      for (const file of manifest.files)
        for (const part of await namesIn(join(from, file.name)))
          await store.parts.write(`media/${version}/${file.name}/${part}`, await readFile(join(from, file.name, part)))
      await setVersions().write(version, { publicationId: id, set, keys })
      await versions().write(version, { publicationId: id, manifest })
      await publications().write(id, {
        current: version,
        versions: [{ version, committedAt: manifest.madeAt, replacedAt: null, media: true }],
        captions: [],
        sets: [{ version, id: onlySetId(id), of: version, publishedAt: manifest.madeAt }],
      })
      return
    } catch (error) {
      console.error(`version ${marker} of ${id} could not be taken over:`, errorMessage(error))
    }
  }
  if (markers.length > 0) throw new Error('none of its versions can be read')
}

/** Moves what is left of a room to where the author is told of it. */
async function keepRest(folder: string, room: string): Promise<void> {
  const path = join(folder, room)
  const left = (await ifThere(readdir(path, { recursive: true, withFileTypes: true })))?.filter((e) => e.isFile()) ?? []
  if (left.length > 0) {
    const aside = join(folder, 'set-aside', `before-0.2-${room}`)
    await makeFolder(join(folder, 'set-aside'))
    await rename(path, aside)
    await writeFile(
      `${aside}.says`,
      `${left.length} files of an earlier version (${room}) could not be read and were set aside; everything else was taken over.`,
      { mode: 0o600 },
    )
  } else await rm(path, { recursive: true, force: true })
}
