import 'fake-indexeddb/auto'
import Dexie from 'dexie'
import { expect, it } from 'vitest'
import { FIRST_ISSUER } from '#core/course/people'
import { goTo } from '#core/documents/history'
import { kinds } from '#core/documents/kinds'
import { fingerprints, sha256Text } from '~/services/fingerprint'
import { canonicalJson } from '#core/text/canonical-json'
import { ThawDatabase, type DocumentRow } from './database'
import { DEFAULT_POLICY } from '#core/questions/policy'
import { oneRight } from '../../test/questions'

const NOW = '2026-11-23T10:00:00.000Z'

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
    const place = { id: `place-${lectureId}`, publicationId: `pub-${lectureId}`, courseId: 'c', week: 1 }
    await old
      .table('releases')
      .put({ lectureId, place: { ...place, from: NOW, until: null }, publishedAt: NOW, fingerprint })
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
    expect(await db.releases.get('l')).toMatchObject(fingerprints({ lecture, recording: null, rows }))
    expect(await db.releases.get('torn')).toMatchObject({ films: '', captions: '', sets: '' })
    expect(await db.jobs.get('j')).toEqual({ id: 'j', lectureId: 'l', restart: { do: 'captions', keep: true } })
    db.close()
  },
)

it('opens what version 9 wrote: a lecture at its only place, with its only set, and what was sent back there', async () => {
  const old = new Dexie('thaw-upgrade-9')
  old.version(9).stores({
    lectures: 'id, courseId',
    takes: 'id, lectureId, state',
    documents: 'id, lectureId',
    releases: 'lectureId',
    broadcasts: 'lectureId',
    responses: '[publicationId+seq], publicationId',
    sets: '[publicationId+version], publicationId',
    cards: 'lectureId, courseId, [courseId+folder], waiting, until',
    jobs: 'id, lectureId, state',
  })
  await old.table('lectures').put({ id: 'l', courseId: 'c', week: 1, title: 'Ice', description: '' })
  const set = { format: 'thaw-questions', version: 1, title: 'x', checkpoints: [] }
  const row = { id: 'l-questions', lectureId: 'l', kind: 'questions', document: set, applied: 0, conflicts: [] }
  await old.table('documents').put(row)
  const place = { id: 'pl', publicationId: 'pub', courseId: 'c', week: 1, from: NOW, until: null }
  const fingerprint = sha256Text(canonicalJson(['Ice', '', null, null, null, set]))
  await old.table('releases').put({ lectureId: 'l', place, publishedAt: NOW, fingerprint })
  await old.table('broadcasts').put({ lectureId: 'held', place: { ...place, id: 'held' }, title: 'x', startsAt: NOW })
  const graded = { publicationId: 'pub', checkpoints: [], keys: [] }
  await old.table('sets').bulkPut([
    { ...graded, version: 'v1', madeAt: '2026-11-01T10:00:00.000Z', current: false },
    { ...graded, version: 'v2', madeAt: NOW, current: true },
  ])
  const student = { id: 's', name: 'S' }
  const event = { id: 'e', kind: 'answer', questionId: 'q', choiceId: 'a', at: NOW, version: 'v1' }
  const stored = { seq: 7, receivedAt: NOW, placeId: 'pl', student, event }
  await old.table('responses').put({ ...stored, publicationId: 'pub' })
  await old.table('cards').put({ lectureId: 'l', waiting: 0 })
  const { courseId, week, from, until } = place
  const restart = { do: 'publish', where: { courseId, week: week + 1, from, until } }
  await old.table('jobs').put({ id: 'j', lectureId: 'l', state: 'running', restart })
  old.close()

  const db = new ThawDatabase('thaw-upgrade-9')
  const now = { ...place, sets: ['pub-questions'], options: { download: false } }
  expect(await db.places.toArray()).toEqual([{ id: 'pl', lectureId: 'l', place: now, asked: ['v2'], removed: false }])
  const rows = await db.documents.toArray()
  expect(rows[0]?.document).toEqual({ ...set, version: 4, policy: DEFAULT_POLICY })
  const lecture = (await db.lectures.get('l'))!
  expect(await db.releases.get('l')).toEqual({
    lectureId: 'l',
    publicationId: 'pub',
    version: 'v2',
    asked: { 'pub-questions': 'v2' },
    publishedAt: NOW,
    ...fingerprints({ lecture, recording: null, rows }),
  })
  const person = { issuer: FIRST_ISSUER, subject: 's', name: 'S' }
  const { choiceId: _, ...same } = event
  const answered = { ...same, answer: { kind: 'one-right', choice: 'a' } }
  const { seq, receivedAt, placeId } = stored
  expect(await db.sentBack.toArray()).toEqual([
    { placeId, who: 's', seq, student: person, events: [{ seq, receivedAt, event: answered }] },
  ])
  expect((await db.sets.toArray()).map((s) => [s.version, s.id, s.publishedAt])).toEqual([
    ['v1', 'pub-questions', '2026-11-01T10:00:00.000Z'],
    ['v2', 'pub-questions', NOW],
  ])
  expect((await db.broadcasts.get('held'))?.place).toMatchObject({ id: 'held', sets: ['pub-questions'] })
  expect((await db.jobs.get('j'))?.restart).toEqual({ do: 'publish', place: { ...now, week: 2 } })
  // A card is computed from other facts now, and written anew.
  expect(await db.cards.count()).toBe(0)
  db.close()
})

