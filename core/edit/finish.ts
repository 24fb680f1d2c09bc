/**
 * Putting a finish on a lecture: cards whose fields are filled from its particulars, a mark, sound treatment, proposals
 * taken, chapters from slides; with what was done, and what a person should look at. Put on once more, it takes the
 * place of itself, and of any other finish.
 */
import { copyrightNotice } from '../library/rights'
import { newChapterList } from '../marks/chapters'
import type { ProposedWordCut } from '../captions/propose-word-cuts'
import { kinds, type Documents, type Kind } from '../documents/kinds'
import { Finish, type FinishCard } from '../schema/finish'
import type { EditDocument, Insert } from '../schema/edit'
import type { Course, Lecture } from '../schema/lecture'
import type { ChapterList } from '../schema/marks'
import { parseAs } from '../schema/validate'
import { openProposals, type ProposedCut } from '../sound/silence'
import { sayCount } from '../text/words'
import { totalLength } from '../time/ranges'
import { projectRange, type TimeMap } from '../time/time-map'
import { sayDuration } from '../time/timecode'
import { recorded, type RecordedTime } from '../time/units'
import { editLists, editTimeMap, removeAll } from './edit'

/** Reads a finish from outside. @throws {InvalidDocument} */
export const readFinish = (data: unknown): Finish => parseAs(Finish, data, 'finish')

/** What may stand in braces on a card, and how it is called. */
export const finishFields = {
  title: 'the title',
  course: 'the course',
  week: 'the week',
  lecturer: 'the lecturer',
  date: 'the date',
  rights: 'the copyright notice',
} as const
export type FinishField = keyof typeof finishFields
/** What they say of one lecture; empty where nothing is known. */
export type FieldValues = Readonly<Record<FinishField, string>>

/** @param date when it was recorded, as a person writes it; empty when it is not known */
export function fieldsOf(
  { title, week, lecturer, rights }: Pick<Lecture, 'title' | 'week' | 'lecturer' | 'rights'>,
  course: Pick<Course, 'code' | 'title' | 'lecturer'> | null,
  date: string,
): FieldValues {
  return {
    title,
    course: course ? `${course.code} ${course.title}`.trim() : '',
    week: course ? `Week ${week}` : '',
    lecturer: lecturer?.trim() || (course?.lecturer ?? ''),
    date,
    rights: rights?.owner.trim() ? copyrightNotice(rights) : '',
  }
}

const FIELD = /\{(\w+)\}/g
/** Longest that a title stays large on a card, characters. */
const LONG_TITLE = 80

/**
 * Words with their fields filled. A line that says nothing without a missing field goes; marks that stood between two
 * fields go with the one that is missing.
 * @returns `missing` names the fields that say nothing, `unknown` those that there are not, which stay as they stand
 */
export function fillFields(
  text: string,
  values: FieldValues,
): { text: string; missing: FinishField[]; unknown: string[] } {
  const missing = new Set<FinishField>()
  const unknown = new Set<string>()
  const lines = text.split('\n').flatMap((line) => {
    let lacks = false
    const filled = line.replace(FIELD, (whole, name: string) => {
      if (!Object.hasOwn(finishFields, name)) {
        unknown.add(name)
        return whole
      }
      const value = values[name as FinishField]
      if (!value) {
        missing.add(name as FinishField)
        lacks = true
      }
      return value
    })
    if (!lacks) return [filled]
    const rest = filled.replace(/\s*([·|,–—-])(\s*\1)+\s*/g, ' $1 ').replace(/^[\s·|,–—-]+|[\s·|,–—-]+$/g, '')
    return rest ? [rest] : []
  })
  return { text: lines.join('\n'), missing: [...missing], unknown: [...unknown] }
}

