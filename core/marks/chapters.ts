/** Chapters: where one begins, and where it stands in the result. */
import { writeTimestamp } from '../captions/vtt'
import type { Chapter, ChapterList } from '../schema/marks'
import { ChapterList as ChapterListSchema } from '../schema/marks'
import { parseAs } from '../schema/validate'
import { projectRange, type TimeMap } from '../time/time-map'
import { recorded } from '../time/units'

export const newChapterList = (): ChapterList => ({ format: 'thaw-chapters', version: 1, chapters: [] })

/** Two that begin at one instant stand in a fixed order. */
export const byInstant = (a: Chapter, b: Chapter): number => a.at - b.at || (a.id < b.id ? -1 : 1)

/** Reads chapters from outside. @throws {InvalidDocument} */
export function readChapters(data: unknown): ChapterList {
  const list = parseAs(ChapterListSchema, data, 'list of chapters')
  return { ...list, chapters: [...list.chapters].sort(byInstant) }
}

/**
 * Chapters of a result as WebVTT (§6.1, chapters), each until the next one.
 * @param length of the result, s
 */
export const chaptersVtt = (chapters: readonly { at: number; title: string }[], length: number): string =>
  [
    'WEBVTT',
    ...chapters.map(({ at, title }, i) => {
      const to = Math.max(at + 0.001, chapters[i + 1]?.at ?? length)
      // A chapter's title is one line without markup; an arrow would end it.
      const text = title
        .replace(/[\r\n]+/g, ' ')
        .replace(/&/g, '&amp;')
        .replace(/</g, '&lt;')
        .replace(/>/g, '&gt;')
      return `${writeTimestamp(at, '.')} --> ${writeTimestamp(to, '.')}\n${text || 'Chapter'}`
    }),
    '',
  ].join('\n\n')

/** What keeps chapters from being useful, as sentences. */
export function chapterProblems({ chapters }: ChapterList): string[] {
  const unnamed = chapters.filter((c) => !c.title.trim()).length
  return unnamed === 0 ? [] : [unnamed === 1 ? 'One chapter has no title.' : `${unnamed} chapters have no title.`]
}

/** Chapters in the result: each begins with the first of it that is kept, and is lost when nothing is. */
export function projectChapters(chapters: readonly Chapter[], map: TimeMap) {
  const projected = chapters.map((item, i) => {
    const to = recorded(chapters[i + 1]?.at ?? map.duration)
    return { item, at: projectRange(map, { from: recorded(item.at), to }).pieces[0]?.from }
  })
  return {
    visible: projected.flatMap(({ item, at }) => (at === undefined ? [] : [{ item, at }])),
    lost: projected.filter(({ at }) => at === undefined),
  }
}
