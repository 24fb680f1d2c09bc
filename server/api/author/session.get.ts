import type { AuthorSession } from '#core/schema/author'

/** Whether the asking browser is the author's, and if not, why; no refusal, as every page asks it. */
export default defineEventHandler(async (event): Promise<AuthorSession> => {
  setHeader(event, 'cache-control', 'no-store')
  try {
    await requireAuthor(event)
    return { signedIn: true, says: '' }
  } catch (error) {
    if ((error as { statusCode?: number }).statusCode !== 401) throw error
    return { signedIn: false, says: (error as Error).message }
  }
})
