/**
 * People as the sites know them that they come from: an issuer, and the subject by which it tells them apart, as in
 * OpenID Connect Core 1.0, section 2, and LTI 1.3. Names are for reading only, and may be missing.
 */
import { upgradeAnswer } from '../questions/upgrade'
import type { Student } from '../schema/attempt'

/** The site that everybody came from until people were told by their site too. */
export const FIRST_ISSUER = 'https://courses.norrhaven.example'

/** One name for one person, whatever the site. Those of the first site keep the one that they had. */
export const personKey = ({ issuer, subject }: Pick<Student, 'issuer' | 'subject'>): string =>
  issuer === FIRST_ISSUER && !subject.startsWith('[') ? subject : JSON.stringify([issuer, subject])

/** Somebody as a person can tell them from others. */
export const sayStudent = ({ name, subject }: Pick<Student, 'name' | 'subject'>): string =>
  name ?? `No name (${subject})`

/** Somebody of any version: until people were told by their site too, an id and a name. Else it stays as it is. */
export const upgradeStudent = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'id' in data && 'name' in data
    ? { issuer: FIRST_ISSUER, subject: data.id, ...(data.name !== '' && { name: data.name }) }
    : data

/** An event of a student of any version. */
export const upgradeEvent = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'student' in data && 'event' in data
    ? { ...data, student: upgradeStudent(data.student), event: upgradeAnswer(data.event) }
    : data
