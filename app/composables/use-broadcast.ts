import { errorMessage } from '#core/text/error-message'
import { computed, ref, shallowRef, watch } from 'vue'
import { db } from '~/db/database'
import { livePort } from '~/services/broadcast'
import type { LiveFeed, LiveOut } from '~/services/recording'
import { createSender, type Sender, type SendingState } from '~/services/sending'
import { startBroadcast, type Broadcaster } from '#media/broadcast'
import { checkBroadcast } from '#media/broadcast-check'

const nothing: SendingState = { sent: 0, waiting: 0, watching: 0, trouble: '' }

/** The recording of a lecture that students may watch while it runs, once it has been announced. */
export function useBroadcast(lectureId: string) {
  const announced = useLive(async () => (await db.broadcasts.get(lectureId)) ?? null)
  const state = shallowRef<SendingState>(nothing)
  /** Label of the picture that students see; empty for the usual one: the screen, or the camera where there is none. */
  const shown = ref('')
  let sender: Sender | null = null
  let broadcaster: Broadcaster | null = null
  let feeds: readonly LiveFeed[] = []
  /** What is wrong with what goes out itself, whether or not it arrives; until a further run plays. */
  const unplayable = ref('')
  const check = checkBroadcast((says) => (unplayable.value = says))

  const shownFeed = () =>
    (
      feeds.find((f) => f.label === shown.value) ??
      feeds.find((f) => f.kind === 'screen') ??
      feeds.find((f) => f.kind === 'camera')
    )?.id ?? ''
  watch(shown, () => broadcaster?.show(shownFeed()))

  const out: LiveOut = {
    begin(all) {
      const place = announced.value?.place
      if (!place) return null
      if (!sender) state.value = nothing
      feeds = all
      broadcaster = startBroadcast(all, shownFeed(), {
        onRun: (init, type) => {
          unplayable.value = ''
          check.run(init, type)
          sender?.run(init)
        },
        onSegment: (bytes, duration) => {
          check.segment(bytes)
          sender?.segment(bytes, duration)
        },
        onTrouble: (error) => {
          state.value = {
            ...state.value,
            trouble: `What is recorded could not be sent out: ${errorMessage(error)}`,
          }
        },
      })
      sender ??= createSender(
        livePort(place.id),
        (now) => {
          state.value = now
        },
        () => broadcaster?.restart(),
      )
      return broadcaster
    },
    paused: () => sender?.transition('paused'),
    ended() {
      check.end()
      sender?.transition('ended')
      sender = broadcaster = null
    },
  }
  const told = computed(() => (unplayable.value ? { ...state.value, trouble: unplayable.value } : state.value))
  return { announced, state: told, shown, out }
}
