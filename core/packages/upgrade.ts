/**
 * Publications as earlier versions wrote them. Up to version 1 a publication was one film, `media.mp4`, with all
 * pictures in it, and its manifest carried the questions.
 */
import { Type, type Static } from '@sinclair/typebox'
import { closed } from '../schema/parts'
import {
  PublicationManifest,
  PublishedCheckpoint,
  PublishedFile,
  PublishedSet,
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
    set: { format: 'thaw-published-set', version: 1, publicationId: old.id, checkpoints },
  }
}

const isOfVersion1 = (manifest: unknown): boolean =>
  typeof manifest === 'object' && manifest !== null && 'version' in manifest && manifest.version === 1

/**
 * A manifest of any version, with the set of its questions.
 * @param set as it stands beside a manifest of version 2 or later
 * @throws {InvalidDocument}
 */
export function readPublished(manifest: unknown, set?: unknown): { manifest: Manifest; set: PublishedSet } {
  if (isOfVersion1(manifest)) return upgraded(parseAs(PublicationManifest1, manifest, 'publication of version 1'))
  return {
    manifest: parseAs(PublicationManifest, manifest, 'publication'),
    set: parseAs(PublishedSet, set, 'set of questions'),
  }
}

/** A version of a publication as it is kept, of any version of its manifest. What is something else stays as it is. */
export function upgradeVersion(data: unknown): unknown {
  if (typeof data !== 'object' || data === null || !('manifest' in data) || !isOfVersion1(data.manifest)) return data
  return { ...data, ...readPublished(data.manifest) }
}
