/**
 * A stand-in for a college's course site, on a server of its own: made-up students sign in by name, see their courses and
 * what is released in them now, and open a lecture through a signed launch. Thaw talks to it only through `/api`.
 */
import { randomUUID, timingSafeEqual } from 'node:crypto'
import { Type, type Static, type TSchema } from '@sinclair/typebox'
import {
  createError,
  createRouter,
  defineEventHandler,
  getCookie,
  getHeader,
  getRouterParam,
  sendRedirect,
  setCookie,
  setHeader,
  type App,
  type H3Event,
} from 'h3'
import { jwtVerify, SignJWT } from 'jose'
import { releaseState } from '../../core/course/release'
import { collectBytes } from '../../core/schema/collect'
import { CourseItem, Enrolment, SiteCourse } from '../../core/schema/course-site'
import { closed, Id, Line } from '../../core/schema/parts'
import { InvalidDocument, parseAs } from '../../core/schema/validate'
import type { Documents } from '../documents'
import { standInApp } from '../serve'
import { coursePage, coursesPage, itemPage, signInPage } from './pages'
import { demoStudents, practiceStudents, type KeptCourse, type SiteStudent } from './people'

/** A course as the site keeps it. */
export const StoredCourse = Type.Object(
  { code: Line(), title: Line(), members: Type.Array(Type.String({ maxLength: 255 })) },
  closed,
)

export interface SiteSettings {
  courses: Documents<KeptCourse>
  items: Documents<CourseItem>
  /** Whether the students of the demo's college are here. */
  demo: boolean
  /** Lets Thaw in at `/api`. */
  key: string
  /** Signs launches; Thaw has it too. */
  launchSecret: string
  /** Signs the cookies of who is signed in; nobody else has it. */
  cookieSecret: string
  /** Where a launch goes; the token is appended. */
  launchUrl: string
}

const COOKIE = 'course_site'
const AUDIENCE = 'course-site'
/** Bytes of a body that are read. */
const MOST_BODY = 1 << 16
const bytesOf = (text: string) => new TextEncoder().encode(text)
const refuse = (statusCode: number, message: string) => createError({ statusCode, message })

