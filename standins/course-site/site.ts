/**
 * A stand-in for a college's course site: students sign in by name, see their courses and what is released in
 * them now, and open a lecture through a signed launch. Thaw talks to it only through `/api`.
 */
import { randomUUID } from 'node:crypto'
import { Type, type Static } from '@sinclair/typebox'
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
  type EventHandler,
  type H3Event,
} from 'h3'
import { jwtVerify, SignJWT } from 'jose'
import { releaseState } from '../../core/course/release'
import { collectBytes } from '../../core/schema/collect'
import { Id, Instant, Line } from '../../core/schema/parts'
import { InvalidDocument, parseAs } from '../../core/schema/validate'
import { escape, page } from './pages'
import { courses, students, type SiteCourse, type SiteStudent } from './people'

/** Something on a course page. */
export const SiteItem = Type.Object(
  {
    courseId: Id,
    week: Type.Integer({ minimum: 1, maximum: 60 }),
    title: Line(),
    from: Instant,
    until: Type.Union([Instant, Type.Null()]),
    liveAt: Type.Optional(Instant),
  },
  { additionalProperties: false },
)
export type SiteItem = Static<typeof SiteItem>

export interface SiteSettings {
  /** Where its pages are kept; one that cannot be read is null. */
  items: {
    read(id: string): Promise<SiteItem | null>
    write(id: string, item: SiteItem): Promise<void>
    remove(id: string): Promise<void>
    ids(): Promise<string[]>
  }
  /** Shared with Thaw: signs launches, and lets Thaw in at `/api`. */
  secret(): Promise<string>
  /** Where a launch goes; the token is appended. */
  launchUrl: string
}

const COOKIE = 'norrhaven'
/** Bytes of a body that are read. */
const MOST_BODY = 1 << 16
const sayInstant = (instant: string) =>
  new Date(instant).toLocaleString('en-GB', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    hour: '2-digit',
    minute: '2-digit',
  })

