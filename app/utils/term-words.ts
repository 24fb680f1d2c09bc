/** Days and times of terms and courses, in words. */
import { sayMeeting } from '#core/course/course-csv'
import type { Meeting, Term } from '#core/schema/term'

const full = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' })
const short = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' })
const at = (day: string) => Date.parse(`${day}T00:00:00Z`)

export const sayDay = (day: string): string => short.format(at(day))

/** Such as “26 Oct – 20 Dec 2026”; with both years where they differ. */
export const sayDays = ({ firstDay, lastDay }: Pick<Term, 'firstDay' | 'lastDay'>): string =>
  `${(firstDay.slice(0, 4) === lastDay.slice(0, 4) ? short : full).format(at(firstDay))} – ${full.format(at(lastDay))}`

export const sayMeetings = (meetings: readonly Meeting[] = []): string => meetings.map(sayMeeting).join(', ')
