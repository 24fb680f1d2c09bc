/** Link cards on the picture. */
import type { LinkCard, LinkList } from '../schema/marks'
import { LinkList as LinkListSchema } from '../schema/marks'
import { InvalidDocument, parseAs } from '../schema/validate'

export const newLinkList = (): LinkList => ({ format: 'thaw-links', version: 1, links: [] })

/** Two that begin at one instant stand in a fixed order. */
export const byStart = (a: LinkCard, b: LinkCard): number => a.from - b.from || (a.id < b.id ? -1 : 1)

/** Reads link cards from outside. @throws {InvalidDocument} */
export function readLinks(data: unknown): LinkList {
  const list = parseAs(LinkListSchema, data, 'list of links')
  const bad = list.links.find((l) => l.to <= l.from)
  if (bad) throw new InvalidDocument('list of links', [`link ${bad.id} ends before it starts`])
  return { ...list, links: [...list.links].sort(byStart) }
}

/** What keeps link cards from being useful, as sentences. */
export function linkProblems({ links }: LinkList): string[] {
  const unnamed = links.filter((l) => !l.words.trim()).length
  return unnamed === 0 ? [] : [unnamed === 1 ? 'One link has no words.' : `${unnamed} links have no words.`]
}
