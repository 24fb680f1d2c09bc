/** The player's state: what is watched, which answers stand, what is on its way. No drawing here. */
import { computed, ref, shallowRef } from 'vue'
import { readVtt } from '#core/captions/vtt'
import { personKey } from '#core/course/people'
import type { WatchView } from '#core/packages/watch-view'
import type { Cue } from '#core/schema/captions'
import type { AttemptEvent } from '#core/schema/attempt'
import type { Answer } from '#core/schema/questions'
import { sayTrouble, type Gateway } from './gateway'
import { createOutbox, type Outbox, type OutboxPorts, type OutboxState } from './outbox'

/** Where the language that a person reads is kept. */
const TRACK = 'thaw-captions-track'
const trackKey = ({ role, language }: WatchView['captions'][number]) => `${role}-${language}`

export type ShownCheckpoint = WatchView['checkpoints'][number]
export type ShownQuestion = ShownCheckpoint['questions'][number]

/** @param loaded as the server gave it */
export function useLecture(gateway: Gateway, storage: OutboxPorts['storage'], loaded: WatchView) {
  const view = shallowRef(loaded)
  const cues = shallowRef<Cue[]>([])
  const trouble = ref('')
  const outboxState = ref<OutboxState>({ waiting: 0, trouble: '' })
  /** Selections and answers of this device that the server has not confirmed, by question. */
  const local = ref(new Map<string, AttemptEvent>())
  const placeKey = `${gateway.placeId}:${personKey(loaded.student)}`

  const outbox: Outbox = createOutbox({
    storage,
    key: `thaw-answers:${placeKey}`,
    send: (events) => gateway.send(events, loaded),
    onAccepted: (sent) => {
      view.value = sent.view
    },
    onState: (state) => {
      outboxState.value = state
      refreshLocal()
    },
    later: (ms, run) => void setTimeout(run, ms),
  })
  function refreshLocal(): void {
    local.value = new Map(outbox.waiting().map((e) => [e.questionId, e]))
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

  function record(kind: AttemptEvent['kind'], questionId: string, answer: Answer): void {
    const set = loaded.checkpoints.find((c) => c.questions.some((q) => q.open.id === questionId))?.set
    void outbox.add({
      id: crypto.randomUUID(),
      kind,
      questionId,
      answer,
      at: new Date().toISOString(),
      ...(set && { version: set }),
    })
  }

  /** Whether an answer is final, here or on the server. */
  const isAnswered = ({ open, report }: ShownQuestion): boolean =>
    report.kind === 'handed-in' || report.kind === 'taken' || local.value.get(open.id)?.kind === 'answer'
  /** Whether all that is asked at a checkpoint is answered. */
  const isDone = (c: ShownCheckpoint): boolean => c.questions.every(isAnswered)

  /** What is answered to a question, final or not. */
  const answerOf = ({ open, report }: ShownQuestion): Answer | null =>
    local.value.get(open.id)?.answer ?? (report.kind === 'unanswered' ? null : report.answer)

  const position = {
    read: () => Number(storage.getItem(`thaw-position:${placeKey}`) ?? 0) || 0,
    write: (seconds: number) => storage.setItem(`thaw-position:${placeKey}`, seconds.toFixed(1)),
  }

  const unanswered = computed(() => view.value.checkpoints.filter((c) => !isDone(c)))

  return {
    view,
    cues,
    trouble,
    outboxState,
    unanswered,
    position,
    track,
    loadCaptions,
    chooseTrack,
    isAnswered,
    isDone,
    answerOf,
    select: (questionId: string, answer: Answer) => record('select', questionId, answer),
    answer: (questionId: string, answer: Answer) => record('answer', questionId, answer),
  }
}
