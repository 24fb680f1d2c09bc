/** What a student's player is told: the lecture without its keys, and the state of this student's answers. */
import { trackKey } from '#core/packages/publication'
import { createHash } from 'node:crypto'
import type { WatchChange, WatchView } from '#core/packages/watch-view'
import { personKey } from '#core/course/people'
import { NO_ATTEMPT, withBegun } from '#core/questions/attempt'
import { standingAt } from '#core/questions/standing'
import type { Place, PublishedMark, PublishedStills } from '#core/schema/publication'
import { mediaBase } from './sessions'
import { begunBy, progressOf } from './responses'
import { askedAt, keyedSet, type StoredPublication } from './publications'
import type { WatchSession } from './sessions'
import { resumeAt } from './watching'

const stillsUnder = (base: string, { file, ...grid }: PublishedStills) => ({ url: `${base}/${file}`, ...grid })

const markUnder = (base: string, { file, ...mark }: PublishedMark) => ({ url: `${base}/${file}`, ...mark })

/**
 * @param publication as this student watches it: the version that counts, or an earlier one that was begun with
 * @param counting the version that counts, by whose rules all is told
 */
export async function watchView(
  place: Place,
  publication: StoredPublication,
  session: WatchSession,
  counting = publication,
): Promise<WatchView> {
  const { manifest, version } = publication
  const { student } = session
  const { attempts, decisions, versions, spans } = await progressOf(place, student)
  const begun = await begunBy(place.id, student)
  const media = await mediaBase(place.id, session)
  const base = `${media}/${version}`
  const context = {
    who: `${place.id} ${personKey(student)}`,
    now: new Date().toISOString(),
    earlier: versions,
    decisions,
  }
  const sets: WatchView['sets'] = []
  let checkpoints: WatchView['checkpoints'] = []
  const rules = new Map(askedAt(place, counting).map(({ set }) => [set.id, set.policy]))
  for (const set of askedAt(place, publication).map(keyedSet)) {
    const policy = rules.get(set.id)
    if (!policy) continue
    const standing = standingAt({ ...set, policy }, withBegun(attempts.get(set.id) ?? NO_ATTEMPT, begun), {
      ...context,
      versions: spans.get(set.id) ?? [],
    })
    sets.push(standing.set)
    for (const c of standing.checkpoints) checkpoints.push({ ...c, set: set.version })
  }
  checkpoints = checkpoints.sort((a, b) => a.at - b.at)
  return {
    kind: 'recording',
    version,
    title: manifest.title,
    description: manifest.description,
    language: manifest.language,
    duration: manifest.duration,
    width: manifest.width,
    height: manifest.height,
    student,
    feeds: manifest.feeds.map(({ file, ...feed }) => ({ ...feed, url: `${base}/${file}` })),
    layout: manifest.layout,
    captions: publication.captions
      ? publication.captions.tracks.map(({ language, role }) => ({
          ...{ language, role },
          url: `${media}/captions/${publication.captions?.version}/${trackKey({ language, role })}`,
        }))
      : manifest.captions.map(({ language, file }) => ({ language, role: 'captions', url: `${base}/${file}` })),
    chapters: manifest.chapters,
    links: manifest.links,
    stills: manifest.stills ? stillsUnder(base, manifest.stills) : null,
    watermark: manifest.watermark ? markUnder(base, manifest.watermark) : null,
    sets,
    checkpoints,
    download: place.options.download,
    sumsOnly: place.options.sumsOnly ?? false,
    resume: await resumeAt(place.id, student),
    pictures: `${media}/pictures`,
    told: marksOf(sets, checkpoints).join(' '),
  }
}

/** Sets and questions beyond which no marks are given, so that all is told anew each time. */
const MOST_MARKED = 2000
const markOf = (value: unknown) => createHash('sha1').update(JSON.stringify(value)).digest('base64url').slice(0, 8)

/** A mark of what is asked, then one of each set, then one of each question. */
function marksOf(sets: WatchView['sets'], checkpoints: WatchView['checkpoints']): string[] {
  const questions = checkpoints.flatMap((c) => c.questions)
  if (sets.length + questions.length > MOST_MARKED) return []
  const asked = checkpoints.map((c) => [c.set, c.id, c.at, ...c.questions.map((q) => q.open.id)])
  return [[sets.map((s) => s.version), asked], ...sets, ...questions].map(markOf)
}

/**
 * What differs between a view and what a player was told; null where that is not known, or other questions were asked.
 * @param told marks that came with what it was told
 */
export function changeSince({ sets, checkpoints, told: marks }: WatchView, told: string): WatchChange | null {
  const [before, now] = [told.split(' '), marks.split(' ')]
  if (!marks || before.length !== now.length || before[0] !== now[0]) return null
  let at = 0
  const isOther = () => before[++at] !== now[at]
  return {
    sets: sets.filter(isOther),
    checkpoints: checkpoints
      .map((c) => ({ ...c, questions: c.questions.filter(isOther) }))
      .filter((c) => c.questions.length > 0),
    told: marks,
  }
}
