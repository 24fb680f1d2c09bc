/** The course site as the author's browser sees it, by way of the server: whether a course is there, and who attends it. */
import { personKey } from '#core/course/people'
import { CourseSiteAddress } from '#core/schema/answers'
import type { Student } from '#core/schema/attempt'
import { Roster } from '#core/schema/course-site'
import type { Course } from '#core/schema/lecture'
import { parseAs } from '#core/schema/validate'
import { authorFetch, Refused } from '~/utils/author'

/** Where a course stands with the course site. */
export interface SiteStanding {
  /** Address of the site; null when this server has none. */
  address: string | null
  /** Who attends the course there; null when the site does not have it. */
  roster: Student[] | null
  /** Who can be enrolled from here; nobody where the site enrols by itself. */
  people: Student[]
}

const NOTHING: SiteStanding = { address: null, roster: null, people: [] }

const put = (url: string, body: object) =>
  authorFetch(url, { method: 'PUT', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })

/** @throws {Refused} when the course site does not answer, or nobody is signed in */
export async function courseSiteAddress(): Promise<string | null> {
  return parseAs(CourseSiteAddress, await (await authorFetch('/api/course-site')).json(), 'answer of the server')
    .address
}

/** What a site gives; null where it knows nothing of what was asked. */
async function people(url: string): Promise<Student[] | null> {
  try {
    return parseAs(Roster, await (await authorFetch(url)).json(), 'answer of the course site')
  } catch (error) {
    if (error instanceof Refused && error.status === 404) return null
    throw error
  }
}

/** @throws {Refused} when the course site does not answer, or nobody is signed in */
export async function siteStanding(courseId: string): Promise<SiteStanding> {
  const address = await courseSiteAddress()
  if (!address) return NOTHING
  const [roster, known] = await Promise.all([
    people(`/api/courses/${courseId}/roster`),
    people('/api/course-site/people'),
  ])
  const attending = new Set(roster?.map(personKey))
  // Those of the demo attend its courses alone and cannot be enrolled elsewhere; here they are shown with the others.
  const others = (known ?? []).filter((one) => !attending.has(personKey(one)))
  return { address, roster, people: roster?.length ? [...roster, ...others] : others }
}

/** Makes a course known to the site, with everybody whom it lets be enrolled. */
export async function connectCourse({ id, code, title }: Course, everybody: readonly Student[]): Promise<void> {
  await put(`/api/courses/${id}`, { code, title })
  if (everybody.length > 0) await enrol(id, everybody)
}

export const enrol = async (courseId: string, students: readonly Student[]): Promise<void> =>
  void (await put(`/api/courses/${courseId}/roster`, { subjects: students.map((s) => s.subject) }))

export const disconnectCourse = async (courseId: string): Promise<void> =>
  void (await authorFetch(`/api/courses/${courseId}`, { method: 'DELETE' }))
