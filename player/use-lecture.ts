/** The player's state: what is watched, which answers stand, what is on its way. No drawing here. */
import { computed, ref, shallowRef } from 'vue'
import { readVtt } from '#core/captions/vtt'
import type { WatchView } from '#core/packages/watch-view'
import type { Cue } from '#core/schema/captions'
import type { AttemptEvent } from '#core/schema/attempt'
import type { Gateway } from './gateway'
import { createOutbox, type Outbox, type OutboxState } from './outbox'

export type ShownCheckpoint = WatchView['checkpoints'][number]

export function useLecture(gateway: Gateway, storage: Storage) {
  const view = shallowRef<WatchView | null>(null)
  const cues = shallowRef<Cue[]>([])
  const trouble = ref('')
  const outboxState = ref<OutboxState>({ waiting: 0, trouble: '' })
  /** Selections and answers of this device that the server has not confirmed, by question. */
  const local = ref(new Map<string, AttemptEvent>())
  let outbox: Outbox | null = null

  const placeKey = () => `${gateway.placeId}:${view.value?.student.id ?? ''}`

  const refreshLocal = () => {
    local.value = new Map(outbox?.waiting().map((e) => [e.questionId, e]))
  }

  async function load(): Promise<void> {
    trouble.value = ''
    try {
      const loaded = await gateway.load()
      view.value = loaded
      document.title = loaded.title
      outbox = createOutbox({
        storage,
        key: `thaw-answers:${placeKey()}`,
        send: (events) => gateway.send(events),
        onAccepted: (next) => { view.value = next },
        onState: (state) => {
          outboxState.value = state
          refreshLocal()
        },
        later: (ms, run) => void setTimeout(run, ms),
      })
      window.addEventListener('online', () => void outbox?.flush())
      refreshLocal()
      void outbox.flush()
      if (loaded.captions) {
        let n = 0
        cues.value = readVtt(await gateway.captions(loaded.captions), () => `c${++n}`).cues
      }
    } catch (error) {
      trouble.value = error instanceof TypeError ? 'There is no connection to the lecture. Check the network and try again.' : error instanceof Error ? error.message : String(error)
    }
  }

  function record(kind: AttemptEvent['kind'], questionId: string, choiceId: string): void {
    void outbox?.add({ id: crypto.randomUUID(), kind, questionId, choiceId, at: new Date().toISOString() })
  }

  /** Whether an answer is final, here or on the server. */
  const isAnswered = (c: ShownCheckpoint): boolean => c.report.kind === 'handed-in' || local.value.get(c.question.id)?.kind === 'answer'

  /** What is chosen for a question, final or not. */
  const chosen = (c: ShownCheckpoint): string => local.value.get(c.question.id)?.choiceId ?? (c.report.kind === 'unanswered' ? '' : c.report.choiceId)

  const position = {
    read: () => Number(storage.getItem(`thaw-position:${placeKey()}`) ?? 0) || 0,
    write: (seconds: number) => storage.setItem(`thaw-position:${placeKey()}`, seconds.toFixed(1)),
  }

  const unanswered = computed(() => view.value?.checkpoints.filter((c) => !isAnswered(c)) ?? [])

  return {
    view, cues, trouble, outboxState, unanswered, position,
    load, isAnswered, chosen,
    select: (questionId: string, choiceId: string) => record('select', questionId, choiceId),
    answer: (questionId: string, choiceId: string) => record('answer', questionId, choiceId),
  }
}
