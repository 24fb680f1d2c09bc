/** Lays out the demo term in a browser that has nothing yet, from files that ship with the app. */
import { db } from '~/db/database'
import { storeFile } from '~/db/files'
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { DEMO_ANCHOR, DemoQuestions, DemoTerm } from '#core/schema/demo'
import { apply, describe } from '#core/edit/edit'
import type { EditDocument } from '#core/schema/edit'
import { parseAs } from '#core/schema/validate'
import type { Feed, Take } from '#core/schema/lecture'
import { changeLecture, isCurrent, loadParts } from './cards'
import { saveCollege } from './college'
import { storeDocument } from './documents'
import { documentOf, fingerprints } from './fingerprint'
import { newId } from './ids'
import { authorProblem } from '~/utils/author'

async function get(url: string): Promise<Response> {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`The demo term could not be read (${url}: ${response.status}).`)
  return response
}

/** Stores an edit with a history in which each of its cuts was made. */
async function layOut(lectureId: string, edit: EditDocument): Promise<void> {
  let made = await storeDocument(lectureId, 'edit', null, { ...edit, removed: [] }, { says: '' })
  for (const { id, from, to, reason } of edit.removed) {
    const cut = { do: 'remove' as const, id, from, to, ...(reason && { reason }) }
    made = await storeDocument(lectureId, 'edit', made, apply(made, cut), { says: describe(cut) })
  }
}

const readDemo = async (): Promise<DemoTerm> =>
  parseAs(DemoTerm, await (await get('/demo/term.json')).json(), 'demo term')

export async function seedDemo(): Promise<void> {
  if (await db.settings.get('seeded')) {
    // Laid out by a version that had no colleges.
    if (!(await db.settings.get('college'))) await saveCollege((await readDemo()).college)
    return
  }
  // Two tabs at once lay it out once.
  await navigator.locks.request('thaw-seed', async () => {
    if (await db.settings.get('seeded')) return
    const term = shiftWeeks(await readDemo(), weeksSince(DEMO_ANCHOR, Date.now()))
    for (const { lecture, take, edit, captions, chapters, links, release } of term.lectures) {
      let taken: Take | null = null
      if (take) {
        const feeds: Feed[] = []
        for (const { file, ...feed } of take.feeds) {
          const data = await (await get(`/demo/media/${file}`)).blob()
          const fileId = newId()
          await storeFile({ id: fileId, type: data.type, name: file, size: data.size }, data, () => undefined)
          feeds.push({ ...feed, fileId })
        }
        taken = {
          id: `take-${lecture.id}`,
          lectureId: lecture.id,
          state: 'whole',
          startedAt: take.startedAt,
          duration: take.duration,
          feeds,
          pauses: [],
          note: '',
        }
      }
      await changeLecture(lecture.id, async () => {
        await db.lectures.put(lecture)
        if (taken) await db.takes.put(taken)
        if (edit) await layOut(lecture.id, edit)
        if (captions) await storeDocument(lecture.id, 'captions', null, captions, { says: '' })
        if (chapters) await storeDocument(lecture.id, 'chapters', null, chapters, { says: '' })
        if (links) await storeDocument(lecture.id, 'links', null, links, { says: '' })
        const parts = release && (await loadParts(lecture.id))
        if (!release || !parts) return
        const { publicationId, places, publishedAt } = release
        const sent = { publicationId, publishedAt, version: '', asked: {}, ...fingerprints(parts) }
        await db.releases.put({ lectureId: lecture.id, ...sent })
        await db.places.bulkPut(
          places.map((place) => ({ id: place.id, lectureId: lecture.id, place, asked: [], removed: false })),
        )
      })
    }
    // It is laid out around the present, wherever that is.
    const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
    await db.terms.bulkPut(term.terms.map((t) => ({ ...t, timeZone })))
    await db.courses.bulkPut(term.courses)
    await saveCollege(term.college)
    await db.settings.put({ key: 'seeded', value: new Date().toISOString() })
  })
}

/**
 * Adds the demo's question sets, which hold their keys and are given to the author alone: at the first start that is
 * signed in. A set that a person began meanwhile stays.
 */
export async function addDemoQuestions(): Promise<void> {
  if (!(await db.settings.get('seeded')) || (await db.settings.get('demo-questions'))) return
  if (await authorProblem()) return
  const answer = await fetch('/api/demo/questions').catch(() => null)
  if (!answer?.ok) return
  const sets = parseAs(DemoQuestions, await answer.json(), 'demo questions')
  for (const [lectureId, set] of Object.entries(sets)) {
    const before = await loadParts(lectureId)
    if (!before || documentOf(before, 'questions')) continue
    const { release } = before
    const wasCurrent = isCurrent(before)
    await changeLecture(lectureId, async () => {
      await storeDocument(lectureId, 'questions', null, set, { says: '' })
      const after = await loadParts(lectureId)
      // What is published has them.
      if (release && wasCurrent && after) await db.releases.put({ ...release, ...fingerprints(after) })
    })
  }
  await db.settings.put({ key: 'demo-questions', value: new Date().toISOString() })
}