it('opens what version 11 wrote: feeds told by their kind and order, people told by an id alone', async () => {
  const old = new Dexie('thaw-upgrade-11')
  old.version(11).stores({ takes: 'id, lectureId, state', rosters: 'courseId' })
  const feeds = ['camera', 'sound', 'camera'].map((kind) => ({ kind, label: kind, fileId: `f-${kind}` }))
  await old.table('takes').put({ id: 't', lectureId: 'l', state: 'whole', feeds })
  await old.table('rosters').put({ courseId: 'c', students: [{ id: 's', name: '' }] })
  old.close()
  const db = new ThawDatabase('thaw-upgrade-11')
  expect((await db.takes.get('t'))?.feeds).toEqual([
    { ...feeds[0], id: 'camera' },
    { ...feeds[1], id: 'sound' },
    { ...feeds[2], id: 'camera-2' },
  ])
  expect(await db.rosters.get('c')).toEqual({ courseId: 'c', students: [{ issuer: FIRST_ISSUER, subject: 's' }] })
  expect(await db.assets.count()).toBe(0)
  db.close()
})

it('opens what version 12 wrote: a document whose first step was undone is there again, and empty', async () => {
  const old = new Dexie('thaw-upgrade-12')
  old.version(12).stores({ documents: 'id, lectureId', steps: '[documentId+seq], documentId' })
  const chapter = { id: 'a', at: 1, title: 'A' }
  const change = {
    items: [{ list: 'chapters', id: 'a', before: null, after: chapter }],
    fields: [
      { field: 'format', before: null, after: 'thaw-chapters' },
      { field: 'version', before: null, after: 1 },
    ],
  }
  const row = { lectureId: 'l', kind: 'chapters', conflicts: [] }
  const undone = { chapters: [] }
  await old.table('documents').put({ ...row, id: 'l-chapters', applied: 0, document: undone, unreadable: 'torn' })
  const held = { format: 'thaw-chapters', version: 1, chapters: [chapter] }
  await old.table('documents').put({ ...row, id: 'm-chapters', lectureId: 'm', applied: 1, document: held })
  for (const documentId of ['l-chapters', 'm-chapters'])
    await old.table('steps').put({ documentId, seq: 0, says: 'Added', doneAt: NOW, change })
  old.close()
  const db = new ThawDatabase('thaw-upgrade-12')
  for (const lectureId of ['l', 'm']) {
    const found = (await db.documents.get(`${lectureId}-chapters`)) as DocumentRow<'chapters'>
    expect(found).not.toHaveProperty('unreadable')
    expect(() => kinds.chapters.read(found.document)).not.toThrow()
    const steps = await db.steps.where('documentId').equals(found.id).toArray()
    for (const to of [0, 1]) {
      const { document } = goTo(kinds.chapters.lists, found.document, { steps, applied: found.applied }, to)
      expect(kinds.chapters.read(document).chapters).toEqual(to === 0 ? [] : [chapter])
    }
  }
  db.close()
})