/** The site as one handler for everything below its base path. */
export function courseSite({ items, secret, launchUrl }: SiteSettings): EventHandler {
  const key = async () => new TextEncoder().encode(await secret())
  const router = createRouter()

  const signedIn = async (event: H3Event): Promise<SiteStudent | null> => {
    const token = getCookie(event, COOKIE)
    if (!token) return null
    try {
      const { payload } = await jwtVerify(token, await key(), { algorithms: ['HS256'], audience: 'norrhaven' })
      return students.find((s) => s.subject === payload.sub) ?? null
    } catch {
      // An old or forged cookie is the same as none.
      return null
    }
  }

  const html = (event: H3Event, text: string) => {
    setHeader(event, 'content-type', 'text/html; charset=utf-8')
    setHeader(event, 'cache-control', 'no-store')
    return text
  }

  const released = async (course: SiteCourse): Promise<(SiteItem & { id: string })[]> => {
    const now = new Date().toISOString()
    const found: (SiteItem & { id: string })[] = []
    for (const id of await items.ids()) {
      const item = await items.read(id)
      if (item?.courseId === course.id && releaseState(item, now) === 'released') found.push({ ...item, id })
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
      throw createError({ statusCode: 413, message: 'This is more than this site takes.' })
    }
    return new TextDecoder().decode(bytes)
  }

  /** The course of the address, for a member of it; everyone else is refused. */
  const courseFor = (event: H3Event, student: SiteStudent): SiteCourse => {
    const course = courses.find((c) => c.id === getRouterParam(event, 'course'))
    if (!course?.members.includes(student.subject))
      throw createError({ statusCode: 404, message: 'You have no such course.' })
    return course
  }

  router.get(
    '/',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) {
        const options = students.map((s) => `<option value="${escape(s.subject)}">${escape(s.name)}</option>`).join('')
        return html(
          event,
          page(
            { title: 'Sign in', who: null },
            `<h1>Sign in</h1><p class="quiet">This site stands in for a college’s own. Choose one of its made-up students.</p><form method="post" action="/course-site/sign-in"><label for="who">Student</label> <select id="who" name="student">${options}</select> <button>Sign in</button></form>`,
          ),
        )
      }
      const list = courses
        .filter((c) => c.members.includes(student.subject))
        .map((c) => `<li><a href="/course-site/courses/${escape(c.id)}">${escape(c.code)} ${escape(c.title)}</a></li>`)
        .join('')
      return html(event, page({ title: 'My courses', who: student.name }, `<h1>My courses</h1><ul>${list}</ul>`))
    }),
  )

  router.post(
    '/sign-in',
    defineEventHandler(async (event) => {
      const id = new URLSearchParams(await bodyText(event)).get('student')
      const student = students.find((s) => s.subject === id)
      if (!student) throw createError({ statusCode: 400, message: 'There is no such student.' })
      const token = await new SignJWT()
        .setProtectedHeader({ alg: 'HS256' })
        .setSubject(student.subject)
        .setAudience('norrhaven')
        .setIssuedAt()
        .setExpirationTime('12h')
        .sign(await key())
      setCookie(event, COOKIE, token, { httpOnly: true, sameSite: 'lax', path: '/course-site' })
      return sendRedirect(event, '/course-site/', 303)
    }),
  )

  router.post(
    '/sign-out',
    defineEventHandler((event) => {
      setCookie(event, COOKIE, '', { httpOnly: true, path: '/course-site', maxAge: 0 })
      return sendRedirect(event, '/course-site/', 303)
    }),
  )

  router.get(
    '/courses/:course',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) return sendRedirect(event, '/course-site/', 302)
      const course = courseFor(event, student)
      const here = await released(course)
      const weeks = Array.from({ length: course.weeks }, (_, i) => i + 1).flatMap((week) => {
        const mine = here.filter((i) => i.week === week)
        if (mine.length === 0) return []
        const list = mine
          .map(
            (i) =>
              `<li><a href="/course-site/courses/${escape(course.id)}/items/${escape(i.id)}">${escape(i.title)}</a>${i.liveAt ? ` <strong>live, ${escape(sayInstant(i.liveAt))}</strong>` : ''}${i.until ? ` <span class="quiet">until ${escape(i.until.slice(0, 10))}</span>` : ''}</li>`,
          )
          .join('')
        return [`<h2>Week ${week}</h2><ul>${list}</ul>`]
      })
      return html(
        event,
        page(
          { title: course.code, who: student.name },
          `<p><a href="/course-site/">My courses</a></p><h1>${escape(course.code)} ${escape(course.title)}</h1>${weeks.join('') || '<p>Nothing has been released yet.</p>'}`,
        ),
      )
    }),
  )

  router.get(
    '/courses/:course/items/:item',
    defineEventHandler(async (event) => {
      const student = await signedIn(event)
      if (!student) return sendRedirect(event, '/course-site/', 302)
      const course = courseFor(event, student)
      const item = (await released(course)).find((i) => i.id === getRouterParam(event, 'item'))
      if (!item) throw createError({ statusCode: 404, message: 'This lecture is not released in your course.' })
      const token = await new SignJWT({ place: item.id, name: student.name })
        .setProtectedHeader({ alg: 'HS256' })
        .setJti(randomUUID())
        .setIssuer(student.issuer)
        .setSubject(student.subject)
        .setAudience('thaw')
        .setIssuedAt()
        .setExpirationTime('5m')
        .sign(await key())
      return html(
        event,
        page(
          { title: item.title, who: student.name, wide: true },
          `<p><a href="/course-site/courses/${escape(course.id)}">${escape(course.code)} ${escape(course.title)}</a></p><h1>${escape(item.title)}</h1><iframe title="Lecture: ${escape(item.title)}" src="${escape(launchUrl)}?token=${encodeURIComponent(token)}" allow="fullscreen; autoplay"></iframe>`,
        ),
      )
    }),
  )

  /** What Thaw may call. */
  const requireThaw = async (event: H3Event): Promise<void> => {
    if (getHeader(event, 'authorization') !== `Bearer ${await secret()}`)
      throw createError({ statusCode: 401, message: 'This part of the site is for Thaw.' })
  }

  router.put(
    '/api/items/:item',
    defineEventHandler(async (event) => {
      await requireThaw(event)
      const id = getRouterParam(event, 'item') ?? ''
      if (!/^[A-Za-z0-9_-]{1,64}$/.test(id)) throw createError({ statusCode: 404, message: 'There is no such item.' })
      try {
        const item = parseAs(SiteItem, JSON.parse(await bodyText(event)), 'item')
        if (!courses.some((c) => c.id === item.courseId))
          throw createError({ statusCode: 400, message: 'This site has no such course.' })
        await items.write(id, item)
        return item
      } catch (error) {
        if (error instanceof InvalidDocument || error instanceof SyntaxError)
          throw createError({ statusCode: 400, message: error.message })
        throw error
      }
    }),
  )

  router.delete(
    '/api/items/:item',
    defineEventHandler(async (event) => {
      await requireThaw(event)
      const id = getRouterParam(event, 'item') ?? ''
      if (!/^[A-Za-z0-9_-]{1,64}$/.test(id)) throw createError({ statusCode: 404, message: 'There is no such item.' })
      await items.remove(id)
      return { removed: true }
    }),
  )

  router.get(
    '/api/courses/:course/roster',
    defineEventHandler(async (event) => {
      await requireThaw(event)
      const course = courses.find((c) => c.id === getRouterParam(event, 'course'))
      if (!course) throw createError({ statusCode: 404, message: 'This site has no such course.' })
      return students.filter((s) => course.members.includes(s.subject))
    }),
  )

  return router.handler
}
