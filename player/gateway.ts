/** How the player reaches whoever holds the keys: over HTTP here, through a package's own runtime elsewhere. */
import type { LiveView, WatchView } from '#core/packages/watch-view'
import type { AttemptEvent } from '#core/schema/attempt'

/** The other side said no. `final` when sending the same again cannot help. */
export class Refused extends Error {
  override name = 'Refused'
  constructor(message: string, readonly final: boolean) {
    super(message)
  }
}

/** What went wrong, as a sentence for a student. */
export const sayTrouble = (error: unknown): string => (error instanceof TypeError ? 'There is no connection to the lecture. Check the network and try again.' : error instanceof Error ? error.message : String(error))

export interface Gateway {
  /** Names what is watched, for keeping things apart on this device. */
  placeId: string
  /** @throws {Refused} or whatever a broken connection throws */
  load(): Promise<WatchView | LiveView>
  send(events: readonly AttemptEvent[]): Promise<WatchView>
  captions(url: string): Promise<string>
}

async function answered(response: Response): Promise<Response> {
  if (response.ok) return response
  const body: unknown = await response.json().catch(() => null)
  const says = typeof body === 'object' && body !== null && 'message' in body ? String(body.message) : `The server answered ${response.status}.`
  throw new Refused(says, response.status === 400)
}

export function httpGateway(placeId: string): Gateway {
  const base = `/api/watch/${placeId}`
  return {
    placeId,
    async load() {
      return (await (await answered(await fetch(base))).json()) as WatchView | LiveView
    },
    async send(events) {
      const response = await fetch(`${base}/responses`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ events }), keepalive: true })
      return (await (await answered(response)).json()) as WatchView
    },
    async captions(url) {
      return (await answered(await fetch(url))).text()
    },
  }
}
