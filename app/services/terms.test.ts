import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it } from 'vitest'
import { countWeeks, weekdayOf } from '#core/course/term'
import type { Course } from '#core/schema/lecture'
import type { Term } from '#core/schema/term'
import { db } from '~/db/database'
import { cardsOf, countWaiting, unplacedCards } from './cards'
import { createLecture } from './lectures'
import {
  addCourses,
  archiveCourse,
  archiveTerm,
  countBeyondTerm,
  deleteCourse,
  deleteTerm,
  newTerm,
  openCourses,
  presentTerm,
  saveCourse,
  saveTerm,
  saveTermCopy,
  sayCourseDependants,
  sayTermDependants,
  termLike,
} from './terms'

const term: Term = {
  ...{ id: 'autumn', name: 'Autumn', firstDay: '2026-09-07', lastDay: '2026-11-29', timeZone: 'Europe/Oslo' },
  holidays: [{ name: 'Reading week', from: '2026-10-12', to: '2026-10-18' }],
}
const course = (id: string, code: string, more: Partial<Course> = {}): Course => ({
  ...{ id, code, title: `${code} title`, termId: 'autumn' },
  ...more,
})
const weekOfLecture = async (id: string) => (await db.lectures.get(id))?.week

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()))
  await saveTerm(term)
  await saveCourse(course('bio', 'BIO 101'))
  await saveCourse(course('geo', 'GEO 2'))
})

describe('a term', () => {
  it('that is made shorter keeps its lectures, in its last week', async () => {
    const [early, late] = [await createLecture('bio', 3, 'Cells'), await createLecture('geo', 12, 'Rocks')]
    expect(await countBeyondTerm('autumn', 8)).toBe(1)
    await saveTerm({ ...term, lastDay: '2026-11-01' })
    expect([await weekOfLecture(early), await weekOfLecture(late)]).toEqual([3, 8])
    expect((await cardsOf('geo'))[0]?.lecture.week).toBe(8)
  })
  it('is copied with its courses and word lists, a year later on the same days of the week, without lectures', async () => {
    await createLecture('bio', 1, 'Cells')
    await db.words.put({ courseId: 'bio', words: [{ id: 'w', text: 'mitosis', heard: [] }] })
    await archiveCourse('geo', true)
    const copy = termLike(term)
    expect([weekdayOf(copy.firstDay), countWeeks(copy)]).toEqual([weekdayOf(term.firstDay), countWeeks(term)])
    expect(copy.holidays[0]?.from).toBe('2027-10-11')
    await saveTermCopy(copy, 'autumn')
    const [made, ...others] = await db.courses.where({ termId: copy.id }).toArray()
    expect([made?.code, others]).toEqual(['BIO 101', []])
    expect((await db.words.get(made?.id ?? ''))?.words.map((w) => w.text)).toEqual(['mitosis'])
    expect(await cardsOf(made?.id ?? '')).toEqual([])
  })
  it('that is deleted takes its courses along, and leaves their lectures in no course', async () => {
    const id = await createLecture('bio', 3, 'Cells')
    await saveTerm({ ...term, id: 'other' })
    await saveCourse(course('kept', 'KEPT', { termId: 'other' }))
    expect(await sayTermDependants('autumn')).toBe(
      '2 courses are deleted with it: BIO 101, GEO 2. 1 lecture stays, without a course.',
    )
    await deleteTerm('autumn')
    expect((await db.courses.toArray()).map((c) => c.id)).toEqual(['kept'])
    expect((await cardsOf('')).map((c) => c.lectureId)).toEqual([id])
    expect(await sayTermDependants('nothing')).toBe('No courses are in it.')
  })
  it('is shown when it goes on, else the next, else the last; never one that is archived', () => {
    const of = (id: string, firstDay: string, lastDay: string, archived = false): Term => ({
      ...{ ...term, id, firstDay, lastDay, archived },
    })
    const all = [
      of('a', '2026-01-05', '2026-03-01'),
      of('b', '2026-09-07', '2026-12-20'),
      of('c', '2027-01-04', '2027-04-11'),
    ]
    const at = (day: string) => presentTerm(all, day)?.id
    expect([at('2026-02-01'), at('2026-06-01'), at('2026-12-20'), at('2026-12-31'), at('2028-01-01')]).toEqual([
      'a',
      'b',
      'b',
      'c',
      'c',
    ])
    expect(presentTerm([of('a', '2026-01-05', '2026-03-01', true)], '2026-02-01')).toBeUndefined()
  })
  it('that is begun new comes after the one that goes on', () => {
    expect(newTerm('2026-12-02')).toMatchObject({ firstDay: '2026-11-30', lastDay: '2027-02-21' })
    expect(newTerm('2026-10-01', term).firstDay).toBe('2026-11-30')
    expect(newTerm('2027-01-15', term).firstDay).toBe('2027-01-11')
  })
})

