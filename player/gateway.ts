/** How the player reaches whoever holds the keys: over HTTP here, through a package's own runtime elsewhere. */
import { withChange, type LiveView, type WatchChange, type WatchView } from '#core/packages/watch-view'
import type { AttemptEvent, RefusedEvent } from '#core/schema/attempt'
import type { WatchStatement } from '#core/schema/watching'
import { errorMessage } from '#core/text/error-message'

/** The other side said no. `final` when sending the same again cannot help. */
export class Refused extends Error {
  override name = 'Refused'
  constructor(
    message: string,
    readonly final: boolean,
  ) {
    super(message)
  }
}

const NO_CONNECTION = 'There is no connection to the lecture. Check the network and try again.'

/** What went wrong, as a sentence for a student. */
export const sayTrouble = (error: unknown): string => (error instanceof TypeError ? NO_CONNECTION : errorMessage(error))

/**
 * What became of events that were sent: what differs after them from what was told before, or all of it where other
 * questions are asked now, and those that will never be taken.
 */
export type Sent = ({ view: WatchView } | { change: WatchChange }) & { refused: RefusedEvent[] }

/** What is known after sending. @param before as it was told last */
export const viewAfter = (before: WatchView, sent: Sent): WatchView =>
  'view' in sent ? sent.view : withChange(before, sent.change)

export interface Gateway {
  /** Names what is watched, for keeping things apart on this device. */
  placeId: string
  /** @throws {Refused} or whatever a broken connection throws */
  load(): Promise<WatchView | LiveView>
  /** @param watched what is being watched, as it was told last; the answer is about the same versions of it */
  send(events: readonly AttemptEvent[], watched: WatchView): Promise<Sent>
  /** Sends what was watched; absent where nothing of it is kept. Throws like `send`. */
  report?(statements: readonly WatchStatement[]): Promise<void>
  captions(url: string): Promise<string>
  /** Where a picture of a question is, by the hash of its file. */
  pictureUrl(watched: WatchView, file: string): string
}

async function answered(response: Response): Promise<Response> {
  if (response.ok) return response
  const body: unknown = await response.json().catch(() => null)
  const says =
    typeof body === 'object' && body !== null && 'message' in body
      ? String(body.message)
      : `The server answered ${response.status}.`
  throw new Refused(says, response.status === 400 || response.status === 413)
}

/** A token is renewed this often, ms; it holds three times as long. */
const RENEW = 20 * 60 * 1000

/** Where the token is kept, so that a reload of the player goes on with it. */
export interface TokenPort {
  read(): string
  write(token: string): void
}

/** Over HTTP, with a bearer token of the player's own: inside another site's page there may be no cookies. */
export function httpGateway(placeId: string, token: TokenPort): Gateway {
  const base = `/api/watch/${placeId}`
  const ask = async (url: string, init: RequestInit = {}): Promise<Response> =>
    answered(await fetch(url, { ...init, headers: { ...init.headers, authorization: `Bearer ${token.read()}` } }))

  setInterval(() => {
    // Without a connection the next turn does it.
    void ask(`${base}/session`, { method: 'POST' })
      .then(async (answer) => token.write(((await answer.json()) as { token: string }).token))
      .catch((error: unknown) => console.warn('the session was not renewed', error))
  }, RENEW)

  return {
    placeId,
    async load() {
      return (await (await ask(base)).json()) as WatchView | LiveView
    },
    async send(events, { version, checkpoints, told }) {
      const body = new Blob([JSON.stringify({ events, told })], { type: 'application/json' })
      // What goes on when the page is closed may be no more than 64 KiB (Fetch §4.6); the rest waits on this device.
      const init = { method: 'POST', body, keepalive: body.size < 60_000 }
      const sets = [...new Set(checkpoints.map((c) => c.set))].join(',')
      return (await (await ask(`${base}/responses?version=${version}&sets=${sets}`, init)).json()) as Sent
    },
    async report(statements) {
      const body = new Blob([JSON.stringify({ statements })], { type: 'application/json' })
      await ask(`${base}/statements`, { method: 'POST', body, keepalive: body.size < 60_000 })
    },
    pictureUrl: ({ pictures }, file) => `${pictures}/${file}`,
    async captions(url) {
      return (await answered(await fetch(url))).text()
    },
  }
}
