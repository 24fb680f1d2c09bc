/**
 * Which library this browser works in. One's own work and the demo are a database each, so that they never mix; which one is
 * open is told by the tab, and for a new tab by what was opened last.
 */
export type LibraryKind = 'own' | 'demo'

/** Where a browser keeps what is no work: of this tab, and of all. */
export interface LibraryPlaces {
  tab: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
  all: Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>
}

const OPEN = 'thaw-library'
const NAMES = 'thaw-library-names'
/** The database of browsers that had one library, which was the demo's as well as their own. */
export const EARLIER = 'thaw'
const fresh: Readonly<Record<LibraryKind, string>> = { own: 'thaw-own', demo: 'thaw-demo' }

const isKind = (text: string | null): text is LibraryKind => text === 'own' || text === 'demo'

/** Names of databases that are not called as they would be today: those of earlier versions. */
function names({ all }: LibraryPlaces): Partial<Record<LibraryKind, string>> {
  const text = all.getItem(NAMES)
  if (!text) return {}
  try {
    const { own, demo } = JSON.parse(text) as Record<string, unknown>
    return { ...(typeof own === 'string' && { own }), ...(typeof demo === 'string' && { demo }) }
  } catch {
    // Written by nobody of ours: as if there was none.
    return {}
  }
}

/** The library that is open in this tab; null before one is chosen. */
export function openLibrary({ tab, all }: LibraryPlaces): LibraryKind | null {
  const kind = tab.getItem(OPEN) ?? all.getItem(OPEN)
  return isKind(kind) ? kind : null
}

export const databaseName = (kind: LibraryKind, places: LibraryPlaces): string => names(places)[kind] ?? fresh[kind]

/** From now on, here and in new tabs. Whatever reads the database has to begin anew. */
export function chooseLibrary(kind: LibraryKind | null, { tab, all }: LibraryPlaces): void {
  for (const place of [tab, all])
    if (kind) place.setItem(OPEN, kind)
    else place.removeItem(OPEN)
}

/** Keeps that a library stands in the database of an earlier version. */
export function adopt(kind: LibraryKind, places: LibraryPlaces): void {
  places.all.setItem(NAMES, JSON.stringify({ ...names(places), [kind]: EARLIER }))
}

/** Forgets a library whose database is gone: begun anew, it is called as it would be today. */
export function forget(kind: LibraryKind, places: LibraryPlaces): void {
  const { [kind]: _, ...others } = names(places)
  places.all.setItem(NAMES, JSON.stringify(others))
}

/**
 * Whose a database of an earlier version is: the demo's where nothing was added to it, and otherwise one's own, with the
 * demo's courses among them as any others.
 */
export const ownerOfEarlier = (
  there: { lectures: readonly string[]; courses: readonly string[] },
  demo: { lectures: readonly string[]; courses: readonly string[] },
): LibraryKind => {
  const isOfDemo = (kind: 'lectures' | 'courses') => there[kind].every((id) => demo[kind].includes(id))
  return isOfDemo('lectures') && isOfDemo('courses') ? 'demo' : 'own'
}

/** Of this browser; in a test, which has none, nothing is kept. */
export const here = (): LibraryPlaces => {
  const nowhere = { getItem: () => null, setItem: () => undefined, removeItem: () => undefined }
  return { tab: globalThis.sessionStorage ?? nowhere, all: globalThis.localStorage ?? nowhere }
}

const removals = () => new BroadcastChannel('thaw-library-removed')
/** Tells other tabs that a library is gone: what they show is of nothing. */
export function tellRemoved(kind: LibraryKind): void {
  const channel = removals()
  channel.postMessage(kind)
  channel.close()
}
/** Has this tab begin anew when another one removes the library that is open here. */
export function leaveWhenRemoved(): void {
  removals().addEventListener('message', ({ data }: MessageEvent<LibraryKind>) => {
    if (openLibrary(here()) !== data) return
    here().tab.removeItem(OPEN)
    location.assign('/')
  })
}
