/**
 * Publications as earlier versions wrote them. Up to version 1 a publication was one film, `media.mp4`, with all
 * pictures in it, and its manifest carried the questions; until sets of questions stood apart, a publication had one.
 */
import { Type, type Static } from '@sinclair/typebox'
import { DEFAULT_POLICY } from '../questions/grade'
import { closed, Id } from '../schema/parts'
import {
  Place,
  PublicationManifest,
  PublishedCheckpoint,
  PublishedFile,
  PublishedSet,
  type Place as PlaceNow,
  type PublicationManifest as Manifest,
} from '../schema/publication'
import { parseAs } from '../schema/validate'

const { format, id, title, description, language, duration, width, height, madeAt } = PublicationManifest.properties
const PublicationManifest1 = Type.Object(
  {
    ...{ format, id, title, description, language, duration, width, height, madeAt },
    version: Type.Literal(1),
    files: Type.Array(PublishedFile, { minItems: 1, maxItems: 2 }),
    checkpoints: Type.Array(PublishedCheckpoint, { maxItems: 200 }),
  },
  closed,
)
type Manifest1 = Static<typeof PublicationManifest1>

const PublishedSet1 = Type.Object(
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
    version: 2,
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

const isOfVersion1 = (data: unknown): boolean =>
  typeof data === 'object' && data !== null && 'version' in data && data.version === 1

/**
 * A manifest of any version, with the set that stood in it or beside it.
 * @throws {InvalidDocument}
 */
export function readPublished(manifest: unknown, set?: unknown): { manifest: Manifest; set: PublishedSet } {
  if (isOfVersion1(manifest)) return upgraded(parseAs(PublicationManifest1, manifest, 'publication of version 1'))
  const read = parseAs(PublicationManifest, manifest, 'publication')
  return {
    manifest: read,
    set: isOfVersion1(set)
      ? upgradedSet(parseAs(PublishedSet1, set, 'set of questions of version 1'), read.title)
      : parseAs(PublishedSet, set, 'set of questions'),
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
