/** The author's session with the server, as its browser is told. */
import { Type, type Static } from '@sinclair/typebox'
import { closed } from './parts'

export const AuthorSession = Type.Object(
  {
    signedIn: Type.Boolean(),
    /** Why not, as a sentence; may be empty. */
    says: Type.String({ maxLength: 500 }),
  },
  closed,
)
export type AuthorSession = Static<typeof AuthorSession>
