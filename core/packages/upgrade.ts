/**
 * Publications as earlier versions wrote them. Up to version 1 a publication was one film, `media.mp4`, with all
 * pictures in it, and its manifest carried the questions; until sets of questions stood apart, a publication had one.
 */
import { Type, type Static } from '@sinclair/typebox'
import { DEFAULT_POLICY } from '../questions/policy'
import { upgradeCheckpoint, upgradeKey, upgradePolicy } from '../questions/upgrade'
import { closed, Id } from '../schema/parts'
import {
  Place,
  PublicationKeys,
  PublicationManifest,
  PublishedCheckpoint,
  PublishedFile,
  PublishedSet,
  type Place as PlaceNow,
  type PublicationManifest as Manifest,
} from '../schema/publication'
import { parseAs } from '../schema/validate'

const { format, id, title, description, language, duration, width, height, madeAt } = PublicationManifest.properties
export const PublicationManifest1 = Type.Object(
  {
    ...{ format, id, title, description, language, duration, width, height, madeAt },
    version: Type.Literal(1),
    files: Type.Array(PublishedFile, { minItems: 1, maxItems: 2 }),
    checkpoints: Type.Array(PublishedCheckpoint, { maxItems: 200 }),
  },
  closed,
)
type Manifest1 = Static<typeof PublicationManifest1>

export const PublishedSet1 = Type.Object(
  {
    format: PublishedSet.properties.format,
    version: Type.Literal(1),
    publicationId: Id,
    checkpoints: PublishedSet.properties.checkpoints,
  },
  closed,
)

/** The id of a publication's set from when it had only one. */
export const onlySetId = (publicationId: string): string => `${publicationId}-questions`.slice(-64)

function upgradedSet({ publicationId, checkpoints }: Static<typeof PublishedSet1>, of: string): PublishedSet {
  return {
    format: 'thaw-published-set',
    version: 4,
    id: onlySetId(publicationId),
    publicationId,
    title: of,
    policy: DEFAULT_POLICY,
    checkpoints,
  }
}

function upgraded(old: Manifest1): { manifest: Manifest; set: PublishedSet } {
  const { checkpoints, ...same } = old
  const captions = old.files.filter((f) => f.type === 'text/vtt')
  const slots = [{ feed: 'screen', box: { x: 0, y: 0, width: 1, height: 1 } }]
  return {
    manifest: {
      ...same,
      version: 2,
      feeds: [{ id: 'screen', file: 'media.mp4', width: old.width, height: old.height }],
      layout: old.width > 0 ? [{ at: 0, slots }] : [],
      captions: captions.map((f) => ({ language: old.language, file: f.name })),
      chapters: [],
      links: [],
      kept: null,
    },
    set: upgradedSet({ format: 'thaw-published-set', version: 1, publicationId: old.id, checkpoints }, old.title),
  }
}

const isOfVersion = (data: unknown, version: number): data is Record<string, unknown> =>
  typeof data === 'object' && data !== null && 'version' in data && data.version === version

/** With its checkpoints as they are written now, in whichever document. */
const withCheckpoints = (data: Record<string, unknown>) => ({
  ...data,
  ...(Array.isArray(data.checkpoints) && { checkpoints: data.checkpoints.map(upgradeCheckpoint) }),
})

/** A published set of version 2 or later; the first needs its manifest (`readPublished`). */
export const upgradePublishedSet = (data: unknown): unknown =>
  isOfVersion(data, 2) || isOfVersion(data, 3)
    ? { ...withCheckpoints(data), policy: upgradePolicy(data.policy), version: 4 }
    : data

/** Keys of any version. */
export const upgradeKeys = (data: unknown): unknown =>
  isOfVersion(data, 1) && Array.isArray(data.keys) ? { ...data, version: 2, keys: data.keys.map(upgradeKey) } : data

/** @throws {InvalidDocument} */
export const readKeys = (data: unknown): PublicationKeys => parseAs(PublicationKeys, upgradeKeys(data), 'keys')

/** A set with its keys, as it is sent and kept, of any version. */
export const upgradeSetUpload = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'set' in data && 'keys' in data
    ? { ...data, set: upgradePublishedSet(data.set), keys: upgradeKeys(data.keys) }
    : data

/** A version of a set as its answers are graded, of any version. */
export const upgradeGradedSet = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'keys' in data && Array.isArray(data.keys)
    ? {
        // Until it said what holds for it, answers were graded alike whatever that was.
        ...{ policy: DEFAULT_POLICY },
        ...withCheckpoints(data as Record<string, unknown>),
        keys: data.keys.map(upgradeKey),
      }
    : data

/**
 * A manifest of any version, with the set that stood in it or beside it.
 * @throws {InvalidDocument}
 */
export function readPublished(manifest: unknown, set?: unknown): { manifest: Manifest; set: PublishedSet } {
  if (isOfVersion(manifest, 1))
    return upgraded(parseAs(PublicationManifest1, withCheckpoints(manifest), 'publication of version 1'))
  const read = parseAs(PublicationManifest, manifest, 'publication')
  return {
    manifest: read,
    set: isOfVersion(set, 1)
      ? upgradedSet(parseAs(PublishedSet1, withCheckpoints(set), 'set of questions of version 1'), read.title)
      : parseAs(PublishedSet, upgradePublishedSet(set), 'set of questions'),
  }
}

/** A place of any version; the first had one set, and no options. What is something else stays as it is. */
export const upgradePlace = (data: unknown): unknown =>
  typeof data === 'object' && data !== null && 'publicationId' in data && !('sets' in data)
    ? { ...data, sets: [onlySetId(String(data.publicationId))], options: DEFAULT_OPTIONS }
    : data

export const DEFAULT_OPTIONS: PlaceNow['options'] = { download: false }

/** Reads a place of any version. @throws {InvalidDocument} */
export const readPlace = (data: unknown): PlaceNow => parseAs(Place, upgradePlace(data), 'place')