/** What a finish is put on. */
export interface FinishSubject {
  fields: FieldValues
  edit: EditDocument
  /** null while there are none. */
  chapters: ChapterList | null
  /** Further documents, of which what falls out is told. */
  others: { [K in Exclude<Kind, 'edit' | 'chapters'>]?: Documents[K] | null }
  proposals: readonly (ProposedCut | ProposedWordCut)[]
  slides: readonly { at: RecordedTime; title: string }[]
  /** Whether anything is to be heard in it. */
  hasSound: boolean
  /** Stretches in which the sound is clipped. */
  clipped: number
}

export interface Finished {
  edit: EditDocument
  chapters: ChapterList | null
  /** What was done, and what a person should look at, as sentences. */
  did: string[]
  look: string[]
}

const reasons = {
  ends: ['start', 'end', 'false-start'],
  pauses: ['pause', 'cough', 'bump'],
  words: ['filled-pause', 'repetition', 'restart'],
} as const
/** More than this share taken out is told. */
const MUCH = 0.25
/** A chapter this near to another, s, is the same. */
const NEAR = 2
/** Ids of what a finish puts in. */
const OPENING = 'finish-opening'
const CLOSING = 'finish-closing'

const others = {
  captions: ['caption', 'captions'],
  links: ['link card', 'link cards'],
  questions: ['question', 'questions'],
} as const

function lostIn(subject: FinishSubject, map: TimeMap): Record<keyof typeof others, number> {
  const count = <K extends keyof typeof others>(kind: K): number => {
    const document = subject.others[kind]
    return document ? kinds[kind].project(document as Documents[K], map).lost.length : 0
  }
  return { captions: count('captions'), links: count('links'), questions: count('questions') }
}

function withCards(finish: Finish, { edit, fields }: FinishSubject, done: Finished): EditDocument {
  const kept = edit.inserts.filter((i) => i.id !== OPENING && i.id !== CLOSING)
  const card = (id: string, at: RecordedTime, { title, text, ...look }: FinishCard, where: string): Insert[] => {
    const filled = { title: fillFields(title, fields), text: fillFields(text, fields) }
    const missing = new Set([...filled.title.missing, ...filled.text.missing])
    for (const field of missing) done.look.push(`The ${where} card lacks ${finishFields[field]}.`)
    for (const name of new Set([...filled.title.unknown, ...filled.text.unknown]))
      done.look.push(`The ${where} card says “{${name}}”, which is no field.`)
    if (!filled.title.text && !filled.text.text) {
      done.look.push(`The ${where} card was left out, as it would be empty.`)
      return []
    }
    if (filled.title.text.length > LONG_TITLE) done.look.push(`The ${where} card’s title is long, and set small.`)
    done.did.push(`${where === 'opening' ? 'An' : 'A'} ${where} card.`)
    if (kept.some((i) => (where === 'opening' ? i.at === 0 : i.at >= edit.duration)))
      done.look.push(
        where === 'opening'
          ? 'Something else was put in at the start; the opening card is before it.'
          : 'Something else was put in at the end; the closing card is after it.',
      )
    const words = { title: filled.title.text.replace(/\n/g, ' ').slice(0, 200), text: filled.text.text.slice(0, 600) }
    return [{ id, at, what: { kind: 'card', ...words, ...look } }]
  }
  const inserts = [
    ...(finish.opening ? card(OPENING, recorded(0), finish.opening, 'opening') : []),
    ...kept,
    ...(finish.closing ? card(CLOSING, edit.duration, finish.closing, 'closing') : []),
  ]
  // In the order in which they stand here, wherever several begin at one instant.
  return { ...edit, inserts: inserts.map((insert, order) => ({ ...insert, order })).sort(editLists.inserts) }
}