describe('a course', () => {
  it.each<[string, Partial<Course>, RegExp]>([
    ['no code', { code: ' ' }, /code/],
    ['no title', { title: '' }, /title/],
    ['no term', { termId: 'gone' }, /term/],
    ['the code of another', { code: 'bio 101' }, /There is a course BIO 101 in this term already/],
    ['a meeting that ends before it begins', { meetings: [{ weekday: 1, from: '10:00', to: '09:00' }] }, /end after/],
    ['a meeting without a time', { meetings: [{ weekday: 1, from: '', to: '09:00' }] }, /when it begins and ends/],
  ])('with %s is refused in words, and nothing is changed', async (_, changes, words) => {
    await expect(saveCourse({ ...course('new', 'NEW'), ...changes })).rejects.toThrow(words)
    expect(await db.courses.count()).toBe(2)
  })
  it('that moves to a shorter term keeps its lectures in the weeks that are there', async () => {
    await saveTerm({ ...term, id: 'short', lastDay: '2026-09-20' })
    const id = await createLecture('bio', 9, 'Cells')
    await saveCourse(course('bio', 'BIO 101', { termId: 'short' }))
    expect(await weekOfLecture(id)).toBe(2)
  })
  it('that is deleted says what depends on it, leaves its lectures, and takes its word list', async () => {
    const id = await createLecture('bio', 2, 'Cells')
    await db.words.put({ courseId: 'bio', words: [{ id: 'w', text: 'mitosis', heard: [] }] })
    const place = { courseId: 'bio', from: '2026-09-07T08:00:00.000Z', until: null }
    await db.places.put({ id: 'p', lectureId: id, place: place as never, asked: [], removed: false })
    expect(await sayCourseDependants(course('bio', 'BIO 101'))).toBe(
      '1 lecture stays, without a course. 1 word of its word list goes with it. What is published stays on its course page for students until you take it off there: 1 lecture.',
    )
    await deleteCourse('bio')
    expect(await db.words.count()).toBe(0)
    expect(await db.lectures.get(id)).toMatchObject({ courseId: '', week: 2 })
    expect(await sayCourseDependants(course('geo', 'GEO 2'))).toBe('No lectures are in it.')
  })
  it('that another tab has deleted leaves what comes to it in sight', async () => {
    const ids = [await createLecture('gone', 1, 'Late'), await createLecture('', 1, 'Early')]
    await createLecture('bio', 1, 'Elsewhere')
    expect((await unplacedCards()).map((c) => c.lectureId).sort()).toEqual(ids.sort())
  })
  it('that is archived, or whose term is, has nothing that waits', async () => {
    for (const courseId of ['bio', 'geo']) {
      const id = await createLecture(courseId, 1, 'Waits')
      await db.cards.update(id, { waiting: 1 })
    }
    expect(await countWaiting()).toBe(2)
    await archiveCourse('geo', true)
    expect(await countWaiting()).toBe(1)
    await archiveTerm('autumn', true)
    expect(await countWaiting()).toBe(0)
  })
  it('is offered where something can go to it, unless it or its term is archived', async () => {
    expect((await openCourses()).map((c) => c.says)).toEqual(['BIO 101 BIO 101 title', 'GEO 2 GEO 2 title'])
    await saveTerm({ ...term, id: 'spring', name: 'Spring' })
    await saveCourse(course('b2', 'BIO 101', { termId: 'spring' }))
    expect((await openCourses()).map((c) => c.says)).toContain('BIO 101 BIO 101 title (Spring)')
    await archiveTerm('spring', true)
    await archiveCourse('geo', true)
    expect((await openCourses()).map((c) => c.course.id)).toEqual(['bio'])
    expect((await openCourses('geo')).map((c) => c.course.id)).toEqual(['bio', 'geo'])
  })
})

it('adds all courses of a table, or none', async () => {
  const line = (code: string) => ({ code, title: 'T', lecturer: 'L', language: 'de', meetings: [] })
  await expect(addCourses('autumn', [line('A'), line('GEO 2')])).rejects.toThrow(/GEO 2/)
  expect(await db.courses.count()).toBe(2)
  await addCourses('autumn', [line('A'), line('B')])
  expect((await openCourses()).map((c) => c.course.code)).toEqual(['A', 'B', 'BIO 101', 'GEO 2'])
})
