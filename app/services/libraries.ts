/** Opens, leaves and removes the libraries of this browser: one's own work, and the demo. */
import Dexie from 'dexie'
import { About } from '#core/schema/answers'
import { DemoTerm } from '#core/schema/demo'
import { parseAs } from '#core/schema/validate'
import { db } from '~/db/database'
import {
  adopt,
  chooseLibrary,
  databaseName,
  EARLIER,
  forget,
  here,
  openLibrary,
  ownerOfEarlier,
  tellRemoved,
  type LibraryKind,
} from '~/db/libraries'
import { RECORDING } from './takes'

/** Goes to a library; what is read of the database begins anew with the page. */
export function enterLibrary(kind: LibraryKind | null): void {
  chooseLibrary(kind, here())
  location.assign('/')
}

/** Whether this server lets one look around the demo; where it does not answer, no. */
export async function hasDemo(): Promise<boolean> {
  const answer = await fetch('/api/about').catch(() => null)
  if (!answer?.ok) return false
  return parseAs(About, await answer.json(), 'answer of the server').demo
}

/** Whether a library was begun in this browser. */
export const isBegun = async (kind: LibraryKind): Promise<boolean> => Dexie.exists(databaseName(kind, here()))

/** The ids of what the demo has. */
async function demoIds(): Promise<{ lectures: string[]; courses: string[] }> {
  const answer = await fetch('/demo/term.json')
  const { lectures, courses } = parseAs(DemoTerm, await answer.json(), 'demo term')
  return { lectures: lectures.map(({ lecture }) => lecture.id), courses: courses.map(({ id }) => id) }
}

/**
 * Takes over the database of a browser that had one library for both. @returns whether there was one: then the page has to
 * begin anew
 */
export async function adoptEarlier(): Promise<boolean> {
  if (openLibrary(here()) || !(await Dexie.exists(EARLIER))) return false
  // As it is, whatever its version: it is brought up to date when it is opened.
  const earlier = await new Dexie(EARLIER).open()
  const ids = async (table: string) => (await earlier.table(table).toCollection().primaryKeys()) as string[]
  const there = { lectures: await ids('lectures'), courses: await ids('courses') }
  earlier.close()
  const kind = ownerOfEarlier(there, await demoIds())
  adopt(kind, here())
  chooseLibrary(kind, here())
  return true
}

/** What keeps a library from being removed now, as a sentence; empty when nothing does. */
export async function removalProblem(): Promise<string> {
  const { held = [] } = await navigator.locks.query()
  if (held.some(({ name }) => name === RECORDING))
    return 'Something is being recorded. Stop and keep it or discard it first.'
  return held.some(({ name }) => name?.startsWith('job-'))
    ? 'Something is still being made or published. Wait until it is done, or cancel it under Jobs.'
    : ''
}

/**
 * Removes a library whole, with its recordings; what is opened next is the other one, if there is one. What was published
 * stays on the server.
 * @throws {Error} with a sentence
 */
export async function removeLibrary(kind: LibraryKind): Promise<void> {
  const problem = await removalProblem()
  if (problem) throw new Error(problem)
  const name = databaseName(kind, here())
  const other = kind === 'own' ? 'demo' : 'own'
  // Before it is told: what another tab opens then must not be this one, begun anew.
  chooseLibrary((await isBegun(other)) ? other : null, here())
  tellRemoved(kind)
  if (name === db.name) db.close()
  await Dexie.delete(name)
  forget(kind, here())
}
