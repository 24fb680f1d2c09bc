/**
 * The five readiness marks of a lecture, computed from what is truly there, and the next thing to do. People
 * finish every step but one small switch; this is where that switch is seen.
 */
import type { CaptionState } from '../schema/captions'
import { bestReleaseState, type ReleaseWindow } from '../course/release'

export const marks = ['recorded', 'tidied', 'captioned', 'asked', 'released'] as const
export type Mark = (typeof marks)[number]

/** none: nothing there; begun: something there that still needs a person; done: well. */
export type MarkState = 'none' | 'begun' | 'done'

export interface LectureFacts {
  recording: 'none' | 'recording' | 'settling' | 'whole' | 'broken'
  tidied: boolean
  captions: CaptionState | null
  /** Takes that have none while others do. */
  uncaptioned: number
  /** Checkpoints that are complete, and those that are not. */
  asked: { complete: number; unfinished: number; lost: number }
  /** When it is to be seen, for each place in a course. */
  places: readonly ReleaseWindow[]
  /** Whether what students get is what the desk now shows. */
  published: 'no' | 'current' | 'outdated'
  /** ISO 8601 UTC. */
  now: string
}

export interface Readiness {
  marks: Record<Mark, { state: MarkState; says: string }>
  /** The next thing to do, as a short imperative, and where one press does it, which; null when all is done. */
  next: { mark: Mark; says: string; press?: 'captions-on' } | null
}

export function readiness(facts: LectureFacts): Readiness {
  const all: Readiness['marks'] = {
    recorded: {
      none: { state: 'none', says: 'Not recorded yet' } as const,
      recording: { state: 'begun', says: 'Being recorded' } as const,
      settling: { state: 'begun', says: 'Being made ready' } as const,
      broken: { state: 'begun', says: 'The recording needs a look' } as const,
      whole: { state: 'done', says: 'Recorded' } as const,
    }[facts.recording],
    tidied: facts.tidied ? { state: 'done', says: 'Tidied' } : { state: 'none', says: 'Not tidied yet' },
    captioned:
      facts.captions && facts.uncaptioned > 0
        ? {
            state: 'begun',
            says:
              facts.uncaptioned === 1
                ? 'A take has no captions yet'
                : `${facts.uncaptioned} takes have no captions yet`,
          }
        : facts.captions === 'on'
          ? { state: 'done', says: 'Captions are on for students' }
          : withoutCaptions(facts),
    asked:
      facts.asked.complete + facts.asked.unfinished === 0
        ? { state: 'none', says: 'No question yet' }
        : facts.asked.lost > 0
          ? { state: 'begun', says: 'A question lies inside a removed part' }
          : facts.asked.unfinished > 0
            ? { state: 'begun', says: 'A question is unfinished' }
            : { state: 'done', says: facts.asked.complete === 1 ? '1 question' : `${facts.asked.complete} questions` },
    released: releasedMark(facts),
  }
  return { marks: all, next: nextStep(facts, all) }
}

/** Captions that students do not see, which is worse where they see the lecture. */
function withoutCaptions({ captions, published }: LectureFacts): { state: MarkState; says: string } {
  const isOut = published !== 'no'
  if (captions === 'checked')
    return {
      state: 'begun',
      says: isOut ? 'Published without its captions, which are checked' : 'Captions are checked but not switched on',
    }
  if (captions === 'draft')
    return {
      state: 'begun',
      says: isOut ? 'Published without its captions, which are a draft' : 'Captions are a draft',
    }
  return isOut ? { state: 'begun', says: 'Published without captions' } : { state: 'none', says: 'No captions yet' }
}

function releasedMark(facts: LectureFacts): { state: MarkState; says: string } {
  if (facts.places.length === 0 || facts.published === 'no') return { state: 'none', says: 'Not on a course page yet' }
  if (facts.published === 'outdated') return { state: 'begun', says: 'Changed since it was published' }
  const state = bestReleaseState(facts.places, facts.now)
  if (state === 'waiting') return { state: 'done', says: 'Published, waiting for its date' }
  return state === 'over'
    ? { state: 'begun', says: 'Its release is over' }
    : { state: 'done', says: 'Students can see it' }
}

function nextStep(facts: LectureFacts, all: Readiness['marks']): Readiness['next'] {
  const verbs: Record<Mark, string> = {
    recorded:
      facts.recording === 'none'
        ? 'Record or bring in'
        : facts.recording === 'broken'
          ? 'Look at the recording'
          : 'Wait a moment',
    tidied: 'Tidy',
    captioned:
      facts.captions && facts.uncaptioned > 0
        ? 'Caption a take'
        : facts.captions === 'checked'
          ? 'Switch captions on'
          : facts.captions === 'draft'
            ? 'Check captions'
            : 'Draft captions',
    asked:
      facts.asked.lost > 0 ? 'Move a question' : facts.asked.unfinished > 0 ? 'Finish a question' : 'Ask a question',
    released:
      facts.published === 'outdated'
        ? 'Publish again'
        : facts.places.length > 0 && facts.published === 'current'
          ? 'Extend its release'
          : 'Publish',
  }
  const mark = marks.find((m) => all[m].state !== 'done')
  if (!mark) return null
  const isSwitch = mark === 'captioned' && facts.captions === 'checked' && facts.uncaptioned === 0
  return { mark, says: verbs[mark], ...(isSwitch && { press: 'captions-on' as const }) }
}