export function courseSite(settings: SiteSettings): App {
  const { courses, items, key, launchSecret, cookieSecret, launchUrl } = settings
  const students: readonly SiteStudent[] = [...practiceStudents, ...(settings.demo ? demoStudents : [])]
  const router = createRouter()

  const signedIn = async (event: H3Event): Promise<SiteStudent | null> => {
    const token = getCookie(event, COOKIE)
    if (!token) return null
    try {
      const { payload } = await jwtVerify(token, bytesOf(cookieSecret), { algorithms: ['HS256'], audience: AUDIENCE })
      return students.find((s) => s.subject === payload.sub) ?? null
    } catch {
      // An old or forged cookie is the same as none.
      return null
    }
  }

  const html = (event: H3Event, text: string) => {
    setHeader(event, 'content-type', 'text/html; charset=utf-8')
    setHeader(event, 'cache-control', 'no-store')
    setHeader(event, 'x-content-type-options', 'nosniff')
    return text
  }

  const released = async (courseId: string): Promise<(CourseItem & { id: string })[]> => {
    const now = new Date().toISOString()
    const found: (CourseItem & { id: string })[] = []
    for (const id of await items.ids()) {
      const item = await items.read(id)
      if (item?.courseId === courseId && releaseState(item, now) === 'released') found.push({ ...item, id })
    }
    return found.sort((a, b) => a.week - b.week || a.from.localeCompare(b.from))
  }

  /** The body as text, before anybody is known: no more than a form or an item needs. */
  const bodyText = async (event: H3Event): Promise<string> => {
    const bytes = await collectBytes(
      event.node.req.iterator({ destroyOnReturn: false }) as AsyncIterable<Uint8Array>,
      MOST_BODY,
    )
    if (!bytes) {
      setHeader(event, 'connection', 'close')
      throw refuse(413, 'This is more than this site takes.')
    }
    return new TextDecoder().decode(bytes)
  }
  const bodyAs = async <S extends TSchema>(event: H3Event, schema: S, what: string): Promise<Static<S>> => {
    const text = await bodyText(event)
    try {
      return parseAs(schema, JSON.parse(text), what)
    } catch (error) {
      if (error instanceof InvalidDocument || error instanceof SyntaxError) throw refuse(400, error.message)
      throw error
    }
  }
  const idOf = (event: H3Event, name: string): string => {
    try {
      return parseAs(Id, getRouterParam(event, name, { decode: true }), 'address')
    } catch {
      throw refuse(404, 'There is nothing at this address.')
    }
  }

  /** The course of the address, for a member of it; everyone else is refused. */
  const courseFor = async (event: H3Event, student: SiteStudent) => {
    const id = idOf(event, 'course')
    const course = await courses.read(id)
    if (!course?.members.includes(student.subject)) throw refuse(404, 'You have no such course.')
    return { ...course, id }
  }

  router.get(
    '/',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) return html(event, signInPage(practiceStudents, settings.demo ? demoStudents : []))
      const own = []
      for (const id of await courses.ids()) {
        const course = await courses.read(id)
        if (course?.members.includes(student.subject)) own.push({ ...course, id })
      }
      return html(
        event,
        coursesPage(
          student,
          own.sort((a, b) => a.code.localeCompare(b.code)),
        ),
      )
    }),
  )

  router.post(
    '/sign-in',
    defineEventHandler(async (event) => {
      const id = new URLSearchParams(await bodyText(event)).get('student')
      const student = students.find((s) => s.subject === id)
      if (!student) throw refuse(400, 'There is no such student.')
      const token = await new SignJWT()
        .setProtectedHeader({ alg: 'HS256' })
        .setSubject(student.subject)
        .setAudience(AUDIENCE)
        .setIssuedAt()
        .setExpirationTime('12h')
        .sign(bytesOf(cookieSecret))
      setCookie(event, COOKIE, token, { httpOnly: true, sameSite: 'lax', path: '/' })
      return sendRedirect(event, '/', 303)
    }),
  )

  router.post(
    '/sign-out',
    defineEventHandler((event) => {
      setCookie(event, COOKIE, '', { httpOnly: true, path: '/', maxAge: 0 })
      return sendRedirect(event, '/', 303)
    }),
  )

  router.get(
    '/courses/:course',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) return sendRedirect(event, '/', 302)
      const course = await courseFor(event, student)
      return html(event, coursePage(student, course, await released(course.id), new Date()))
    }),
  )

  router.get(
    '/courses/:course/items/:item',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) return sendRedirect(event, '/', 302)
      const course = await courseFor(event, student)
      const item = (await released(course.id)).find((i) => i.id === getRouterParam(event, 'item'))
      if (!item) throw refuse(404, 'This lecture is not released in your course.')
      const token = await new SignJWT({ place: item.id, name: student.name })
        .setProtectedHeader({ alg: 'HS256' })
        .setJti(randomUUID())
        .setIssuer(student.issuer)
        .setSubject(student.subject)
        .setAudience('thaw')
        .setIssuedAt()
        .setExpirationTime('5m')
        .sign(bytesOf(launchSecret))
      return html(event, itemPage(student, course, item, `${launchUrl}?token=${encodeURIComponent(token)}`))
    }),
  )

  /** What Thaw may call. */
  const forThaw = <T>(answer: (event: H3Event) => Promise<T>) =>
    defineEventHandler((event) => {
      const given = bytesOf(getHeader(event, 'authorization') ?? '')
      const wanted = bytesOf(`Bearer ${key}`)
      if (given.length !== wanted.length || !timingSafeEqual(given, wanted))
        throw refuse(401, 'This part of the site is for Thaw.')
      return answer(event)
    })
  const knownCourse = async (event: H3Event) => {
    const id = idOf(event, 'course')
    const course = await courses.read(id)
    if (!course) throw refuse(404, 'This site has no such course.')
    return { ...course, id }
  }
  const rosterOf = (course: KeptCourse) => students.filter((s) => course.members.includes(s.subject))

  router.put(
    '/api/items/:item',
    forThaw(async (event) => {
      const id = idOf(event, 'item')
      const item = await bodyAs(event, CourseItem, 'item')
      if (!(await courses.read(item.courseId))) throw refuse(400, 'This site has no such course.')
      await items.write(id, item)
      return item
    }),
  )

  router.delete(
    '/api/items/:item',
    forThaw(async (event) => {
      await items.remove(idOf(event, 'item'))
      return { removed: true }
    }),
  )

  router.get(
    '/api/people',
    forThaw(async () => practiceStudents),
  )

  router.put(
    '/api/courses/:course',
    forThaw(async (event) => {
      const id = idOf(event, 'course')
      const course = await bodyAs(event, SiteCourse, 'course')
      const members = (await courses.read(id))?.members ?? []
      await courses.write(id, { ...course, members })
      return course
    }),
  )

  router.delete(
    '/api/courses/:course',
    forThaw(async (event) => {
      const id = idOf(event, 'course')
      for (const item of await items.ids()) if ((await items.read(item))?.courseId === id) await items.remove(item)
      await courses.remove(id)
      return { removed: true }
    }),
  )

  router.get(
    '/api/courses/:course/roster',
    forThaw(async (event) => rosterOf(await knownCourse(event))),
  )

  router.put(
    '/api/courses/:course/roster',
    forThaw(async (event) => {
      const { id, ...course } = await knownCourse(event)
      const { subjects } = await bodyAs(event, Enrolment, 'enrolment')
      const stranger = subjects.find((subject) => !students.some((s) => s.subject === subject))
      if (stranger !== undefined) throw refuse(400, `This site knows nobody called ${stranger}.`)
      const enrolled = { ...course, members: subjects }
      await courses.write(id, enrolled)
      return rosterOf(enrolled)
    }),
  )

  const app = standInApp()
  app.use(router)
  return app
}
