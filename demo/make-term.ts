/**
 * Writes public/demo/term.json: the demo term, with lectures in every state; and its question sets apart, as students
 * could read the term. Needs the media of make-media.ts. `npx tsx demo/make-term.ts`
 */
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { reflow } from '../core/captions/reflow'
import { realignWords, readTrack } from '../core/captions/track'
import { apply, newEdit } from '../core/edit/edit'
import type { CaptionState, CaptionTrack } from '../core/schema/captions'
import { DemoTerm, DEMO_ANCHOR, type DemoQuestions } from '../core/schema/demo'
import type { EditDocument } from '../core/schema/edit'
import type { ChapterList, LinkList } from '../core/schema/marks'
import type { Checkpoint, QuestionSet } from '../core/schema/questions'
import { parseAs } from '../core/schema/validate'
import { documentId } from '../core/documents/kinds'
import { DEFAULT_OPTIONS } from '../core/packages/upgrade'
import { DEFAULT_POLICY } from '../core/questions/policy'
import { richOf } from '../core/text/rich-text'
import { recorded } from '../core/time/units'
import { decks } from './decks'

const media = fileURLToPath(new URL('../public/demo/media/', import.meta.url))
const json = (name: string): unknown => JSON.parse(readFileSync(media + name, 'utf8'))

interface Probe {
  streams: { width?: number; height?: number; avg_frame_rate: string }[]
  format: { duration: string }
}
function feed(name: string, kind: 'screen' | 'camera' | 'sound', label: string) {
  const probe = JSON.parse(
    execFileSync('ffprobe', [
      '-v',
      'error',
      '-show_streams',
      '-show_format',
      '-of',
      'json',
      `${media}${name}-${kind}.mp4`,
    ]).toString(),
  ) as Probe
  const [stream] = probe.streams
  const [a = 0, b = 1] = (stream?.avg_frame_rate ?? '0/1').split('/').map(Number)
  return {
    id: kind,
    kind,
    label,
    offset: 0,
    duration: Number(probe.format.duration),
    width: stream?.width ?? 0,
    height: stream?.height ?? 0,
    frameRate: kind === 'sound' ? 0 : Math.round(a / b),
    file: `${name}-${kind}.mp4`,
  }
}

const draft = (name: string): CaptionTrack => readTrack(json(`${name}.captions.json`))

/** The draft put right from what was really said: recognised words give the times, the script gives the text. */
function corrected(name: string, state: CaptionState): CaptionTrack {
  const track = draft(name)
  const words = track.cues.flatMap((c) => c.words ?? [])
  const script = decks[name]?.slides.map((s) => s.says).join(' ') ?? ''
  const all = { id: 'all', from: words[0]?.from ?? recorded(0), to: words.at(-1)?.to ?? recorded(1), text: '', words }
  let n = 0
  const sure = realignWords(all, script).map((w) => ({
    ...w,
    confidence: 1,
    from: recorded(Math.round(w.from * 1000) / 1000),
    to: recorded(Math.round(w.to * 1000) / 1000),
  }))
  return { ...track, state, cues: reflow(sure, () => `cue-${++n}`) }
}

/** A chapter for each slide, from just before its first word. */
function chaptersOf(name: string, track: CaptionTrack): ChapterList {
  const words = track.cues.flatMap((c) => c.words ?? [])
  let said = 0
  const chapters = (decks[name]?.slides ?? []).map(({ title, says }, i) => {
    const first = words[said]?.from ?? 0
    said += says.split(/\s+/).length
    return { id: `${name}-ch${i + 1}`, at: recorded(Math.round(10 * (first - 0.4)) / 10), title }
  })
  return { format: 'thaw-chapters', version: 1, chapters }
}

/** A card that leads to a chapter. */
interface Link {
  from: number
  to: number
  words: string
  chapter: string
}
const linksOf = (id: string, { from, to, words, chapter }: Link): LinkList => ({
  format: 'thaw-links',
  version: 1,
  links: [
    {
      ...{ id: `${id}-link`, from: recorded(from), to: recorded(to), words, target: { chapter } },
      ...{ box: { x: 0.68, y: 0.05, width: 0.28, height: 0.09 }, ink: '#ffffff', ground: '#1b4b57', corner: 0.02 },
    },
  ],
})

interface Planned {
  id: string
  course: string
  week: number
  title: string
  description?: string
  folder?: string
  media?: string
  edit?: (e: EditDocument) => EditDocument
  captions?: (name: string) => CaptionTrack
  /** Whether its slides are its chapters. */
  chapters?: boolean
  link?: Link
  ask?: Omit<Question, 'id'>
  also?: Longer
  release?: { from: string; until: string | null }
}
interface Question {
  id: string
  at: number
  prompt: string
  choices: string[]
  right: number
  hint: string
  why: string
}

