/** Who is at Norrhaven Polar College, a made-up place: courses and the students in them, all with made-up names. */
import type { Student } from '../../core/schema/attempt'

const names = [
  'Aino Varglund',
  'Bram Oosterwick',
  'Cilla Fennmark',
  'Dario Pellonetti',
  'Edda Stormvik',
  'Femi Adebanke',
  'Greta Hollunder',
  'Hideo Marukami',
  'Ines Calderao',
  'Jonas Brekkefjord',
  'Kaya Redmoon',
  'Lumi Saarenpaa',
  'Mateus Quintal',
  'Nadia Velichkova',
  'Oskar Tindevold',
  'Priya Sundaresh',
  'Quentin Larocque',
  'Runa Isaksdottir',
  'Soren Klitmark',
  'Tamsin Overbury',
  'Ulla Grauberg',
  'Viktor Zelenko',
  'Wanjiru Kamande',
  'Yusra Halabi',
]

/** The site, as it names itself where it speaks of its people. */
export const ISSUER = 'https://courses.norrhaven.example'

/** A student of this site, all of whom it knows by name. */
export type SiteStudent = Student & { name: string }

export const students: SiteStudent[] = names.map((name, i) => ({
  issuer: ISSUER,
  subject: `s${String(i + 1).padStart(2, '0')}`,
  name,
}))

export interface SiteCourse {
  id: string
  code: string
  title: string
  weeks: number
  members: string[]
}

const some = (keep: (i: number) => boolean) => students.filter((_, i) => keep(i)).map((s) => s.subject)

export const courses: SiteCourse[] = [
  { id: 'ps201', code: 'PS 201', title: 'Glaciers and Meltwater', weeks: 8, members: some(() => true) },
  { id: 'ps115', code: 'PS 115', title: 'Reading Snow', weeks: 8, members: some((i) => i % 2 === 0) },
  { id: 'ps340', code: 'PS 340', title: 'Ice Cores and Past Climate', weeks: 8, members: some((i) => i % 3 === 0) },
]
