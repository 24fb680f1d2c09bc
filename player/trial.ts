/**
 * The player as its author tries it, in a frame of the desk: the desk itself answers, and nothing of it is kept.
 */
import type { Gateway } from './gateway'
import type { OutboxPorts } from './outbox'

/** What a desk puts on its window for a player in a frame of its own. */
export interface TrialHost {
  thawTrial?: Gateway
}

/** The desk that the player is tried in; null anywhere else. */
export function trialOf(window: Window): Gateway | null {
  if (window.parent === window || new URLSearchParams(window.location.search).get('trial') === null) return null
  try {
    return (window.parent as Window & TrialHost).thawTrial ?? null
  } catch {
    // A page of another house may not be looked into: there it is an ordinary player.
    return null
  }
}

/** Keeps things while the page is open. */
export function forgetfulStorage(): OutboxPorts['storage'] {
  const kept = new Map<string, string>()
  return {
    getItem: (key) => kept.get(key) ?? null,
    setItem: (key, value) => void kept.set(key, value),
    removeItem: (key) => void kept.delete(key),
  }
}