function question(q: Question): Checkpoint {
  const choices = q.choices.map((text, i) => ({ id: `${q.id}-c${i + 1}`, text: richOf(text) }))
  const kind = 'one-right'
  return {
    id: `${q.id}-cp`,
    at: recorded(q.at),
    questions: [
      {
        open: { id: q.id, kind, prompt: richOf(q.prompt), choices, shuffled: false, hint: richOf(q.hint), points: 2 },
        key: { questionId: q.id, kind, right: choices[q.right]?.id ?? '', explanation: richOf(q.why), lookAt: null },
      },
    ],
  }
}

/** A longer answer, which the marker reads. */
interface Longer {
  at: number
  prompt: string
  rubric: string[]
  model: string
}
function longerQuestion(id: string, { at, prompt, rubric, model }: Longer): Checkpoint {
  const kind = 'longer'
  const lines = rubric.map((text, i) => ({ id: `${id}-r${i + 1}`, text, points: 2 }))
  return {
    id: `${id}-cp`,
    at: recorded(at),
    questions: [
      {
        open: { id, kind, prompt: richOf(prompt), hint: richOf(''), points: 2 * lines.length, words: 60 },
        key: { questionId: id, kind, rubric: lines, model, explanation: richOf(''), lookAt: null },
      },
    ],
  }
}

/** Takes the empty room before the first word and after the last off, which is what tidying means for these. */
const trimmed = (end: number) => (e: EditDocument) =>
  apply(apply(e, { do: 'remove', id: 'trim-start', from: recorded(0), to: recorded(1.8), reason: 'trim' }), {
    do: 'remove',
    id: 'trim-end',
    from: recorded(end),
    to: e.duration,
    reason: 'trim',
  })

const plan: Planned[] = [
  {
    id: 'glacier',
    course: 'ps201',
    week: 1,
    title: 'What a glacier is',
    description: 'Accumulation, ablation and the line between them.',
    media: 'glacier',
    edit: trimmed(41.6),
    captions: (n) => corrected(n, 'on'),
    chapters: true,
    link: { from: 28.5, to: 34, words: 'Gain and loss, once more', chapter: 'glacier-ch2' },
    release: { from: '2026-10-26T08:00:00.000Z', until: null },
    ask: {
      at: 24.9,
      prompt: 'What is ablation?',
      choices: ['The loss of ice', 'The gain of snow', 'The sliding of a glacier', 'The birth of an iceberg'],
      right: 0,
      hint: 'It is what happens lower down on the glacier.',
      why: 'Ablation is all loss of ice and snow: melting, evaporation and calving.',
    },
    also: {
      at: 38,
      prompt: 'Why does the equilibrium line move up the glacier in a warm year?',
      rubric: ['Says that more is lost than gained at a given height', 'Says that the line is where both are equal'],
      model:
        'At the equilibrium line the year’s gain and loss are equal. In a warm year more melts at every height, so that they are equal only farther up.',
    },
  },
  {
    id: 'balance',
    course: 'ps201',
    week: 2,
    title: 'Mass balance',
    media: 'balance',
    edit: trimmed(28.6),
    captions: (n) => corrected(n, 'checked'),
    chapters: true,
    release: { from: '2026-11-02T08:00:00.000Z', until: null },
    ask: {
      at: 27.6,
      prompt: 'How does a depth of snow become water equivalent?',
      choices: ['Depth divided by density', 'Depth times density', 'Depth plus density'],
      right: 1,
      hint: 'Snow is lighter than ice.',
      why: 'Depth times density gives the mass over an area, which is what a year’s balance adds up.',
    },
  },
  {
    id: 'flow',
    course: 'ps201',
    week: 3,
    title: 'How ice flows',
    media: 'flow',
    captions: draft,
    edit: (e) => apply(trimmed(29.8)(e), { do: 'remove', id: 'false-start', from: recorded(2.5), to: recorded(5.2) }),
  },
  {
    id: 'meltwater',
    course: 'ps201',
    week: 5,
    title: 'Meltwater under the ice',
    description: 'Moulins, and how channels open at the bed.',
  },
  {
    id: 'crystals',
    course: 'ps115',
    week: 1,
    title: 'Snow crystals',
    description: 'Why six sides, and why so many forms.',
    media: 'crystals',
    edit: trimmed(33),
    captions: (n) => corrected(n, 'on'),
    release: { from: '2026-10-26T08:00:00.000Z', until: '2027-01-31T22:00:00.000Z' },
    ask: {
      at: 23.6,
      prompt: 'Near which temperature do the large stars form?',
      choices: ['−2 °C', '−5 °C', '−15 °C'],
      right: 2,
      hint: 'It is the coldest of the three.',
      why: 'Around −15 °C and in moist air the arms grow fastest, which gives stars.',
    },
  },
  { id: 'layers', course: 'ps115', week: 3, title: 'Layers and weak layers', media: 'layers' },
  { id: 'avalanche', course: 'ps115', week: 6, title: 'Reading a slope', folder: 'Fieldwork/Slopes' },
  {
    id: 'drilling',
    course: 'ps340',
    week: 2,
    title: 'Drilling an ice core',
    folder: 'Fieldwork',
    media: 'drilling',
    edit: trimmed(31.2),
    captions: (n) => corrected(n, 'on'),
    release: { from: '2026-11-30T08:00:00.000Z', until: null },
    ask: {
      at: 30.4,
      prompt: 'Is the air in the bubbles older or younger than the ice around it?',
      choices: ['Older', 'Younger', 'Exactly as old'],
      right: 1,
      hint: 'The bubbles close long after the snow has fallen.',
      why: 'Air moves freely through the firn until the pores close; the ice around it is older by then.',
    },
  },
  {
    id: 'isotopes',
    course: 'ps340',
    week: 4,
    title: 'Oxygen isotopes',
    media: 'isotopes',
    captions: (n) => corrected(n, 'on'),
    edit: (e) => apply(trimmed(28.7)(e), { do: 'remove', id: 'aside', from: recorded(11.2), to: recorded(14.4) }),
    ask: {
      at: 12.6,
      prompt: 'What are isotopes?',
      choices: ['Forms of an element with different numbers of neutrons', 'Kinds of snow crystal', 'Layers of ash'],
      right: 0,
      hint: 'Count the neutrons.',
      why: 'The number of protons makes the element; the number of neutrons makes the isotope.',
    },
  },
  { id: 'ash', course: 'ps340', week: 6, title: 'Volcanic ash as a clock' },
]

