/** The stand-in's pages: plain HTML that looks like somebody else's competent site. Every text is escaped. */
import { FIRST_ISSUER } from '../../core/course/people'
import type { CourseItem } from '../../core/schema/course-site'
import type { KeptCourse, SiteStudent } from './people'

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)

const style = `
  body { margin: 0; font: 16px/1.55 Georgia, 'DejaVu Serif', serif; color: #241f1c; background: #fff; }
  header { background: #4b2840; color: #fff; padding: 14px 28px; display: flex; justify-content: space-between; align-items: baseline; gap: 16px; flex-wrap: wrap; }
  header a, header button { color: #fff; }
  header button { background: none; border: 1px solid #fff; padding: 4px 12px; font: inherit; cursor: pointer; }
  main { max-width: 940px; margin: 0 auto; padding: 24px 28px 60px; }
  h1 { font-size: 28px; margin: 12px 0 4px; } h2 { font-size: 19px; border-bottom: 2px solid #4b2840; margin: 28px 0 8px; padding-bottom: 4px; }
  a { color: #5f2a4d; } .quiet { color: #5d5551; }
  ul { list-style: none; padding: 0; margin: 0; } li { padding: 8px 0; border-bottom: 1px solid #e4dcd7; }
  select, main button { font: inherit; padding: 6px 12px; }
  main button { background: #4b2840; color: #fff; border: 0; cursor: pointer; }
  iframe { width: 100%; height: 74vh; min-height: 520px; border: 1px solid #bbaea6; }
  main.wide { max-width: 1180px; padding-top: 12px; } main.wide h1 { font-size: 22px; }
  @media (max-width: 600px) { main, header { padding-left: 14px; padding-right: 14px; } }
`

interface Frame {
  title: string
  /** Who is signed in, or null. */
  who: SiteStudent | null
  wide?: boolean
}

/** Whose pages these are: everybody sees those of their own college. */
const houseOf = (who: SiteStudent | null) =>
  who?.issuer === FIRST_ISSUER ? 'Norrhaven Polar College' : 'Practice course pages'

/** @param body HTML whose texts are escaped already */
function page({ title, who, wide }: Frame, body: string): string {
  const house = escape(houseOf(who))
  const signedIn = who
    ? `<form method="post" action="/sign-out">${escape(who.name)} <button>Sign out</button></form>`
    : '<span>Course pages</span>'
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escape(title)} – ${house}</title><style>${style}</style></head><body>
<header><a href="/"><strong>${house}</strong></a>${signedIn}</header>
<main${wide ? ' class="wide"' : ''}>${body}</main></body></html>`
}

const sayInstant = (instant: string) =>
  new Date(instant).toLocaleString('en-GB', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    hour: '2-digit',
    minute: '2-digit',
  })
const nameOf = ({ code, title }: Pick<KeptCourse, 'code' | 'title'>) => escape(`${code} ${title}`)
const optionsOf = (students: readonly SiteStudent[]) =>
  students.map((s) => `<option value="${escape(s.subject)}">${escape(s.name)}</option>`).join('')

/** @param demo students of the demo's college, where that is here */
export function signInPage(practice: readonly SiteStudent[], demo: readonly SiteStudent[]): string {
  const options = demo.length
    ? `<optgroup label="Norrhaven Polar College (demo)">${optionsOf(demo)}</optgroup><optgroup label="Practice students">${optionsOf(practice)}</optgroup>`
    : optionsOf(practice)
  return page(
    { title: 'Sign in', who: null },
    `<h1>Sign in</h1><p class="quiet">This site stands in for a college’s own, on this computer only. Choose one of its made-up students.</p><form method="post" action="/sign-in"><label for="who">Student</label> <select id="who" name="student">${options}</select> <button>Sign in</button></form>`,
  )
}

type Course = KeptCourse & { id: string }

export function coursesPage(who: SiteStudent, courses: readonly Course[]): string {
  const list = courses.map((c) => `<li><a href="/courses/${escape(c.id)}">${nameOf(c)}</a></li>`).join('')
  return page(
    { title: 'My courses', who },
    `<h1>My courses</h1>${list ? `<ul>${list}</ul>` : '<p>You are in no course yet.</p>'}`,
  )
}

/** How long a lecture that did not begin is announced, and one that was live is shown without its recording, ms. */
const [LATE, MISSED, PAST] = [15 * 60_000, 24 * 3_600_000, 7 * 24 * 3_600_000]

function sayLive({ live }: CourseItem, at: string, now: Date): string {
  if (live === 'on') return 'live now'
  if (live === 'ended') return `was live on ${sayInstant(at)}`
  return now.getTime() - Date.parse(at) > LATE
    ? `was to be live on ${sayInstant(at)}, and has not begun`
    : `live, ${sayInstant(at)}`
}

/** Whether an item is of no use to anybody any more: it was to be live, or was, and no recording came. */
const isPast = ({ live, liveAt }: CourseItem, now: Date): boolean =>
  liveAt !== undefined && live !== 'on' && now.getTime() - Date.parse(liveAt) > (live === 'ended' ? PAST : MISSED)

/** @param released what is released, by week */
export function coursePage(
  who: SiteStudent,
  course: Course,
  released: readonly (CourseItem & { id: string })[],
  now: Date,
): string {
  const items = released.filter((i) => !isPast(i, now))
  const line = (i: CourseItem & { id: string }) => {
    const live = i.liveAt ? ` <strong>${escape(sayLive(i, i.liveAt, now))}</strong>` : ''
    const until = i.until ? ` <span class="quiet">until ${escape(i.until.slice(0, 10))}</span>` : ''
    return `<li><a href="/courses/${escape(course.id)}/items/${escape(i.id)}">${escape(i.title)}</a>${live}${until}</li>`
  }
  const weeks = [...new Set(items.map((i) => i.week))].map((week) => {
    const list = items.filter((i) => i.week === week).map(line)
    return `<h2>Week ${week}</h2><ul>${list.join('')}</ul>`
  })
  return page(
    { title: course.code, who },
    `<p><a href="/">My courses</a></p><h1>${nameOf(course)}</h1>${weeks.join('') || '<p>Nothing has been released yet.</p>'}`,
  )
}

/** @param launch address that opens the lecture, once */
export function itemPage(who: SiteStudent, course: Course, { title }: CourseItem, launch: string): string {
  return page(
    { title, who, wide: true },
    `<p><a href="/courses/${escape(course.id)}">${nameOf(course)}</a></p><h1>${escape(title)}</h1><iframe title="Lecture: ${escape(title)}" src="${escape(launch)}" allow="fullscreen; autoplay"></iframe>`,
  )
}
