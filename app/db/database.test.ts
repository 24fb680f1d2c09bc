import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { expect, it } from 'vitest'
import { goTo } from '#core/documents/history'
import { kinds } from '#core/documents/kinds'
import { fingerprint, sha256Text } from '~/services/fingerprint'
import { ThawDatabase, type DocumentRow } from './database'

/** A database as an earlier version left it. */
async function earlier(name: string, version: number): Promise<void> {
  const old = new Dexie(name)
  old.version(version).stores({
    edits: 'lectureId',
    captions: 'lectureId',
    questions: 'lectureId',
    jobs: 'id, lectureId, state',
    lectures: 'id, courseId',
    takes: 'id, lectureId, state',
    releases: 'lectureId',
  })
  const commands = [
    { do: 'remove', id: 'a', from: 10, to: 20 },
    { do: 'remove', id: 'b', from: 18, to: 30 },
    { do: 'layout', layout: 'camera' },
  ]
  const edit = { format: 'thaw-edit', version: version < 5 ? 1 : 2, duration: 60, frameRate: 25, commands, applied: 2 }
  await old.table('edits').put({ lectureId: 'l', edit })
  await old.table('edits').put({ lectureId: 'torn', edit: { ...edit, applied: 9 } })
  const cue = { id: 'c', from: 1, to: 2, text: 'ice' }
  const track = { format: 'thaw-captions', version: 1, language: 'en', state: 'on', source: 'person', cues: [cue] }
  await old.table('captions').put({ lectureId: 'l', track, conflicts: [{ id: 'c', sides: [cue, null] }] })
  const set = { format: 'thaw-questions', version: 1, title: 'x', checkpoints: [] }
  await old.table('questions').put({ lectureId: 'l', set })
  // Published as it stands, and published before it was changed.
  for (const lectureId of ['l', 'torn']) {
    const lecture = { id: lectureId, courseId: 'c', week: 1, title: 'Ice', description: '' }
    await old.table('lectures').put(lecture)
    const what = ['Ice', '', null, commands.slice(0, 2), [[1, 2, 'ice', undefined]], set]
    const fingerprint = lectureId === 'l' ? sha256Text(JSON.stringify(what)) : 'another'
    await old.table('releases').put({ lectureId, place: { id: 'p' }, fingerprint })
  }
  await old.table('jobs').put({ id: 'j', lectureId: 'l', again: { do: 'captions', keep: true } })
  old.close()
}

it.each([4, 5])(
  'opens what version %i wrote: documents as they were, an edit with all that was done',
  async (version) => {
    await earlier(`thaw-upgrade-${version}`, version)
    const db = new ThawDatabase(`thaw-upgrade-${version}`)
    const row = (await db.documents.get('l-edit')) as DocumentRow<'edit'>
    const removed =
      version < 5
        ? [{ id: 'b', from: 10, to: 30 }]
        : [
            { id: 'a', from: 10, to: 20 },
            { id: 'b', from: 18, to: 30 },
          ]
    expect(row.document).toMatchObject({ version: 3, removed, layout: 'inset' })
    const steps = await db.steps.where('documentId').equals('l-edit').sortBy('seq')
    expect(steps.map((s) => s.says)).toEqual([
      'Took out 0:10.0 – 0:20.0',
      expect.stringContaining('Took out'),
      'Camera alone',
    ])
    const at = (n: number) => goTo(kinds.edit.lists, row.document, { steps, applied: row.applied }, n).document
    expect(at(0).removed).toEqual([])
    expect(at(1).removed).toEqual([{ id: 'a', from: 10, to: 20 }])
    expect([at(3).layout, at(3).removed]).toEqual(['camera', removed])
    expect(await db.documents.get('l-captions')).toMatchObject({
      lectureId: 'l',
      kind: 'captions',
      document: { state: 'on', cues: [{ text: 'ice' }] },
      applied: 0,
      conflicts: [{ list: 'cues', id: 'c' }],
    })
    expect(await db.documents.get('l-questions')).toMatchObject({ kind: 'questions', document: { title: 'x' } })
    // What cannot be read is kept as it was, and named when it is opened.
    const torn = (await db.documents.get('torn-edit'))?.document
    expect(torn).toMatchObject({ applied: 9, commands: [{}, {}, {}] })
    const whole = await db.documents.filter((d) => d.unreadable === undefined).primaryKeys()
    expect(whole).toEqual(['l-captions', 'l-edit', 'l-questions'])
    expect(() => kinds.edit.read(torn)).toThrow('/applied is 9 of 3 commands')
    // What was current stays so.
    const [lecture, rows] = [(await db.lectures.get('l'))!, await db.documents.where('lectureId').equals('l').toArray()]
    expect((await db.releases.get('l'))?.fingerprint).toBe(fingerprint({ lecture, recording: null, rows }))
    expect((await db.releases.get('torn'))?.fingerprint).toBe('another')
    expect(await db.jobs.get('j')).toEqual({ id: 'j', lectureId: 'l', restart: { do: 'captions', keep: true } })
    db.close()
  },
)

it('writes one transaction after the other, also into tables that have nothing to do with each other', async () => {
  const [one, two] = [new ThawDatabase('thaw-in-turn'), new ThawDatabase('thaw-in-turn')]
  await Promise.all([one.open(), two.open()])
  const course = { id: 'c', code: 'C', title: 'Course', startsOn: '2026-11-23', weeks: 8 }
  const said: string[] = []
  let begun: () => void
  const first = new Promise<void>((resolve) => (begun = resolve))
  const slow = one.transaction('rw', one.courses, async () => {
    await one.courses.put(course)
    said.push('first begun')
    begun()
    for (let i = 0; i < 200; i++) await one.courses.get('c')
    said.push('first done')
  })
  const other = first.then(() => two.settings.put({ key: 'k', value: 'v' })).then(() => said.push('second'))
  await Promise.all([slow, other])
  expect(said).toEqual(['first begun', 'first done', 'second'])
  one.close()
  two.close()
})