function withChapters(
  { chapters, slides }: FinishSubject,
  map: TimeMap,
  done: Finished,
  newId: () => string,
): ChapterList | null {
  const known = chapters?.chapters ?? []
  const found = slides.flatMap(({ at, title }, i) => {
    const to = slides[i + 1]?.at ?? map.duration
    // One whose beginning is taken out begins where it is first seen.
    const seen = recorded(map.removed.find((r) => r.from <= at && at < r.to)?.to ?? at)
    const isSeen = seen < to && projectRange(map, { from: seen, to }).pieces.length > 0
    return isSeen && !known.some((c) => Math.abs(c.at - seen) < NEAR) ? [{ id: newId(), at: seen, title }] : []
  })
  // One slide from first to last divides nothing.
  const isDivided = slides.length > 1
  if (!isDivided && known.length === 0) done.look.push('No slides were found, so that there are no chapters.')
  if (!isDivided || found.length === 0) return chapters
  done.did.push(`${sayCount(found.length, 'chapter', 'chapters')} from slides.`)
  if (found.some((c) => /^Slide \d+$/.test(c.title)))
    done.look.push('Chapters are numbered, as slides do not say their titles.')
  const list = chapters ?? newChapterList()
  return {
    ...list,
    chapters: [...list.chapters, ...found].sort(kinds.chapters.lists.chapters as (a: object, b: object) => number),
  }
}

/**
 * Puts a finish on a lecture.
 * @param newId gives an id for each cut and chapter
 */
export function putFinish(finish: Finish, subject: FinishSubject, newId: () => string): Finished {
  const before = editTimeMap(subject.edit)
  const done: Finished = { edit: subject.edit, chapters: subject.chapters, did: [], look: [] }
  const wanted = (Object.keys(reasons) as (keyof typeof reasons)[]).flatMap((kind): readonly string[] =>
    finish.trims[kind] ? reasons[kind] : [],
  )
  const taken = openProposals(before, subject.proposals).filter((p) => wanted.includes(p.reason))
  if (taken.length > 0) {
    done.edit = removeAll(done.edit, taken, newId)
    const out = totalLength(taken)
    done.did.push(`${sayCount(taken.length, 'part', 'parts')} taken out, ${sayDuration(out)}.`)
    if (out > MUCH * before.length) done.look.push(`${Math.round((100 * out) / before.length)} % of it was taken out.`)
    if (taken.some((p) => p.reason === 'false-start'))
      done.look.push('A false start was taken out: hear how it begins.')
    const [was, is] = [lostIn(subject, before), lostIn(subject, editTimeMap(done.edit))]
    for (const kind of Object.keys(others) as (keyof typeof others)[]) {
      const lost = is[kind] - was[kind]
      const [one, several] = others[kind]
      if (lost > 0)
        done.look.push(`${sayCount(lost, `${one} lies`, `${several} lie`)}, whole or in part, in what was taken out.`)
    }
  }
  done.edit = withCards(finish, { ...subject, edit: done.edit }, done)
  if (finish.watermark) {
    done.edit = { ...done.edit, watermark: finish.watermark }
    done.did.push('A mark over it.')
  }
  if (finish.sound && !subject.hasSound) done.look.push('It has no sound to be treated.')
  else if (finish.sound) {
    done.edit = { ...done.edit, sound: finish.sound }
    done.did.push('Its sound treated.')
  }
  if (subject.clipped > 0) done.look.push(`Its sound is clipped in ${sayCount(subject.clipped, 'place', 'places')}.`)
  if (finish.chapters) done.chapters = withChapters(subject, editTimeMap(done.edit), done, newId)
  return done
}

/** A finish in which nothing is said yet. */
export const newFinish = (id: string, name: string): Finish => ({
  format: 'thaw-finish',
  version: 1,
  id,
  name,
  opening: { title: '{title}', text: '{lecturer}\n{course} · {date}', seconds: 4, ink: '#f6f7f3', ground: '#1b4b57' },
  closing: { title: '', text: '{rights}', seconds: 5, ink: '#f6f7f3', ground: '#1b4b57' },
  watermark: null,
  sound: { noise: 'keep', loudness: -16, truePeak: -1 },
  trims: { ends: true, pauses: false, words: false },
  chapters: true,
})
