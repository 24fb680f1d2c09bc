import { Type } from '@sinclair/typebox'
import { isError } from 'h3'

/** Signs the author in with the key that the start command printed. */
export default defineEventHandler(async (event) => {
  const { key } = await bodyAs(
    event,
    Type.Object({ key: Type.String({ minLength: 1, maxLength: 200 }) }, { additionalProperties: false }),
    'sign-in',
    4096,
  )
  try {
    await openAuthorSession(event, key)
  } catch (error) {
    if (isError(error) && error.statusCode === 401) await logWrongKey(event)
    throw error
  }
  await logActivity(event, { action: 'signed-in' })
  return { author: true }
})
