import { proxy, releaseProxy, wrap, type Remote } from 'comlink'
import { bisector } from 'd3-array'
import { useDebounceFn } from '@vueuse/core'
import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { db, type StillRow } from '~/db/database'
import { readFile } from '~/db/files'
import { shownFeeds, type PlacedTake, type Recording } from '#core/record/recording'
import type { Thumbnail } from '#media/analyse/picture'
import type { Engine } from '#media/worker'

/** Finer pictures kept at most; they are made again when they are wanted again. */
const KEPT = 400
/** How far a picture may be from its instant, in steps: half of one, and a little as frames are where they are. */
const NEAR = 0.6
const byTime = bisector((s: { at: number }) => s.at)

/**
 * The small pictures of a recording, in its own time: those along the whole of each take, which its analysis made, and finer
 * ones for what is looked at. A worker for these is started when the first is wanted and ends with the scope.
 */
export function useStills(recording: () => Recording | null) {
  const takes = () => recording()?.takes ?? []
  const ids = () => takes().map((t) => t.id).join(' ')
  const feedIds = () => { const now = recording(); return now ? shownFeeds(now).map((f) => f.fileId).join(' ') : '' }
  const rows = useLive(async () => {
    const found = await Promise.all(takes().map(async (take) => (await db.stills.where('takeId').equals(take.id).sortBy('at')).map((still) => ({ ...still, at: still.at + take.from }))))
    return found.flat()
  }, [ids])
  const of = (kind: StillRow['kind']) => rows.value?.filter((r) => r.kind === kind) ?? []
  const finer = shallowRef<Thumbnail[]>([])
  const thumbnails = computed(() => [...of('thumbnail'), ...finer.value].sort((a, b) => a.at - b.at))

  const urls = new Map<Blob, string>()
  const urlOf = (image: Blob): string => {
    const url = urls.get(image) ?? URL.createObjectURL(image)
    urls.set(image, url)
    return url
  }
  const dropUrls = () => {
    urls.forEach((url) => URL.revokeObjectURL(url))
    urls.clear()
  }
  watch(rows, dropUrls, { flush: 'sync' })

  let worker: Worker | null = null
  let engine: Remote<Engine> | null = null
  let busy = false
  /** Instants that pictures were made for, s, the latest last: where frames are further apart, no finer ones come of trying again. */
  let tried: number[] = []
  const end = () => {
    engine?.[releaseProxy]()
    worker?.terminate()
    worker = engine = null
    finer.value = []
    tried = []
  }
  watch(feedIds, end)
  onScopeDispose(() => {
    end()
    dropUrls()
  })

  const nearest = (at: number): Thumbnail | undefined => thumbnails.value[byTime.center(thumbnails.value, at)]

  let wanted: readonly number[] | null = null
  /** Makes pictures at about these instants (s, in order) where neighbours would share one. */
  async function make(times: readonly number[]): Promise<void> {
    const now = recording()
    // Where something is taken out neighbours are further apart; the others tell how close pictures must be.
    const step = Math.min(...times.slice(1).map((t, i) => t - (times[i] as number)).filter((s) => s > 0))
    if (!now || step === Infinity) return
    const near = (at: number, t: number) => Math.abs(at - t) <= NEAR * step
    if (times.every((t) => near(nearest(t)?.at ?? Infinity, t) || tried.some((at) => near(at, t)))) return
    tried = [...tried, ...times].slice(-KEPT)
    for (const take of now.takes) await makeIn(now, take, times.filter((t) => t >= take.from && t < take.to), step)
  }
  async function makeIn(now: Recording, take: PlacedTake, times: readonly number[], step: number): Promise<void> {
    const feeds = shownFeeds(now, take.id)
    const feed = feeds.find((f) => f.kind === 'screen') ?? feeds.find((f) => f.kind === 'camera')
    const file = feed && times.length > 0 && (await readFile(feed.fileId))
    if (!file) return
    worker ??= new Worker(new URL('../../media/worker.ts', import.meta.url), { type: 'module' })
    engine ??= wrap<Engine>(worker)
    const made: Thumbnail[] = []
    const keep = proxy((one: Thumbnail) => void made.push({ at: one.at + feed.offset, image: one.image }))
    // Each run of neighbours by itself: nothing is made for what is taken out between two of them.
    const starts = times.flatMap((t, i) => (i === 0 || t - (times[i - 1] as number) > 1.5 * step ? [i] : []))
    for (const [i, start] of starts.entries()) {
      const run = times.slice(start, starts[i + 1])
      const [from, to] = [run[0] as number, run.at(-1) as number]
      await engine.thumbnails(file, Math.max(0, from - feed.offset), Math.min(feed.duration, to + step - feed.offset), run.length, keep)
    }
    finer.value = [...finer.value, ...made].slice(-KEPT)
  }
  /** One after the other; of what is wanted while some are being made, only the latest counts. */
  const refine = useDebounceFn(async (times: readonly number[]) => {
    wanted = times
    if (busy) return
    busy = true
    try {
      for (let next: readonly number[] | null = wanted; next; next = wanted) {
        wanted = null
        await make(next)
      }
    } finally {
      busy = false
    }
  }, 300)

  return { slides: computed(() => of('slide')), nearest, urlOf, refine }
}
