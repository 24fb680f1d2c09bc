/** Lays out the demo term in a browser that has nothing yet, from files that ship with the app. */
import { db } from '~/db/database'
import { storeFile } from '~/db/files'
import { shiftWeeks, weeksSince } from '#core/course/shift'
import { DEMO_ANCHOR, DemoTerm } from '#core/schema/demo'
import { parseAs } from '#core/schema/validate'
import type { Feed } from '#core/schema/lecture'
import { fingerprint, loadParts } from './lectures'
import { newId } from './ids'

async function get(url: string): Promise<Response> {
  const response = await fetch(url)
  if (!response.ok) throw new Error(`The demo term could not be read (${url}: ${response.status}).`)
  return response
}

export async function seedDemo(): Promise<void> {
  if (await db.settings.get('seeded')) return
  // Two tabs at once lay it out once.
  await navigator.locks.request('thaw-seed', async () => {
    if (await db.settings.get('seeded')) return
    const written = parseAs(DemoTerm, await (await get('/demo/term.json')).json(), 'demo term')
    const term = shiftWeeks(written, weeksSince(DEMO_ANCHOR, Date.now()))
    for (const { lecture, take, edit, captions, questions, release } of term.lectures) {
      if (take) {
        const feeds: Feed[] = []
        for (const { file, ...feed } of take.feeds) {
          const data = await (await get(`/demo/media/${file}`)).blob()
          const fileId = newId()
          await storeFile({ id: fileId, type: data.type, name: file, size: data.size }, data, () => undefined)
          feeds.push({ ...feed, fileId })
        }
        await db.takes.put({ id: `take-${lecture.id}`, lectureId: lecture.id, state: 'whole', startedAt: take.startedAt, duration: take.duration, feeds, pauses: [], note: '' })
      }
      if (edit) await db.edits.put({ lectureId: lecture.id, edit })
      if (captions) await db.captions.put({ lectureId: lecture.id, track: captions })
      if (questions) await db.questions.put({ lectureId: lecture.id, set: questions })
      await db.lectures.put(lecture)
      const parts = release && (await loadParts(lecture.id))
      if (release && parts) await db.releases.put({ lectureId: lecture.id, ...release, fingerprint: await fingerprint(parts) })
    }
    await db.courses.bulkPut(term.courses)
    await db.settings.put({ key: 'seeded', value: new Date().toISOString() })
  })
}
