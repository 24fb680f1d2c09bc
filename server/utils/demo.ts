/**
 * Puts the demo term's publications into a storage that has none, from the folder THAW_DEMO_FILES, which is laid out
 * like the storage.
 */
import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { Type, type Static, type TSchema } from '@sinclair/typebox'
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { ReceivedEvent } from '#core/schema/attempt'
import { CourseItem } from '#core/schema/course-site'
import { DEMO_ANCHOR, DemoQuestions } from '#core/schema/demo'
import { Instant } from '#core/schema/parts'
import { Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { ReceivedStatement } from '#core/schema/watching'
import type { Documents } from '../store/store'
import { untoldItems } from './course-site'
import { places } from './places'
import {
  captionVersions,
  CaptionsVersion,
  Publication,
  publications,
  SetVersion,
  setVersions,
  Version,
  versions,
} from './publications'
import { keepEvents } from './responses'
import { keepStatements } from './watching'
import { useStore } from './storage'

/** Says that the demo term was laid out once; it is not laid out again over what has become of it. */
export const demoMark = () => useStore().documents('demo', Type.Object({ plantedAt: Instant }))

/** The demo term's question sets, by lecture; null without a demo. */
export async function demoQuestions(): Promise<DemoQuestions | null> {
  const folder = process.env.THAW_DEMO_FILES
  return folder
    ? parseAs(DemoQuestions, JSON.parse(await readFile(join(folder, 'questions.json'), 'utf8')), 'demo questions')
    : null
}

/** Documents with dates in them: they are laid around the present week, as the author's browser does with its own. */
const isDated = new Set(['places', 'course-items'])

export async function plantDemo(): Promise<void> {
  const folder = process.env.THAW_DEMO_FILES
  if (!folder || (await demoMark().read('demo'))) return
  const weeks = weeksSince(DEMO_ANCHOR, Date.now())
  const read = async (path: string): Promise<unknown> => JSON.parse(await readFile(join(folder, path), 'utf8'))
  const each = async <S extends TSchema>(kind: string, schema: S, documents: Documents<Static<S>>) => {
    for (const name of await readdir(join(folder, kind))) {
      const document = parseAs(
        schema,
        shiftWeeks(await read(`${kind}/${name}`), isDated.has(kind) ? weeks : 0),
        `demo (${kind})`,
      )
      await documents.write(name.replace(/\.json$/, ''), document)
    }
  }
  const parts = (await readdir(join(folder, 'media'), { recursive: true, withFileTypes: true })).filter((e) =>
    e.isFile(),
  )
  for (const part of parts) {
    const path = join(part.parentPath, part.name)
    await useStore().parts.write(path.slice(folder.length + 1), await readFile(path))
  }
  await each('versions', Version, versions())
  await each('captions', CaptionsVersion, captionVersions())
  await each('sets', SetVersion, setVersions())
  await each('publications', Publication, publications())
  await each('places', Place, places())
  await each('course-items', CourseItem, untoldItems())
  const answers = parseAs(Type.Array(ReceivedEvent), shiftWeeks(await read('answers.json'), weeks), 'demo answers')
  for (const { placeId, student, event, receivedAt } of answers) {
    const publicationId = (await places().read(placeId))?.publicationId ?? ''
    await keepEvents({ id: placeId, publicationId }, student, [{ ...event, version: event.version ?? '' }], receivedAt)
  }
  const watched = parseAs(
    Type.Array(ReceivedStatement),
    shiftWeeks(await read('watching.json'), weeks),
    'demo watching',
  )
  for (const { placeId, student, statement, receivedAt } of watched) {
    const place = await places().read(placeId)
    if (place && student) await keepStatements(place, student, [statement], receivedAt)
  }
  await demoMark().write('demo', { plantedAt: new Date().toISOString() })
}
