/** The author's session with the server. Everything but drafting captions, publishing and pulling results works without one. */
import { ref } from 'vue'

/** Open while the author key is asked for; resolves the promise of `askForAuthor`. */
export const authorAsked = ref<{ done(signedIn: boolean): void } | null>(null)

async function problemOf(response: Response): Promise<string> {
  if (response.ok) return ''
  const body: unknown = await response.json().catch(() => null)
  return typeof body === 'object' && body !== null && 'message' in body ? String(body.message) : `The server answered ${response.status}.`
}

/** @returns an empty string when signed in, otherwise the reason as a sentence */
export async function signIn(key: string): Promise<string> {
  try {
    return await problemOf(await fetch('/api/author/session', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ key: key.trim() }) }))
  } catch {
    return 'The server does not answer. Check that Thaw is running and try again.'
  }
}

/** Makes sure of an author's session, asking for the key when there is none. @returns false when the person gave up */
export async function askForAuthor(): Promise<boolean> {
  const problem = await fetch('/api/author/session').then(problemOf, () => 'no answer')
  if (!problem) return true
  return new Promise((resolve) => {
    authorAsked.value = {
      done(signedIn) {
        authorAsked.value = null
        resolve(signedIn)
      },
    }
  })
}

/** A request of the author; what the server says when it refuses becomes the error's message. */
export async function authorFetch(url: string, init: RequestInit = {}): Promise<Response> {
  let response: Response
  try {
    response = await fetch(url, init)
  } catch (error) {
    if (init.signal?.aborted) throw error
    throw new Error('The server does not answer. Nothing was lost; check the connection and try again.')
  }
  const problem = await problemOf(response)
  if (problem) throw new Error(problem)
  return response
}
