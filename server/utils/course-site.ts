/**
 * The course site, as Thaw needs it: told which courses there are and where a lecture stands, asked who is in a course. It
 * is another house's and is reached over HTTP; the one that ships is a stand-in (`standins/course-site`).
 */
import type { Student } from '#core/schema/attempt'
import { CourseItem, Enrolment, Roster, SiteCourse } from '#core/schema/course-site'
import type { Broadcast } from '#core/schema/live'
import type { Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { errorMessage } from '#core/text/error-message'
import { refuse } from './border'
import { foreignWords, limitedText } from './outgoing'
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
/** How long the site may take to answer, ms, and how much, bytes: the roster of a large course. */
const [PATIENCE, MOST] = [15_000, 4 << 20]

/** What the course site refuses is told with its own words; that it does not answer is told too. */
async function ask(path: string, options: { method?: 'PUT' | 'DELETE'; body?: object } = {}): Promise<unknown> {
  const address = courseSiteAddress()
  if (!address) return refuse(503, NONE)
  const { method = 'GET', body } = options
  let response: Response
  let text: string
  try {
    response = await fetch(`${address}/api/${path}`, {
      method,
      headers: {
        authorization: `Bearer ${process.env.THAW_COURSE_SITE_KEY ?? ''}`,
        ...(body && { 'content-type': 'application/json' }),
      },
      ...(body && { body: JSON.stringify(body) }),
      redirect: 'error',
      signal: AbortSignal.timeout(PATIENCE),
    })
    text = await limitedText(response, MOST)
  } catch (error) {
    console.error(error)
    return refuse(503, 'The course site does not answer. What was kept here is kept; try again in a moment.')
  }
  const told = parsed(text)
  if (response.ok) return told
  const message = typeof told === 'object' && told !== null && 'message' in told ? told.message : ''
  const says = foreignWords(message)
  if (response.status === 404 || response.status === 400)
    refuse(response.status, says || 'The course site knows nothing of this.')
  if (response.status === 401)
    refuse(503, 'The course site does not take the key of this server (THAW_COURSE_SITE_KEY).')
  console.error(`The course site answers ${response.status} to ${method} ${path}. ${says}`)
  return refuse(503, 'The course site does not answer. What was kept here is kept; try again in a moment.')
}

/** What an answer says; null where it says nothing, or nothing that can be read. */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return null
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

/**
 * Says on the course page that a lecture is watched live now, or that this is over. Nobody waits for it: the lecture goes on
 * without the course site, which is told later where it does not answer.
 */
export const tellLive = (place: Place, { title, startsAt }: Broadcast, live: 'on' | 'ended'): Promise<void> =>
  inItemTurn(place.id, async () => {
    if (!courseSiteAddress()) return
    const { courseId, week, from, until } = place
    const item: CourseItem = { courseId, week, title, from, until, liveAt: startsAt, live }
    await untoldItems().write(place.id, item)
    await tell(place.id, item)
  })

/** @returns whether the site answered; what it refuses is told on the console and left */
async function tell(id: string, item: CourseItem): Promise<boolean> {
  try {
    await ask(`items/${id}`, { method: 'PUT', body: item })
  } catch (error) {
    if ((error as { statusCode?: number }).statusCode !== 400) return false
    console.error(`“${item.title}” could not be put on its course page:`, errorMessage(error))
  }
  await untoldItems().remove(id)
  return true
}

/** Takes it off the page. */
export const withdrawItem = (placeId: string): Promise<void> =>
  inItemTurn(placeId, async () => {
    await ask(`items/${placeId}`, { method: 'DELETE' })
    await untoldItems().remove(placeId)
  })

/** Tells the site what it was not told yet; where it does not answer, later. */
export async function tellUntold(): Promise<void> {
  if (!courseSiteAddress()) return
  for (const id of await untoldItems().ids()) {
    const isReached = await inItemTurn(id, async () => {
      const item = await untoldItems().read(id)
      return item ? tell(id, item) : true
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
