/** The player's state: what is watched, which answers stand, what is on its way. No drawing here. */
import { computed, ref, shallowRef } from 'vue'
import { readVtt } from '#core/captions/vtt'
import { personKey } from '#core/course/people'
import type { WatchView } from '#core/packages/watch-view'
import type { Cue } from '#core/schema/captions'
import { isAnswerEvent, type AnswerEvent, type AttemptEvent, type SetEvent } from '#core/schema/attempt'
import type { Answer } from '#core/schema/questions'
import { sayTrouble, viewAfter, type Gateway } from './gateway'
import { jumpLimit } from './limits'
import { createOutbox, type Outbox, type OutboxPorts, type OutboxState } from './outbox'

/** Where the language that a person reads is kept. */
const TRACK = 'thaw-captions-track'
const trackKey = ({ role, language }: WatchView['captions'][number]) => `${role}-${language}`

export type ShownCheckpoint = WatchView['checkpoints'][number]
export type ShownQuestion = ShownCheckpoint['questions'][number]
export type ShownSet = WatchView['sets'][number]
/** How an answer came about: for how long the question was shown (s), and whether its hint was. */
export type Manner = Pick<AnswerEvent, 'took' | 'hinted'>

/** @param loaded as the server gave it */
export function useLecture(gateway: Gateway, storage: OutboxPorts['storage'], loaded: WatchView) {
  const view = shallowRef(loaded)
  const cues = shallowRef<Cue[]>([])
  const trouble = ref('')
  const outboxState = ref<OutboxState>({ waiting: 0, trouble: '' })
  /** Selections and answers of this device that the server has not confirmed, by question. */
  const local = ref(new Map<string, AnswerEvent>())
  /** What was begun or handed in and is not confirmed, by the version of the set. */
  const ending = ref(new Map<string, SetEvent>())
  const placeKey = `${gateway.placeId}:${personKey(loaded.student)}`

  const outbox: Outbox = createOutbox({
    storage,
    key: `thaw-answers:${placeKey}`,
    // How far it was watched is known before what is answered there.
    send: async (events) => {
      await Promise.race([told?.(), new Promise((resolve) => setTimeout(resolve, 1500))])
      return gateway.send(events, view.value)
    },
    onAccepted: (sent) => {
      view.value = viewAfter(view.value, sent)
    },
    onState: (state) => {
      outboxState.value = state
      refreshLocal()
    },
    later: (ms, run) => void setTimeout(run, ms),
  })
  function refreshLocal(): void {
    const waiting = outbox.waiting()
    local.value = new Map(waiting.filter(isAnswerEvent).map((e) => [e.questionId, e]))
    ending.value = new Map(waiting.flatMap((e) => (isAnswerEvent(e) ? [] : [[e.version, e] as const])))
  }
  window.addEventListener('online', () => void outbox.flush())
  refreshLocal()
  void outbox.flush()

  /** The track that this person has chosen before, or the first. */
  const track = ref(
    Math.max(
      0,
      loaded.captions.findIndex((t) => trackKey(t) === storage.getItem(TRACK)),
    ),
  )
  async function loadCaptions(): Promise<void> {
    trouble.value = ''
    const wanted = loaded.captions[track.value]
    if (!wanted) return
    try {
      let n = 0
      const read = readVtt(await gateway.captions(wanted.url), () => `c${++n}`).cues
      // Another one may have been chosen meanwhile.
      if (loaded.captions[track.value] === wanted) cues.value = read
    } catch (error) {
      trouble.value = sayTrouble(error)
    }
  }
  function chooseTrack(index: number): void {
    const chosen = loaded.captions[index]
    if (!chosen) return
    track.value = index
    storage.setItem(TRACK, trackKey(chosen))
    void loadCaptions()
  }

  const setOf = (version: string): ShownSet | null => view.value.sets.find((s) => s.version === version) ?? null
  const attemptOf = (set: ShownSet | null): number => set?.attempts.at(-1)?.number ?? 1
  const add = (event: Omit<AnswerEvent, 'id' | 'at'> | Omit<SetEvent, 'id' | 'at'>) =>
    void outbox.add({ ...event, id: crypto.randomUUID(), at: new Date().toISOString() } as AttemptEvent)
  function record(kind: AnswerEvent['kind'], questionId: string, answer: Answer, manner: Manner = {}): void {
    const version = view.value.checkpoints.find((c) => c.questions.some((q) => q.open.id === questionId))?.set
    const attempt = attemptOf(setOf(version ?? ''))
    add({ kind, questionId, answer, attempt, ...manner, ...(version && { version }) })
  }

  /** Whether there is an answer, here or on the server. */
  const isAnswered = ({ open, report }: ShownQuestion): boolean =>
    report.kind === 'answered' || local.value.get(open.id)?.kind === 'answer'
  /** Whether it cannot be changed any more. */
  const isFinal = (question: ShownQuestion, version: string): boolean =>
    (question.report.kind === 'answered' && question.report.final) ||
    isEnding(version) ||
    (isAnswered(question) && setOf(version)?.policy.changes === false)
  /** Whether all that is asked at a checkpoint is answered. */
  const isDone = (c: ShownCheckpoint): boolean => c.questions.every(isAnswered)
  const isEnding = (version: string): boolean => ending.value.has(version)

  /** What is answered to a question, final or not. */
  const answerOf = ({ open, report }: ShownQuestion): Answer | null =>
    local.value.get(open.id)?.answer ?? (report.kind === 'unanswered' ? null : report.answer)

  const kept = (key: string) => Number(storage.getItem(key) ?? 0) || 0
  const [positionKey, reachedKey] = [`thaw-position:${placeKey}`, `thaw-reached:${placeKey}`]
  /** The farthest instant that was watched, here or on another device, s. */
  const reached = ref(Math.max(kept(reachedKey), loaded.resume?.reached ?? 0))
  const position = {
    /** Where watching stopped last, here or on another device, s. */
    read() {
      const [seconds = 0, when = 0] = (storage.getItem(positionKey) ?? '').split(' ').map(Number)
      const { resume } = loaded
      return (resume && Date.parse(resume.when) > when ? resume.at : seconds) || 0
    },
    write(seconds: number) {
      storage.setItem(positionKey, `${seconds.toFixed(1)} ${Date.now()}`)
      storage.setItem(reachedKey, reached.value.toFixed(1))
    },
  }

  /** What was watched is reported from when something is; sends what there is to say so far. */
  let told: (() => Promise<void>) | undefined
  async function follow(film: HTMLVideoElement): Promise<void> {
    const { report } = gateway
    if (!report) return
    const { followFilm } = await import('./watching')
    const { version, duration: length, sumsOnly } = loaded
    const watching = followFilm(film, {
      ...{ storage, sumsOnly, key: `thaw-watching:${placeKey}`, send: (s) => report(s) },
      sitting: { placeId: gateway.placeId, version, length },
    })
    told = () => watching.flush()
  }

  const unanswered = computed(() => view.value.checkpoints.filter((c) => !isDone(c)))

  return {
    view,
    cues,
    trouble,
    outboxState,
    unanswered,
    position,
    follow,
    track,
    loadCaptions,
    chooseTrack,
    reached,
    reach(seconds: number) {
      reached.value = Math.max(reached.value, seconds)
    },
    limit: computed(() => jumpLimit(view.value, reached.value, isDone)),
    setOf,
    isAnswered,
    isFinal,
    isDone,
    isEnding,
    answerOf,
    select: (questionId: string, answer: Answer) => record('select', questionId, answer),
    answer: (questionId: string, answer: Answer, manner: Manner) => record('answer', questionId, answer, manner),
    handIn: (set: ShownSet) => add({ kind: 'hand-in', version: set.version, attempt: attemptOf(set) }),
    begin: (set: ShownSet) => add({ kind: 'begin', version: set.version, attempt: attemptOf(set) + 1 }),
  }
}
