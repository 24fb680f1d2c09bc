/** Who holds the rights in a lecture, and the notice that says so. */
import type { Rights } from '../schema/lecture'

/** Licences that are offered; any other can be typed. */
export const licences = [
  'All rights reserved',
  'CC BY 4.0',
  'CC BY-SA 4.0',
  'CC BY-ND 4.0',
  'CC BY-NC 4.0',
  'CC BY-NC-SA 4.0',
  'CC BY-NC-ND 4.0',
  'CC0 1.0',
] as const

const addresses: Readonly<Record<string, string>> = {
  'CC BY 4.0': 'creativecommons.org/licenses/by/4.0',
  'CC BY-SA 4.0': 'creativecommons.org/licenses/by-sa/4.0',
  'CC BY-ND 4.0': 'creativecommons.org/licenses/by-nd/4.0',
  'CC BY-NC 4.0': 'creativecommons.org/licenses/by-nc/4.0',
  'CC BY-NC-SA 4.0': 'creativecommons.org/licenses/by-nc-sa/4.0',
  'CC BY-NC-ND 4.0': 'creativecommons.org/licenses/by-nc-nd/4.0',
  'CC0 1.0': 'creativecommons.org/publicdomain/zero/1.0',
}

/** What is missing for a notice, as a sentence; empty when nothing is. */
export const rightsProblem = (rights: Rights | undefined): string =>
  rights?.owner.trim() ? '' : 'The particulars, beside the title, do not say yet who holds the rights.'

/**
 * The copyright notice of a lecture, a line each: who and since when, under which licence and where that is read, and
 * what else is to be named.
 */
export function copyrightNotice({ owner, year, licence, attribution }: Rights): string {
  const address = addresses[licence]
  return [
    // What is given to all has nobody who keeps a right in it.
    licence === 'CC0 1.0' ? `${owner.trim()}, ${year}` : `© ${year} ${owner.trim()}`,
    address ? `${licence} · ${address}` : licence.trim(),
    attribution.trim(),
  ]
    .filter(Boolean)
    .join('\n')
}
