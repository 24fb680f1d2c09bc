/**
 * What changed between two states of a document, item by item. One mechanism serves undo and redo (a change is applied
 * backward or forward) and joining (what one side did is applied to what the other made of it):
 *
 *     base ──mine──▶ here
 *       └──theirs──▶ there ──mine──▶ joined
 *
 * An item that both sides changed keeps one of them, and both are reported, so that a person can decide: nothing is
 * lost.
 */
import equal from 'fast-deep-equal'

/** What a document holds several of. */
export interface Item {
  id: string
}

/**
 * A document's lists of items, each with the order in which its items stand. Everything else of it is a field, which is
 * absent rather than null when it says nothing.
 */
export type Lists = Readonly<Record<string, (a: never, b: never) => number>>

/** An item of a list, or a field, before and after a change; null when it is not there. */
export interface ItemChange {
  list: string
  id: string
  before: Item | null
  after: Item | null
}
export interface FieldChange {
  field: string
  before: unknown
  after: unknown
}

export interface Change {
  items: ItemChange[]
  fields: FieldChange[]
}

/** An item or a field (`list` is then empty and `id` its name) that both sides changed; null when a side deleted it. */
export interface Conflict<T = unknown> {
  list: string
  id: string
  sides: [T | null, T | null]
}

const itemsOf = (document: object, list: string): Map<string, Item> =>
  new Map(((document as Record<string, readonly Item[] | undefined>)[list] ?? []).map((item) => [item.id, item]))
const fieldsOf = (document: object, lists: Lists): Map<string, unknown> =>
  new Map(Object.entries(document).filter(([name, value]) => !(name in lists) && value !== undefined))

/** @param before null for a document that was not there */
export function changeBetween(lists: Lists, before: object | null, after: object): Change {
  const change: Change = { items: [], fields: [] }
  for (const list of Object.keys(lists)) {
    const [was, is] = [itemsOf(before ?? {}, list), itemsOf(after, list)]
    for (const id of new Set([...was.keys(), ...is.keys()])) {
      const [b, a] = [was.get(id) ?? null, is.get(id) ?? null]
      if (b !== a && !equal(b, a)) change.items.push({ list, id, before: b, after: a })
    }
  }
  const [was, is] = [fieldsOf(before ?? {}, lists), fieldsOf(after, lists)]
  for (const field of new Set([...was.keys(), ...is.keys()])) {
    const [b, a] = [was.get(field) ?? null, is.get(field) ?? null]
    if (!equal(b, a)) change.fields.push({ field, before: b, after: a })
  }
  return change
}

export const isEmpty = (change: Change): boolean => change.items.length === 0 && change.fields.length === 0

export const reverse = (change: Change): Change => ({
  items: change.items.map((i) => ({ ...i, before: i.after, after: i.before })),
  fields: change.fields.map((f) => ({ ...f, before: f.after, after: f.before })),
})

/** Two changes, one after the other, as one. */
export function compose(first: Change, then: Change): Change {
  const items = new Map(first.items.map((i) => [`${i.list} ${i.id}`, i]))
  for (const i of then.items) {
    const known = items.get(`${i.list} ${i.id}`)
    items.set(`${i.list} ${i.id}`, known ? { ...known, after: i.after } : i)
  }
  const fields = new Map(first.fields.map((f) => [f.field, f]))
  for (const f of then.fields) {
    const known = fields.get(f.field)
    fields.set(f.field, known ? { ...known, after: f.after } : f)
  }
  return {
    items: [...items.values()].filter((i) => !equal(i.before, i.after)),
    fields: [...fields.values()].filter((f) => !equal(f.before, f.after)),
  }
}

/** A fixed order of two sides, so that it does not matter who is called mine. A deletion comes last. */
const inOrder = <T>(a: T | null, b: T | null): [T | null, T | null] =>
  b === null || (a !== null && JSON.stringify(a) <= JSON.stringify(b)) ? [a, b] : [b, a]

/** What stands after a change to something that may have been changed meanwhile. */
function settle<T>(
  before: T | null,
  after: T | null,
  present: T | null,
): { kept: T | null; sides?: Conflict<T>['sides'] } {
  if (equal(present, before)) return { kept: after }
  if (equal(present, after)) return { kept: present }
  const sides = inOrder(after, present)
  return { kept: sides[0], sides }
}

/**
 * Does a change to a document. What was changed otherwise since `before` is a conflict, unless it is what the change
 * makes of it.
 */
export function applyChange<D extends object>(
  lists: Lists,
  document: D,
  change: Change,
): { document: D; conflicts: Conflict[] } {
  const conflicts: Conflict[] = []
  const next = { ...document } as Record<string, unknown>
  for (const [list, order] of Object.entries(lists)) {
    const own = change.items.filter((i) => i.list === list)
    if (own.length === 0) continue
    const items = itemsOf(document, list)
    for (const { id, before, after } of own) {
      const { kept, sides } = settle(before, after, items.get(id) ?? null)
      if (sides) conflicts.push({ list, id, sides })
      if (kept) items.set(id, kept)
      else items.delete(id)
    }
    next[list] = [...items.values()].sort(order as (a: Item, b: Item) => number)
  }
  for (const { field, before, after } of change.fields) {
    const { kept, sides } = settle(before, after, next[field] ?? null)
    if (sides) conflicts.push({ list: '', id: field, sides })
    if (kept === null) delete next[field]
    else next[field] = kept
  }
  return { document: next as D, conflicts }
}

/**
 * Two changes of one document from one base (three-way merge).
 * @param base what both sides began from; null when there was none
 */
export function joinDocuments<D extends object>(
  lists: Lists,
  base: D | null,
  mine: D,
  theirs: D,
): { document: D; conflicts: Conflict[] } {
  return applyChange(lists, theirs, changeBetween(lists, base, mine))
}
