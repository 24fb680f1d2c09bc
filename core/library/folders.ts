/**
 * Where a lecture is kept: in its course, and there in folders inside folders. A folder is the names on the way to it,
 * `Fieldwork/Slopes`; the course itself is `''`. It is there as long as a lecture is in it.
 */
import type { Course, Lecture } from '../schema/lecture'

const order = new Intl.Collator('en', { sensitivity: 'accent', numeric: true })

/** The names on the way to a folder, the outermost first; none for the course itself. */
const namesOf = (folder: string): string[] =>
  folder
    .split('/')
    .map((n) => n.trim().replace(/\s+/g, ' '))
    .filter((n) => n !== '')

/** The folders of a course, also those that hold only folders, in the order of the alphabet. */
export function foldersOf(lectures: readonly Pick<Lecture, 'courseId' | 'folder'>[], courseId: string): string[] {
  const all = new Set<string>()
  for (const { folder = '' } of lectures.filter((l) => l.courseId === courseId))
    namesOf(folder).forEach((_, i, names) => all.add(names.slice(0, i + 1).join('/')))
  return [...all].sort((a, b) => order.compare(a, b))
}

/**
 * Reads a folder as it is typed, names between slashes. One that is there already but for its capitals is meant: what
 * goes to a folder of nearly the same name gets lost.
 * @param known folders of the course
 */
export function readFolder(typed: string, known: readonly string[]): string {
  return namesOf(typed).reduce((above, name) => {
    const folder = above === '' ? name : `${above}/${name}`
    return known.find((k) => order.compare(k, folder) === 0) ?? folder
  }, '')
}

/** Whether `folder` is `outer` or lies inside it. */
export const isInside = (folder: string, outer: string): boolean =>
  outer === '' || folder === outer || folder.startsWith(`${outer}/`)

/** Where a lecture goes, in words. */
export function sayWhere(
  { code, title }: Pick<Course, 'code' | 'title'>,
  { week, folder = '' }: Pick<Lecture, 'week' | 'folder'>,
): string {
  return `${code} ${title}, week ${week}${folder ? `, folder ${sayFolder(folder)}` : ''}`
}

export const sayFolder = (folder: string): string => namesOf(folder).join(' › ')
