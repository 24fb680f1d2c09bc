/**
 * Writes what the made-up students of the demo term watched and answered, as the server keeps it, beside what
 * make-publications.ts published. The same every time. `npx tsx demo/make-answers.ts`
 */
import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { watchStatement, type Stretch } from '../core/results/played'
import type { Answer, OpenQuestion, QuestionKey } from '../core/schema/questions'
import type { ReceivedEvent } from '../core/schema/attempt'
import { DEMO_ANCHOR, DemoTerm } from '../core/schema/demo'
import { parseAs } from '../core/schema/validate'
import type { ReceivedStatement, WatchVerb } from '../core/schema/watching'
import { demoCourses, demoStudents } from '../standins/course-site/people'

const root = fileURLToPath(new URL('..', import.meta.url))
const out = join(root, 'demo/publications')
const read = (path: string): unknown => JSON.parse(readFileSync(join(out, path), 'utf8'))
const term = parseAs(DemoTerm, JSON.parse(readFileSync(join(root, 'public/demo/term.json'), 'utf8')), 'demo term')

/** A generator with a fixed seed (mulberry32). */
function random(seed: number): () => number {
  return () => {
    seed = (seed + 0x6d2b79f5) | 0
    let t = Math.imul(seed ^ (seed >>> 15), 1 | seed)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}

/** What students write, from those who know much to those who do not. */
const written = [
  'At the line the glacier gains as much in a year as it loses. When it is warm, more melts at every height, so the two are only equal higher up.',
  'More ice melts than snow falls at the old height, so that place now loses mass. The line moves to where gain and loss are equal again.',
  'Because it melts more in a warm year, and so the snow stays only farther up.',
  'The line is where accumulation and ablation balance. Ablation grows when it is warm.',
  'It gets warmer and the glacier gets shorter.',
  'I think the wind takes the snow up the glacier.',
]

/** Stronger students are right more often. @param strength 0…1 */
function answerTo(open: OpenQuestion, key: QuestionKey, strength: number, next: () => number): Answer | null {
  if (open.kind === 'one-right' && key.kind === 'one-right') {
    const wrong = open.choices.filter((c) => c.id !== key.right)
    const choice = next() < strength ? key.right : (wrong[Math.floor(next() * wrong.length)]?.id ?? key.right)
    return { kind: 'one-right', choice }
  }
  if (open.kind !== 'longer') return null
  const at = Math.min(written.length - 1, Math.floor((1 - strength) * written.length + 2 * next()))
  return { kind: 'longer', text: written[at] ?? '' }
}

/** What is played of `length` s: from the beginning, often with a part before the question again, and not always to the end. */
function stretches(length: number, question: number, strength: number, next: () => number): Stretch[] {
  const leaves = next() < 0.25 + 0.3 * (1 - strength)
  const until = leaves ? length * (0.3 + 0.5 * next()) : length
  const again = next() < 0.5 && until > question
  if (!again) return [[0, until]]
  return [
    [0, question],
    [Math.max(0, question - 6 - 6 * next()), question + 1],
    ...(until > question + 1 ? [[question + 1, until] as Stretch] : []),
  ]
}

const answers: ReceivedEvent[] = []
const watched: ReceivedStatement[] = []
const released = term.lectures.filter((l) => l.release)
for (const [index, { release }] of released.entries()) {
  const place = release?.places[0]
  if (!place || Date.parse(place.from) > Date.parse(DEMO_ANCHOR)) continue
  const publication = read(`publications/${release?.publicationId}.json`) as {
    current: string
    sets: { version: string }[]
  }
  const version = publication.sets[0]?.version ?? ''
  const { set, keys } = read(`sets/${version}.json`) as {
    set: { checkpoints: { at: number; questions: OpenQuestion[] }[] }
    keys: { keys: QuestionKey[] }
  }
  const length = (read(`versions/${publication.current}.json`) as { manifest: { duration: number } }).manifest.duration
  const next = random(1000 * (index + 1))
  const uuid = () =>
    [8, 4, 4, 4, 12]
      .map((n) => Array.from({ length: n }, () => Math.floor(16 * next()).toString(16)).join(''))
      .join('-')
  const members = demoStudents.filter((s) => demoCourses[place.courseId]?.members.includes(s.subject))
  members.forEach((student, i) => {
    if (next() < 0.2) return
    const strength = 0.45 + (0.5 * ((i * 7) % members.length)) / members.length
    const begun = Date.parse(place.from) + (36 + 90 * next()) * 3_600_000
    const played = stretches(length, set.checkpoints[0]?.at ?? length / 2, strength, next)
    const farthest = Math.max(...played.map(([, to]) => to))
    const sitting = { placeId: place.id, version: publication.current, length, session: uuid() }
    const say = (after: number, verb: WatchVerb, result: Parameters<typeof watchStatement>[2]) => {
      const at = new Date(begun + 1000 * after).toISOString()
      const statement = watchStatement(sitting, verb, result, { id: uuid(), at })
      watched.push({ receivedAt: at, placeId: place.id, student, statement })
    }
    say(0, 'initialized', {})
    say(length, 'paused', { time: farthest, played })
    if (farthest >= length) say(length + 1, 'completed', { time: length, played })
    for (const [n, question] of set.checkpoints
      .flatMap((c) => c.questions.map((q) => ({ ...q, at: c.at })))
      .entries()) {
      const { at: instant, ...open } = question
      if (instant > farthest || next() < 0.08) continue
      const key = keys.keys.find((k) => k.questionId === open.id)
      const answer = key && answerTo(open, key, strength, next)
      if (!answer) continue
      const at = new Date(begun + 1000 * (length + 5 + 30 * n)).toISOString()
      const took = Math.round(10 * ((open.kind === 'longer' ? 60 : 8) + 40 * next())) / 10
      const hinted = next() < 0.2
      answers.push({
        ...{ receivedAt: at, placeId: place.id, student },
        event: {
          ...{
            id: `demo-${open.id}-${student.subject}`,
            kind: 'answer',
            questionId: open.id,
            answer,
            at,
            version,
            took,
          },
          ...(hinted && { hinted }),
        },
      })
    }
  })
}
const inOrder = <T extends { receivedAt: string }>(all: T[]) =>
  all.sort((a, b) => (a.receivedAt < b.receivedAt ? -1 : a.receivedAt > b.receivedAt ? 1 : 0))
writeFileSync(join(out, 'answers.json'), JSON.stringify(inOrder(answers), null, 1) + '\n')
writeFileSync(join(out, 'watching.json'), JSON.stringify(inOrder(watched), null, 1) + '\n')
console.log(`${answers.length} answers, ${watched.length} statements`)