const sets: DemoQuestions = {}
const lectures = plan.map((p) => {
  const feeds = p.media
    ? [
        feed(p.media, 'screen', 'Hall screen'),
        feed(p.media, 'camera', 'Hall camera'),
        feed(p.media, 'sound', 'Hall microphone'),
      ]
    : null
  const duration = feeds ? Math.max(...feeds.map((f) => f.duration)) : 0
  const started = `2026-${p.week <= 1 ? '10-28' : `11-${String(4 + 7 * (p.week - 2)).padStart(2, '0')}`}T09:15:00.000Z`
  const questions: QuestionSet | undefined = p.ask && {
    format: 'thaw-questions',
    version: 4,
    title: p.title,
    policy: DEFAULT_POLICY,
    checkpoints: [
      question({ id: `q-${p.id}`, ...p.ask }),
      ...(p.also ? [longerQuestion(`q-${p.id}-why`, p.also)] : []),
    ],
  }
  if (questions) sets[p.id] = questions
  return {
    lecture: {
      id: p.id,
      courseId: p.course,
      week: p.week,
      title: p.title,
      description: p.description ?? '',
      ...(p.folder && { folder: p.folder }),
      createdAt: '2026-10-20T08:00:00.000Z',
    },
    ...(feeds && {
      take: { duration, startedAt: started, feeds },
      edit: (p.edit ?? ((e: EditDocument) => e))(newEdit(recorded(duration), 15)),
    }),
    ...(p.media && p.captions && { captions: p.captions(p.media) }),
    ...(p.media && p.captions && p.chapters && { chapters: chaptersOf(p.media, p.captions(p.media)) }),
    ...(p.link && { links: linksOf(p.id, p.link) }),
    ...(p.release && {
      release: {
        publicationId: `pub-${p.id}`,
        places: [
          {
            id: `place-${p.id}`,
            publicationId: `pub-${p.id}`,
            sets: [documentId(p.id, 'questions')],
            courseId: p.course,
            week: p.week,
            ...p.release,
            options: DEFAULT_OPTIONS,
          },
        ],
        publishedAt: started,
      },
    }),
  }
})

const term = parseAs(
  DemoTerm,
  {
    format: 'thaw-demo-term',
    version: 2,
    college: {
      ...{ name: 'Norrhaven Polar College', accent: '#1b4b57' },
      logo: `data:image/svg+xml;base64,${readFileSync(new URL('college.svg', import.meta.url)).toString('base64')}`,
    },
    terms: [
      {
        ...{ id: 'term', name: 'Demo term', firstDay: '2026-10-26', lastDay: '2026-12-20', timeZone: 'Etc/UTC' },
        holidays: [{ name: 'Midwinter Day', from: '2026-12-14', to: '2026-12-14' }],
      },
    ],
    courses: [
      {
        ...{ id: 'ps201', termId: 'term', code: 'PS 201', title: 'Glaciers and Meltwater' },
        meetings: [{ weekday: 1, from: '10:15', to: '12:00' }],
      },
      {
        ...{ id: 'ps115', termId: 'term', code: 'PS 115', title: 'Reading Snow' },
        meetings: [{ weekday: 3, from: '14:15', to: '16:00' }],
      },
      {
        ...{ id: 'ps340', termId: 'term', code: 'PS 340', title: 'Ice Cores and Past Climate' },
        meetings: [{ weekday: 4, from: '08:15', to: '10:00' }],
      },
    ],
    lectures,
  },
  'demo term',
)
writeFileSync(new URL('../public/demo/term.json', import.meta.url), JSON.stringify(term) + '\n')
writeFileSync(new URL('publications/questions.json', import.meta.url), JSON.stringify(sets, null, 1) + '\n')
console.log(`${lectures.length} lectures, written for the week of ${DEMO_ANCHOR}`)
