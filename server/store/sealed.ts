/**
 * A JSON object with the checksum of its text in front, so that a bit that flipped on the disk is seen and never taken
 * for what somebody wrote: `{"sum":"9f86d081884c7d65","id":"a"}`. What was written before there were any has none, and
 * is read as it is.
 */
import { createHash } from 'node:crypto'

const sumOf = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 16)
const SUM = /^\{"sum":"([0-9a-f]{16})",?/

/** @param json text of an object */
export const sealed = (json: string): string => `{"sum":"${sumOf(json)}"${json === '{}' ? '' : ','}${json.slice(1)}`

/** @returns the text of the object alone @throws {Error} when it is not what was written */
export function unsealed(text: string): string {
  const [start, sum] = SUM.exec(text) ?? []
  if (start === undefined) return text
  const json = `{${text.slice(start.length)}`
  if (sumOf(json) !== sum) throw new Error('It is not what was written here: the disk has changed it.')
  return json
}
