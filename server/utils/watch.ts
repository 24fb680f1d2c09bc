/** What a student's player is told: the lecture without its keys, and the state of this student's answers. */
import type { WatchView } from '#core/packages/watch-view'
import { attemptState, report } from '#core/questions/attempt'
import type { Place } from '#core/schema/publication'
import { mediaBase } from './sessions'
import { answersOf, chosenBy } from './responses'
import { readVersionOf, type StoredPublication } from './publications'
import type { WatchSession } from './sessions'

/** The question and the key by which an answer counts: those of the version that the student saw. */
async function gradedBy(place: Place, version: string, questionId: string) {
  const seen = await readVersionOf(place.publicationId, version)
  const question = seen?.set.checkpoints.find((c) => c.question.id === questionId)?.question
  const key = seen?.keys.keys.find((k) => k.questionId === questionId)
  return question && key ? { question, key } : null
}

export async function watchView(
  place: Place,
  { manifest, set, keys, version }: StoredPublication,
  session: WatchSession,
): Promise<WatchView> {
  const { student } = session
  const state = attemptState(
    (await answersOf(place.id, student)).map((e) => e.event),
    await chosenBy(place.id, student),
  )
  const base = `${await mediaBase(place.id, session)}/${version}`
  const checkpoints: WatchView['checkpoints'] = []
  for (const { id, at, question } of set.checkpoints) {
    const key = keys.keys.find((k) => k.questionId === question.id)
    if (!key) throw new Error(`question ${question.id} of ${manifest.id} has no key`)
    const own = state.get(question.id)
    const seen = (own?.kind === 'handed-in' &&
      own.version &&
      own.version !== version &&
      (await gradedBy(place, own.version, question.id))) || { question, key }
    checkpoints.push({ id, at, question, report: report(own, seen.question, seen.key) })
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
    captions: manifest.captions.map(({ language, file }) => ({ language, url: `${base}/${file}` })),
    chapters: manifest.chapters,
    links: manifest.links,
    checkpoints,
  }
}
