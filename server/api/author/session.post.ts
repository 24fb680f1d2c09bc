import { Type } from '@sinclair/typebox'

/** Signs the author in with the key that the start command printed. */
export default defineEventHandler(async (event) => {
  const { key } = await bodyAs(
    event,
    Type.Object({ key: Type.String({ minLength: 1, maxLength: 200 }) }, { additionalProperties: false }),
    'sign-in',
    4096,
  )
  await openAuthorSession(event, key)
  return { author: true }
})
