/**
 * The author's session with the server. Everything but drafting captions, publishing and pulling results works without
 * one.
 */
import { ref } from 'vue'
import { AuthorSession } from '#core/schema/author'
import { parseAs } from '#core/schema/validate'

/** Open while the author key is asked for; resolves the promise of `askForAuthor`. */
export const authorAsked = ref<{ why: string; done(signedIn: boolean): void } | null>(null)

async function problemOf(response: Response): Promise<string> {
  if (response.ok) return ''
  const body: unknown = await response.json().catch(() => null)
  return typeof body === 'object' && body !== null && 'message' in body
    ? String(body.message)
    : `The server answered ${response.status}.`
}

/** Counts the times that somebody signed in here. */
export const signedIn = ref(0)

/** @returns an empty string when signed in, otherwise the reason as a sentence */
export async function signIn(key: string): Promise<string> {
  try {
    const init = {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ key: key.trim() }),
    }
    const problem = await problemOf(await fetch('/api/author/session', init))
    if (!problem) signedIn.value++
    return problem
  } catch {
    return 'The server does not answer. Check that Thaw is running and try again.'
  }
}

/** Why this browser has no session of the author now; empty when it has one. */
export async function authorProblem(): Promise<string> {
  const response = await fetch('/api/author/session').catch(() => null)
  if (!response) return 'The server does not answer.'
  const problem = await problemOf(response)
  return problem || parseAs(AuthorSession, await response.json(), 'answer of the server').says
}

let asking: Promise<boolean> | undefined

/**
 * Makes sure of an author's session, asking for the key when there is none; once for all who want to know meanwhile.
 * @param why a sentence on what waits for it, for a person who did not just ask for it
 * @returns false when the person gave up
 */
export async function askForAuthor(why = ''): Promise<boolean> {
  if (!(await authorProblem())) return true
  asking ??= new Promise<boolean>((resolve) => {
    authorAsked.value = { why, done: resolve }
  }).finally(() => {
    authorAsked.value = null
    asking = undefined
  })
  return asking
}

/** What the server refused, with its sentence. */
export class Refused extends Error {
  override name = 'Refused'
  constructor(
    message: string,
    /** Of HTTP. */
    readonly status: number,
  ) {
    super(message)
  }
}

/** A request of the author. @throws {Refused} */
export async function authorFetch(url: string, init: RequestInit = {}): Promise<Response> {
  let response: Response
  try {
    response = await fetch(url, init)
  } catch (error) {
    if (init.signal?.aborted) throw error
    throw new Error('The server does not answer. Nothing was lost; check the connection and try again.')
  }
  const problem = await problemOf(response)
  if (problem) throw new Refused(problem, response.status)
  return response
}
