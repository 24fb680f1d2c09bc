/** What the server answers the author's pages, where that is nothing that is kept; and what a page keeps of it. */
import { Type, type Static } from '@sinclair/typebox'
import { ServiceAccount } from './captioning'
import { Word } from './captions'
import { StoredGrading } from './grading'
import { closed } from './parts'

/** Whether a server has the demo. */
export const About = Type.Object({ demo: Type.Boolean() })

/** Files that could not be read and were set aside: their names, and what was wrong with each. */
export const SetAside = Type.Array(Type.Object({ name: Type.String(), says: Type.String() }))
/** Names of those that were put away. */
export const SetAsideSeen = Type.Array(Type.String())

/** How many earlier versions of a publication were removed. */
export const RemovedVersions = Type.Object({ removed: Type.Integer({ minimum: 0 }) })

/** The number of a live run. */
export const LiveRun = Type.Object({ run: Type.Integer() })
/** How many watch a live run. */
export const LiveWatchers = Type.Object({ watching: Type.Integer() })

/** Whether speech of a language is recognised; if not, why. */
export const SpeechAvailable = Type.Object({ available: Type.Boolean(), says: Type.String() })
/** The id under which words are kept that the recogniser is to know. */
export const KeptVocabulary = Type.Object({ id: Type.String() })
/** A line of what the recogniser tells. */
export const Heard = Type.Object(
  {
    word: Type.Optional(Word),
    /** How far that is, s. */
    until: Type.Optional(Type.Number({ minimum: 0 })),
    missed: Type.Optional(Type.Object({ from: Type.Number(), to: Type.Number(), says: Type.String() })),
    done: Type.Optional(Type.Boolean()),
    error: Type.Optional(Type.String()),
  },
  closed,
)

/** Grading as it was kept. */
export const KeptGrading = Type.Object({ entries: Type.Array(StoredGrading) }, closed)
/** At how many places data of a student were deleted. */
export const DeletedPlaces = Type.Object({ places: Type.Integer({ minimum: 0 }) })

/** The captioning service that is connected; `account` is null where it does not answer, and `says` why. */
export const ServiceConnection = Type.Object(
  { address: Type.String(), account: Type.Union([ServiceAccount, Type.Null()]), says: Type.String() },
  closed,
)
export type ServiceConnection = Static<typeof ServiceConnection>

/** Where the course site is; null where there is none. */
export const CourseSiteAddress = Type.Object({ address: Type.Union([Type.String(), Type.Null()]) })