it('writes one transaction after the other, also into tables that have nothing to do with each other', async () => {
  const [one, two] = [new ThawDatabase('thaw-in-turn'), new ThawDatabase('thaw-in-turn')]
  await Promise.all([one.open(), two.open()])
  const course = { id: 'c', code: 'C', title: 'Course', termId: 'term' }
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

it.each([true, false])(
  'opens what version 14 wrote, whose fingerprint of films was of its captions too (on: %s)',
  async (on) => {
    const name = `thaw-upgrade-14-${on}`
    const old = new Dexie(name)
    old.version(14).stores({
      lectures: 'id, courseId',
      takes: 'id, lectureId, state',
      documents: 'id, lectureId',
      releases: 'lectureId',
    })
    const lecture = {
      id: 'l',
      courseId: 'c',
      week: 1,
      title: 'Ice',
      description: '',
      createdAt: '2026-11-01T00:00:00.000Z',
    }
    const cues = [{ id: 'c', from: 1, to: 2, text: 'ice' }]
    const track = {
      format: 'thaw-captions',
      version: 1,
      language: 'en',
      state: on ? 'on' : 'checked',
      source: 'file',
      cues,
    }
    const row = { id: 'l-captions', lectureId: 'l', kind: 'captions', document: track, applied: 0, conflicts: [] }
    // As version 14 reckoned it: captions between the edit and the chapters.
    const films = (title: string) =>
      sha256Text(canonicalJson([title, '', null, null, on ? [[1, 2, 'ice', undefined]] : null, null, null]))
    await old.table('lectures').bulkPut([lecture, { ...lecture, id: 'changed' }])
    await old.table('documents').put(row)
    const sets = sha256Text(canonicalJson([]))
    await old.table('releases').bulkPut([
      { lectureId: 'l', films: films('Ice'), sets },
      { lectureId: 'changed', films: films('Snow'), sets },
    ])
    old.close()
    const db = new ThawDatabase(name)
    const published = { lecture, recording: null, rows: [row] } as never
    expect(await db.releases.get('l')).toEqual({ lectureId: 'l', ...fingerprints(published) })
    expect(await db.releases.get('changed')).toMatchObject({ films: '', captions: '' })
    db.close()
  },
)

it('opens what version 17 wrote: sets with one question at each checkpoint, their history, and what was sent back', async () => {
  const old = new Dexie('thaw-upgrade-17')
  old.version(17).stores({
    ...{ lectures: 'id, courseId', documents: 'id, lectureId', steps: '[documentId+seq], documentId' },
    ...{ releases: 'lectureId', sets: '[publicationId+version], publicationId', answers: '[placeId+seq], placeId' },
  })
  const before = (prompt: string) => ({
    ...{ id: 'cp', at: 3 },
    question: {
      ...{ id: 'q', kind: 'one-right', prompt, hint: '', points: 1 },
      choices: [
        { id: 'a', text: 'ice' },
        { id: 'b', text: 'snow' },
      ],
    },
    key: { questionId: 'q', right: 'b', explanation: 'so' },
  })
  const after = (prompt: string) => ({
    ...{ id: 'cp', at: 3 },
    questions: [oneRight('q', { a: 'ice', b: 'snow' }, { prompt, explanation: 'so', right: 'b' })],
  })
  const head = { format: 'thaw-questions', title: 'x', policy: { feedback: 'none' } }
  const document = { ...head, version: 2, checkpoints: [before('What?')] }
  const row = { id: 'l-questions', lectureId: 'l', kind: 'questions', document, applied: 1 }
  const conflict = { list: 'checkpoints', id: 'cp', sides: [before('What?'), null] }
  await old.table('documents').put({ ...row, conflicts: [conflict] })
  const item = { list: 'checkpoints', id: 'cp', before: before('Wat?'), after: before('What?') }
  const step = { documentId: 'l-questions', seq: 0, says: 'Changed', doneAt: NOW }
  const field = { field: 'policy', before: { feedback: 'at-once' }, after: { feedback: 'none' } }
  await old.table('steps').put({ ...step, change: { items: [item], fields: [field] } })
  const { checkpoints, ...published } = {
    version: 'v1',
    publicationId: 'pub',
    id: 's',
    title: 'x',
    publishedAt: NOW,
    checkpoints: [],
  }
  const { key, ...open } = before('What?')
  await old.table('sets').put({ ...published, checkpoints: [...checkpoints, open], keys: [key] })
  const stored = { seq: 1, receivedAt: NOW, placeId: 'pl', student: { issuer: FIRST_ISSUER, subject: 's' } }
  const event = { id: 'e', kind: 'answer', questionId: 'q', at: NOW, version: 'v1' }
  const rows17 = [
    [2, 'pl'],
    [3, 'other'],
    [1, 'pl'],
  ] as const
  for (const [seq, placeId] of rows17)
    await old.table('answers').put({ ...stored, seq, placeId, event: { ...event, id: `e${seq}`, choiceId: 'b' } })
  const lecture = { id: 'l', courseId: 'c', week: 1, title: 'L', description: '', createdAt: NOW }
  await old.table('lectures').bulkPut([lecture, { ...lecture, id: 'm' }])
  const release = { publicationId: 'pub', version: 'v1', asked: {}, publishedAt: NOW, films: 'f', captions: 'c' }
  const current = fingerprints({ lecture, recording: null, rows: [row] } as never).sets
  await old.table('releases').bulkPut([
    { ...release, lectureId: 'l', sets: current },
    { ...release, lectureId: 'm', sets: 'of something else' },
  ])
  old.close()

  const db = new ThawDatabase('thaw-upgrade-17')
  const silent = { ...DEFAULT_POLICY, feedback: 'never', score: 'never', solutions: 'never' }
  const now = { ...head, version: 4, policy: silent, checkpoints: [after('What?')] }
  const rows = await db.documents.toArray()
  expect(rows).toEqual([{ ...row, document: now, conflicts: [{ ...conflict, sides: [after('What?'), null] }] }])
  expect(await db.steps.toArray()).toEqual([
    {
      ...step,
      change: {
        items: [{ ...item, before: after('Wat?'), after: after('What?') }],
        fields: [{ ...field, before: DEFAULT_POLICY, after: silent }],
      },
    },
  ])
  const { open: asked, key: graded } = oneRight(
    'q',
    { a: 'ice', b: 'snow' },
    { prompt: 'What?', explanation: 'so', right: 'b' },
  )
  expect(await db.sets.toArray()).toEqual([
    { ...published, policy: DEFAULT_POLICY, checkpoints: [{ id: 'cp', at: 3, questions: [asked] }], keys: [graded] },
  ])
  const answered = { ...event, answer: { kind: 'one-right', choice: 'b' } }
  const { student } = stored
  const sent = (placeId: string, seqs: number[]) => ({
    ...{ placeId, who: 's', student, seq: seqs.at(-1) },
    events: seqs.map((seq) => ({ seq, receivedAt: NOW, event: { ...answered, id: `e${seq}` } })),
  })
  expect(await db.sentBack.orderBy('placeId').toArray()).toEqual([sent('other', [3]), sent('pl', [1, 2])])
  // What was out as the desk shows it still is.
  const out = fingerprints({ lecture, recording: null, rows } as never).sets
  expect((await db.releases.toArray()).map((r) => r.sets)).toEqual([out, 'of something else'])
  db.close()
})

it('opens what version 22 wrote: courses that began together are in one term, and everything else is as it was', async () => {
  const old = new Dexie('thaw-upgrade-22')
  old.version(22).stores({ courses: 'id', lectures: 'id, courseId', settings: 'key' })
  const course = { title: 'Ice', startsOn: '2026-10-26', weeks: 8 }
  await old.table('courses').bulkPut([
    { ...course, id: 'a', code: 'A', language: 'de' },
    { ...course, id: 'b', code: 'B' },
    { ...course, id: 'c', code: 'C', startsOn: '2027-01-04', weeks: 14 },
  ])
  const lecture = { id: 'l', courseId: 'a', week: 8, title: 'L', description: '', createdAt: NOW }
  await old.table('lectures').put(lecture)
  old.close()
  const db = new ThawDatabase('thaw-upgrade-22')
  const [a, b, c] = await db.courses.toArray()
  expect(a).toEqual({ id: 'a', code: 'A', title: 'Ice', language: 'de', termId: b?.termId })
  expect(await db.terms.get(a?.termId ?? '')).toMatchObject({ firstDay: '2026-10-26', lastDay: '2026-12-20' })
  expect(await db.terms.get(c?.termId ?? '')).toMatchObject({ firstDay: '2027-01-04', lastDay: '2027-04-11' })
  expect(await db.terms.count()).toBe(2)
  expect(await db.lectures.toArray()).toEqual([lecture])
  db.close()
})
