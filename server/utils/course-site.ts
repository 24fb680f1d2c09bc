/**
 * The course site, as Thaw needs it: told where a lecture stands, asked who is in a course. The site that ships
 * is a stand-in; a real one stands behind the same interface.
 */
import { Type } from '@sinclair/typebox'
import { Student } from '#core/schema/attempt'
import type { Place } from '#core/schema/publication'
import { parseAs } from '#core/schema/validate'
import { secret } from './sessions'

export interface CourseSite {
  /** Puts a lecture on the course page, or changes where it stands; with `startsAt` one that is to be watched live. */
  announce(place: Place, title: string, startsAt?: string): Promise<void>
  /** Takes it off the page. */
  withdraw(placeId: string): Promise<void>
  roster(courseId: string): Promise<Student[]>
}

export async function courseSite(): Promise<CourseSite> {
  const base = process.env.THAW_COURSE_SITE ?? '/course-site'
  const headers = { authorization: `Bearer ${await secret('course-site')}` }
  return {
    async announce(place, title, startsAt) {
      await $fetch(`${base}/api/items/${place.id}`, { method: 'PUT', headers, body: { courseId: place.courseId, week: place.week, title, from: place.from, until: place.until, ...(startsAt && { liveAt: startsAt }) } })
    },
    async withdraw(placeId) {
      await $fetch(`${base}/api/items/${placeId}`, { method: 'DELETE', headers })
    },
    async roster(courseId) {
      return parseAs(Type.Array(Student), await $fetch<unknown>(`${base}/api/courses/${courseId}/roster`, { headers }), 'roster')
    },
  }
}
