/**
 * The course site, as Thaw needs it: told which courses there are and where a lecture stands, asked who is in a course. It
 * is another house's and is reached over HTTP; the one that ships is a stand-in (`standins/course-site`).
 */
import type { Student } from '#core/schema/attempt'
import { CourseItem, Enrolment, Roster, SiteCourse } from '#core/schema/course-site'
import type { Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { errorMessage } from '#core/text/error-message'
import { refuse } from './border'
import { useStore } from './storage'

/**
 * What the site has not been told yet: of the demo, and of servers on which it stood on a page of their own. What is
 * published since is told at once.
 */
export const untoldItems = () => useStore().documents('course-items', CourseItem)

/** Where the course site is, without a slash at its end; null when none is connected. */
export const courseSiteAddress = (): string | null => process.env.THAW_COURSE_SITE?.replace(/\/+$/, '') || null

const NONE =
  'No course site is connected to this server. Whoever runs it names one in the settings THAW_COURSE_SITE, THAW_COURSE_SITE_KEY and THAW_LAUNCH_SECRET.'
/** How long the site may take to answer, ms. */
const PATIENCE = 15_000

/** What the course site refuses is told with its own words; that it does not answer is told too. */
async function ask(path: string, options: { method?: 'PUT' | 'DELETE'; body?: object } = {}): Promise<unknown> {
  const address = courseSiteAddress()
  if (!address) return refuse(503, NONE)
  const headers = { authorization: `Bearer ${process.env.THAW_COURSE_SITE_KEY ?? ''}` }
  try {
    return await $fetch<unknown, string>(`${address}/api/${path}`, { ...options, headers, timeout: PATIENCE, retry: 0 })
  } catch (error) {
    const { statusCode, data } = error as { statusCode?: number; data?: { message?: unknown } }
    const says = typeof data?.message === 'string' ? data.message : ''
    if (statusCode === 404 || statusCode === 400) refuse(statusCode, says || 'The course site knows nothing of this.')
    if (statusCode === 401) refuse(503, 'The course site does not take the key of this server (THAW_COURSE_SITE_KEY).')
    console.error(error)
    return refuse(503, 'The course site does not answer. What was kept here is kept; try again in a moment.')
  }
}

/** One thing after the other about an item, so that what is older never comes after what is newer. */
const inItemTurn = <T>(id: string, act: () => Promise<T>) => useStore().exclusive(`course-item ${id}`, act)

/** Puts a lecture on the course page, or changes where it stands; with `startsAt` one that is to be watched live. */
export const announceItem = (place: Place, title: string, startsAt?: string): Promise<void> =>
  inItemTurn(place.id, async () => {
    const { courseId, week, from, until } = place
    const item: CourseItem = { courseId, week, title, from, until, ...(startsAt && { liveAt: startsAt }) }
    await ask(`items/${place.id}`, { method: 'PUT', body: item })
    await untoldItems().remove(place.id)
  })

/** Takes it off the page. */
export const withdrawItem = (placeId: string): Promise<void> =>
  inItemTurn(placeId, async () => {
    await ask(`items/${placeId}`, { method: 'DELETE' })
    await untoldItems().remove(placeId)
  })

/** Tells the site what it was not told yet. What it refuses is told on the console and left; where it does not answer, later. */
export async function tellUntold(): Promise<void> {
  if (!courseSiteAddress()) return
  for (const id of await untoldItems().ids()) {
    const isReached = await inItemTurn(id, async () => {
      const item = await untoldItems().read(id)
      if (!item) return true
      try {
        await ask(`items/${id}`, { method: 'PUT', body: item })
      } catch (error) {
        if ((error as { statusCode?: number }).statusCode !== 400) return false
        console.error(`“${item.title}” could not be put on its course page:`, errorMessage(error))
      }
      await untoldItems().remove(id)
      return true
    })
    if (!isReached) return
  }
}

export const courseRoster = async (courseId: string): Promise<Student[]> =>
  parseAs(Roster, await ask(`courses/${courseId}/roster`), 'roster')

/** People of the site who can be enrolled from here; a site that enrols by itself has none. */
export const sitePeople = async (): Promise<Student[]> => parseAs(Roster, await ask('people'), 'people')

/** Makes a course known to the site, or changes what it is called there. */
export const connectCourse = async (courseId: string, course: SiteCourse): Promise<void> =>
  void (await ask(`courses/${courseId}`, { method: 'PUT', body: course }))

/** Takes a course off the site, with all that stands on its page. */
export const disconnectCourse = async (courseId: string): Promise<void> =>
  void (await ask(`courses/${courseId}`, { method: 'DELETE' }))

/** @returns who is in the course then */
export const enrol = async (courseId: string, enrolment: Enrolment): Promise<Student[]> =>
  parseAs(Roster, await ask(`courses/${courseId}/roster`, { method: 'PUT', body: enrolment }), 'roster')
