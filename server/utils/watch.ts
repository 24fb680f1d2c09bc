/** What a student's player is told: the lecture without its keys, and the state of this student's answers. */
import { trackKey } from '#core/packages/publication'
import type { WatchView } from '#core/packages/watch-view'
import { personKey } from '#core/course/people'
import { attemptState, report } from '#core/questions/attempt'
import { shuffledFor } from '#core/questions/shuffle'
import type { Place } from '#core/schema/publication'
import { mediaBase } from './sessions'
import { answersOf, begunBy } from './responses'
import { askedAt, readSetOf, type StoredPublication, type StoredSet } from './publications'
import type { WatchSession } from './sessions'

/** A question of a set with its key, by which an answer counts. */
function gradedBy({ set, keys }: StoredSet, questionId: string) {
  const open = set.checkpoints.flatMap((c) => c.questions).find((q) => q.id === questionId)
  const key = keys.keys.find((k) => k.questionId === questionId)
  return open && key ? { open, key } : null
}

export async function watchView(
  place: Place,
  publication: StoredPublication,
  session: WatchSession,
): Promise<WatchView> {
  const { manifest, version } = publication
  const { student } = session
  const state = attemptState(
    (await answersOf(place.id, student)).map((e) => e.event),
    await begunBy(place.id, student),
  )
  const media = await mediaBase(place.id, session)
  const base = `${media}/${version}`
  const checkpoints: WatchView['checkpoints'] = []
  for (const asked of askedAt(place, publication))
    for (const { id, at, questions } of asked.set.checkpoints) {
      const shown: WatchView['checkpoints'][number]['questions'] = []
      for (const { id: questionId } of questions) {
        const own = state.get(questionId)
        const answered = own?.kind === 'handed-in' && own.version !== asked.version ? own.version : undefined
        // Graded by what the student saw, which may be an earlier version.
        const seen = answered && (await readSetOf(place.publicationId, answered))
        const by = (seen && gradedBy(seen, questionId)) || gradedBy(asked, questionId)
        if (!by) throw new Error(`question ${questionId} of ${manifest.id} has no key`)
        shown.push({
          open: shuffledFor(by.open, `${place.id} ${personKey(student)}`),
          report: report(own, asked.set.policy, by.open, by.key),
        })
      }
      checkpoints.push({ id, at, set: asked.version, questions: shown })
    }
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
    checkpoints: checkpoints.sort((a, b) => a.at - b.at),
    download: place.options.download,
  }
}
