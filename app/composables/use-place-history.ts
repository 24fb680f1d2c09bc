/** What came of a lecture at one of its places, followed as it is pulled and as answers are marked. */
import dayjs from 'dayjs'
import { computed, onBeforeUnmount, onMounted, ref, type ComputedRef, type Ref, type ShallowRef } from 'vue'
import { personKey } from '#core/course/people'
import { History, type PlaceHistory } from '#core/results/history'
import { computeWatching, type LectureWatching, type WatchedPlace } from '#core/results/watching'
import { editTimeMap } from '#core/edit/edit'
import type { TimeMap } from '#core/time/time-map'
import { errorMessage } from '#core/text/error-message'
import { db, type PlaceRow } from '~/db/database'
import { documentOf } from '~/services/fingerprint'
import { loadParts, type LectureParts } from '~/services/cards'
import { decide, placeHistory, pullResults, sendDecisions, watchedPlace, type NewDecision } from '~/services/results'
import { authorProblem } from '~/utils/author'
import { useLive } from './use-live'

/** How often what students send back is asked for while somebody looks, ms. */
const EVERY = 15_000

export interface FollowedPlace {
  data: ShallowRef<PlaceData | null | undefined>
  /** Undefined until it is read, and where there is no place. */
  history: ComputedRef<History | undefined>
  /** Of the present edit. */
  map: ComputedRef<TimeMap | null>
  /** What was watched, in the time of the present edit; null where nothing is known of it. */
  watching: ComputedRef<LectureWatching | null>
  /** The place that is looked at; empty for the first. */
  placeId: Ref<string>
  busy: Ref<boolean>
  /** Why what was decided is not sent yet; empty when it is. */
  unsent: Ref<string>
  pull(): Promise<void>
  decide(decisions: readonly NewDecision[]): Promise<boolean>
}
interface PlaceData {
  parts: LectureParts
  row: PlaceRow | null
  place: PlaceHistory | null
  watched: WatchedPlace | null
  choices: { id: string; says: string }[]
}

export function usePlaceHistory(lectureId: string, wanted = ''): FollowedPlace {
  const placeId = ref(wanted)
  const data = useLive(async (): Promise<PlaceData | null> => {
    const parts = await loadParts(lectureId)
    if (!parts) return null
    // Those that it was taken off stand last.
    const places = [...parts.places].sort((a, b) => Number(a.removed) - Number(b.removed))
    const row = places.find((p) => p.id === placeId.value) ?? places[0] ?? null
    const courses = new Map((await db.courses.toArray()).map((c) => [c.id, c.code]))
    const choices = places.map(({ id, place, removed }) => ({
      id,
      says: `${courses.get(place.courseId) ?? place.courseId}, week ${place.week}, from ${dayjs(place.from).format('D MMM YYYY')}${removed ? ' (taken off)' : ''}`,
    }))
    const [place, watched] = row ? await Promise.all([placeHistory(row), watchedPlace(row)]) : [null, null]
    return { parts, row, choices, place, watched }
  }, [placeId])
  const history = computed(() => {
    const { place, watched } = data.value ?? {}
    if (!place) return undefined
    // Whoever watched without being on the roster is of the class as well.
    const known = new Set(place.roster.map(personKey))
    const others = (watched?.sessions ?? []).flatMap((s) =>
      s.student && !known.has(personKey(s.student)) ? s.student : [],
    )
    return new History({ ...place, roster: [...place.roster, ...others] })
  })
  const map = computed(() => {
    const edit = data.value ? documentOf(data.value.parts, 'edit') : null
    return edit && editTimeMap(edit)
  })
  const watching = computed(() => {
    const watched = data.value?.watched
    return watched && watched.sessions.length > 0 && map.value ? computeWatching(watched, map.value) : null
  })

  const busy = ref(false)
  const unsent = ref('')
  const complain = (message: string) => ElMessage({ type: 'error', duration: 0, showClose: true, message })
  async function pull(): Promise<void> {
    const row = data.value?.row
    if (!row || !(await askForAuthor())) return
    busy.value = true
    try {
      const fresh = await pullResults(row)
      unsent.value = await sendDecisions(row.id)
      ElMessage.success(
        fresh === 0 ? 'Nothing new since last time.' : fresh === 1 ? 'One new response.' : `${fresh} new responses.`,
      )
    } catch (error) {
      complain(errorMessage(error))
    } finally {
      busy.value = false
    }
  }

  /** What comes by itself, for whoever is signed in; what fails is tried again the next time. */
  let next: ReturnType<typeof setTimeout> | undefined
  let left = false
  async function follow(): Promise<void> {
    const row = data.value?.row
    if (row && !busy.value && document.visibilityState === 'visible' && !(await authorProblem())) {
      try {
        await pullResults(row)
        unsent.value = await sendDecisions(row.id)
      } catch (error) {
        unsent.value = errorMessage(error)
      }
    }
    if (!left) next = setTimeout(() => void follow(), row ? EVERY : 500)
  }
  onMounted(follow)
  onBeforeUnmount(() => {
    left = true
    clearTimeout(next)
  })

  return {
    ...{ data, history, map, watching, placeId, busy, unsent, pull },
    async decide(decisions) {
      const row = data.value?.row
      if (!row) return false
      try {
        unsent.value = await decide(row, decisions)
        return true
      } catch (error) {
        complain(errorMessage(error))
        return false
      }
    },
  }
}
