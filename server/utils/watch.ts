/** What a student's player is told: the lecture without its keys, and the state of this student's answers. */
import type { Student } from '#core/schema/attempt'
import type { WatchView } from '#core/packages/watch-view'
import { attemptState, report } from '#core/questions/attempt'
import { readEvents } from './responses'
import type { StoredPublication } from './publications'

export async function watchView(placeId: string, { manifest, keys, version }: StoredPublication, student: Student): Promise<WatchView> {
  const events = (await readEvents(manifest.id)).filter((e) => e.student.id === student.id)
  const state = attemptState(events.map((e) => e.event))
  return {
    kind: 'recording',
    title: manifest.title,
    description: manifest.description,
    language: manifest.language,
    duration: manifest.duration,
    width: manifest.width,
    height: manifest.height,
    student,
    media: `/api/watch/${placeId}/files/media.mp4?v=${version}`,
    captions: manifest.files.some((f) => f.name === 'captions.vtt') ? `/api/watch/${placeId}/files/captions.vtt?v=${version}` : null,
    checkpoints: manifest.checkpoints.map(({ id, at, question }) => {
      const key = keys.keys.find((k) => k.questionId === question.id)
      if (!key) throw new Error(`question ${question.id} of ${manifest.id} has no key`)
      return { id, at, question, report: report(state.get(question.id), question, key) }
    }),
  }
}
