/**
 * Trying a lecture as a student, in the student's own player, beside the desk. What it would be sent is made here, and what
 * it sends is answered here by the rules that the server goes by: nothing of it leaves the page, or is kept.
 */
import type { ProjectedSet } from '#core/packages/publication'
import type { WatchView } from '#core/packages/watch-view'
import { eventProblem, NO_ATTEMPT, replay, takeEvents, type TakenEvent } from '#core/questions/attempt'
import { picturesPublished } from '#core/questions/pictures'
import { Decisions } from '#core/questions/grading'
import { askedSet, questionsOf, standingAt, type KeyedSet } from '#core/questions/standing'
import type { AttemptEvent, RefusedEvent } from '#core/schema/attempt'
import type { Gateway } from '#player/gateway'
import { readFile } from '~/db/files'
import type { useJobs } from '~/stores/jobs'
import type { LectureParts } from './cards'
import { nowInstant } from './ids'
import { languageOf } from './lectures'
import { captionsOf, framesOf, makeFilms, projectSets, type MadeFilms } from './publishing'

export const TRIAL = 'trial'
const student = { issuer: 'https://trial.invalid', subject: 'trial', name: 'You, trying it' }

/** What is tried: the lecture as it stands on the desk. */
export interface Tried {
  view: Omit<WatchView, 'sets' | 'checkpoints' | 'told'>
  sets: KeyedSet[]
  captions: string[]
  /** URLs of the pictures in its questions, by the hashes of their files. */
  pictures: Map<string, string>
}

/** What of a trial can be chosen while it goes on. */
export interface TrialSettings {
  /** Whether students are told what they are told only after a date, or after marking. */
  later: boolean
}

/** Makes the films of a lecture for trying it. @throws {Error} with a sentence, or JobCancelled */
export async function makeTrial(
  parts: LectureParts,
  jobs: ReturnType<typeof useJobs>,
): Promise<{ tried: Tried; leave: () => void }> {
  const urls: string[] = []
  const tried = await jobs.start('try', parts.lecture.id, 'Making it ready to try', async (context) => {
    const made = await makeFilms(parts, context)
    for (const { data, type } of made.films)
      // A copy, as the job's own file goes with it.
      urls.push(URL.createObjectURL(new Blob([await data.arrayBuffer()], { type })))
    const films = [...urls]
    const { stills, mark } = made
    const sheet = stills && { url: URL.createObjectURL(stills.data), ...stills.grid }
    if (sheet) urls.push(sheet.url)
    const shown = mark && { box: mark.box, opacity: mark.opacity, url: URL.createObjectURL(mark.data) }
    if (shown) urls.push(shown.url)
    const sets = projectSets(parts, TRIAL, made.map)
    const pictures = new Map<string, string>()
    for (const hash of new Set(sets.flatMap(picturesPublished))) {
      const blob = await readFile(hash)
      if (!blob) continue
      const url = URL.createObjectURL(blob)
      urls.push(url)
      pictures.set(hash, url)
    }
    const { view, captions } = triedOf(parts, made, films, await languageOf(parts.lecture))
    return { view: { ...view, stills: sheet, watermark: shown }, captions, sets: sets.map(keyedOf), pictures }
  })
  return { tried, leave: () => urls.forEach((url) => URL.revokeObjectURL(url)) }
}

const keyedOf = ({ set: { id, title, policy, checkpoints }, keys }: ProjectedSet): KeyedSet => ({
  ...{ version: id, id, title, policy, checkpoints },
  keys: keys.keys,
})

function triedOf(
  parts: LectureParts,
  made: MadeFilms,
  urls: readonly string[],
  language: string,
): Pick<Tried, 'view' | 'captions'> {
  const { title, description } = parts.lecture
  const { feeds, ...frame } = framesOf(made)
  const captions = captionsOf(parts, made.map)
  return {
    view: {
      ...{ kind: 'recording', version: TRIAL, title, description, language, student, ...frame },
      duration: made.map.length,
      feeds: feeds.map(({ file: _, ...feed }, i) => ({ ...feed, url: urls[i] ?? '' })),
      captions: captions.map(({ language, role }, i) => ({ language, role, url: String(i) })),
      chapters: made.marks.chapters,
      links: made.marks.links,
      stills: null,
      watermark: null,
      ...{ download: false, sumsOnly: true, resume: null },
      pictures: '',
    },
    captions: captions.map((c) => c.text),
  }
}

/** The server's part of a trial. */
export function trialGateway({ view, sets, captions, pictures }: Tried, settings: () => TrialSettings): Gateway {
  const versions = new Map(sets.map((set) => [set.version, askedSet(set)]))
  const setOf = (event: AttemptEvent) => versions.get(event.version ?? '') ?? null
  const held: TakenEvent[] = []

  function watchView(): WatchView {
    const progress = replay(held, (event) => setOf(event)?.id ?? null)
    const { later } = settings()
    const now = later ? '9999-01-01T00:00:00.000Z' : nowInstant()
    const context = {
      who: TRIAL,
      now,
      earlier: new Map<string, KeyedSet>(),
      decisions: Decisions.none,
      asMarked: later,
    }
    const standings = sets.map((set) => ({
      version: set.version,
      ...standingAt(set, progress.get(set.id) ?? NO_ATTEMPT, context),
    }))
    return structuredClone({
      ...view,
      told: '',
      sets: standings.map((s) => s.set),
      checkpoints: standings
        .flatMap(({ version, checkpoints }) => checkpoints.map((c) => ({ ...c, set: version })))
        .sort((a, b) => a.at - b.at),
    })
  }
  return {
    placeId: TRIAL,
    load: () => Promise.resolve(watchView()),
    send(events) {
      const receivedAt = nowInstant()
      const refused: RefusedEvent[] = []
      const fitting = structuredClone([...events]).filter((event) => {
        const why = eventProblem(event, sets.flatMap(questionsOf))
        if (why) refused.push({ id: event.id, why })
        return !why
      })
      // What is only begun is kept like the rest here: it goes with the page.
      const decided = takeEvents(held, fitting, setOf, receivedAt)
      held.push(...decided.taken.map((event) => ({ event, receivedAt })))
      return Promise.resolve({ view: watchView(), refused: [...refused, ...decided.refused] })
    },
    pictureUrl: (_, file) => pictures.get(file) ?? '',
    captions: (url) => Promise.resolve(captions[Number(url)] ?? ''),
  }
}
