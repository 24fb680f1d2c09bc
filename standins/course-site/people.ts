/** Who comes to the course site, all with made-up names: students to practise with, and those of the demo's college. */
import { FIRST_ISSUER } from '../../core/course/people'
import type { Student } from '../../core/schema/attempt'

/** A student of this site, all of whom it knows by name. */
export type SiteStudent = Student & { name: string }

const people = (issuer: string, letter: string, names: readonly string[]): SiteStudent[] =>
  names.map((name, i) => ({ issuer, subject: `${letter}${String(i + 1).padStart(2, '0')}`, name }))

/** Those who can be enrolled in one's own courses. */
export const practiceStudents = people('https://course-site.example', 'p', [
  'Abel Thornquist',
  'Bettina Okafor-Lund',
  'Casimir Wolanski',
  'Delphine Achterberg',
  'Emeka Nwosu-Hale',
  'Freya Aldercott',
  'Gustavo Belmarez',
  'Hanneke Duivenvoort',
  'Idris Kalmaty',
  'Jadwiga Pomorska',
  'Kenji Asagiri',
  'Leocadia Marchetto',
])

/** Those of Norrhaven Polar College, the demo's. */
export const demoStudents = people(FIRST_ISSUER, 's', [
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
])

export interface KeptCourse {
  code: string
  title: string
  /** Subjects of those who are in it. */
  members: string[]
}

const some = (keep: (i: number) => boolean) => demoStudents.filter((_, i) => keep(i)).map((s) => s.subject)

/** The demo's courses, by id. */
export const demoCourses: Readonly<Record<string, KeptCourse>> = {
  ps201: { code: 'PS 201', title: 'Glaciers and Meltwater', members: some(() => true) },
  ps115: { code: 'PS 115', title: 'Reading Snow', members: some((i) => i % 2 === 0) },
  ps340: { code: 'PS 340', title: 'Ice Cores and Past Climate', members: some((i) => i % 3 === 0) },
}
