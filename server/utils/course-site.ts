/**
 * The course site, as Thaw needs it: told where a lecture stands, asked who is in a course. The site that ships
 * is a stand-in; a real one stands behind the same interface.
 */
import { Type } from '@sinclair/typebox'
import { useBase } from 'h3'
import { Student } from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { refuse } from './border'
import { courseSite as standIn, SiteItem } from '#standins/course-site/site'
import { secret } from './sessions'
import { useStore } from './storage'

/** What stands on the pages of the course site that ships. */
export const courseItems = () => useStore().documents('course-items', SiteItem)

/** The stand-in, below its own path; it shares nothing with Thaw but the launch secret. */
export const courseSiteHandler = useBase(
  '/course-site',
  standIn({
    items: {
      read: (id) => courseItems().read(id),
      write: (id, item) => courseItems().write(id, item),
      remove: (id) => courseItems().remove(id),
      ids: () => courseItems().ids(),
    },
    secret: () => secret('course-site'),
    launchUrl: '/api/watch/launch',
  }),
)

export interface CourseSite {
  /** Puts a lecture on the course page, or changes where it stands; with `startsAt` one that is to be watched live. */
  announce(place: Place, title: string, startsAt?: string): Promise<void>
  /** Takes it off the page. */
  withdraw(placeId: string): Promise<void>
  roster(courseId: string): Promise<Student[]>
}

/** The stand-in is asked as any other site is: over HTTP. */
const OWN = `http://localhost:${process.env.NITRO_PORT ?? process.env.PORT ?? 3000}/course-site`

/** What the course site refuses is told with its own words; that it does not answer is told too. */
async function ask(path: string, options: { method?: 'PUT' | 'DELETE'; body?: object } = {}): Promise<unknown> {
  const base = process.env.THAW_COURSE_SITE ?? OWN
  const headers = { authorization: `Bearer ${await secret('course-site')}` }
  try {
    return await $fetch<unknown, string>(`${base}/api/${path}`, { ...options, headers })
  } catch (error) {
    const { statusCode, data } = error as { statusCode?: number; data?: { message?: unknown } }
    const says = typeof data?.message === 'string' ? data.message : ''
    if (statusCode === 404 || statusCode === 400) refuse(statusCode, says || 'The course site knows nothing of this.')
    console.error(error)
    refuse(503, 'The course site does not answer. What was kept here is kept; try again in a moment.')
  }
}

export const courseSite: CourseSite = {
  async announce(place, title, startsAt) {
    const { courseId, week, from, until } = place
    await ask(`items/${place.id}`, {
      method: 'PUT',
      body: { courseId, week, title, from, until, ...(startsAt && { liveAt: startsAt }) },
    })
  },
  async withdraw(placeId) {
    await ask(`items/${placeId}`, { method: 'DELETE' })
  },
  roster: async (courseId) => parseAs(Type.Array(Student), await ask(`courses/${courseId}/roster`), 'roster'),
}
