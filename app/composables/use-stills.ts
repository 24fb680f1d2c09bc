import { proxy, type Remote } from 'comlink'
import { bisector } from 'd3-array'
import { useDebounceFn } from '@vueuse/core'
import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { db, type StillRow } from '~/db/database'
import { readFile } from '~/db/files'
import { missingPictures } from '#core/picture/strip'
import { pictureOf, shownFeeds, type PlacedTake, type Recording } from '#core/record/recording'
import type { Film, Thumbnail } from '#media/analyse/picture'
import { startMediaWorker, type MediaWorker } from '~/services/media-worker'

/** Finer pictures kept at most; they are made again when they are wanted again. */
const KEPT = 400
/** How long the worker stays when nothing is wanted of it, ms. */
const REST = 5_000
const byTime = bisector((s: { at: number }) => s.at)

/**
 * The small pictures of a recording, in its own time: those along the whole of each take, which its analysis made, and
 * finer ones for what is looked at. A worker for these is started when the first is wanted and ends with the scope.
 * @param feed whose pictures; those that stand for a take when left out, and of others there are only finer ones
 */
export function useStills(recording: () => Recording | null, feed?: () => string) {
  const takes = () => recording()?.takes ?? []
  const feeds = computed(() => {
    const now = recording()
    if (!now) return []
    const id = feed?.()
    return id === undefined ? shownFeeds(now) : now.feeds.filter((f) => f.id === id)
  })
  /** Of these the analysis made pictures along the whole. */
  const isMain = computed(() => {
    const id = feed?.()
    const now = recording()
    return id === undefined || (now !== null && pictureOf(shownFeeds(now))?.id === id)
  })
  const rows = useLive(async () => {
    const found = await Promise.all(
      takes().map(async (take) =>
        (await db.stills.where('takeId').equals(take.id).sortBy('at')).map((still) => ({
          ...still,
          at: still.at + take.from,
        })),
      ),
    )
    return found.flat()
  }, [
    () =>
      takes()
        .map((t) => t.id)
        .join(' '),
  ])
  const of = (kind: StillRow['kind']) => rows.value?.filter((r) => r.kind === kind) ?? []
  const finer = shallowRef<Thumbnail[]>([])
  const thumbnails = computed(() =>
    [...(isMain.value ? of('thumbnail') : []), ...finer.value].sort((a, b) => a.at - b.at),
  )

  const urls = new Map<Blob, string>()
  const urlOf = (image: Blob): string => {
    const url = urls.get(image) ?? URL.createObjectURL(image)
    urls.set(image, url)
    return url
  }
  /** Lets go of pictures that are shown no more. */
  const dropUrlsOf = (pictures: readonly Thumbnail[]) =>
    pictures.forEach(({ image }) => {
      const url = urls.get(image)
      if (url) URL.revokeObjectURL(url)
      urls.delete(image)
    })
  const dropUrls = () => {
    urls.forEach((url) => URL.revokeObjectURL(url))
    urls.clear()
  }
  watch(rows, dropUrls, { flush: 'sync' })

  interface Wanted {
    times: readonly number[]
    step: number
  }
  let latest: Wanted | null = null
  let wanted: Wanted | null = null
  let busy = false
  /**
   * Instants that pictures were made for, s, the latest last: where frames are further apart, no finer ones come of
   * trying again.
   */
  let tried: number[] = []
  let worker: MediaWorker | null = null
  /** What the worker has open, by the id of the file. */
  const films = new Map<string, Promise<Remote<Film>>>()
  /** Ends a worker that has had nothing to do for a while: a decoder and what it read take a hundred megabytes. */
  let resting: ReturnType<typeof setTimeout> | undefined
  const endWorker = () => {
    clearTimeout(resting)
    worker?.end()
    worker = null
    films.clear()
    letGo()
  }
  /** Lets go of what a worker that is ended will never answer. */
  let letGo = () => undefined as void
  const end = () => {
    endWorker()
    dropUrlsOf(finer.value)
    finer.value = []
    tried = []
  }
  onScopeDispose(() => {
    end()
    dropUrls()
  })

  const nearest = (at: number): Thumbnail | undefined => thumbnails.value[byTime.center(thumbnails.value, at)]

  async function make({ times, step }: Wanted): Promise<void> {
    const missing = missingPictures(times, step, [...thumbnails.value.map((s) => s.at), ...tried])
    tried = [...tried, ...missing].slice(-KEPT)
    for (const take of takes())
      await makeIn(
        take,
        missing.filter((t) => t >= take.from && t < take.to),
        step,
      )
  }
  async function makeIn(take: PlacedTake, times: readonly number[], step: number): Promise<void> {
    const feed = times.length > 0 && pictureOf(feeds.value.filter((f) => f.takeId === take.id))
    const file = feed && (await readFile(feed.fileId))
    if (!file) return
    worker ??= startMediaWorker()
    const asked = worker
    const film = films.get(feed.fileId) ?? asked.engine.openFilm(file)
    films.set(feed.fileId, film)
    const made: Thumbnail[] = []
    const ended = new Promise<void>((resolve) => (letGo = resolve))
    await Promise.race([
      ended,
      film.then((opened) =>
        opened.thumbnails(
          times.map((t) => t - feed.offset),
          step / 2,
          proxy((one: Thumbnail) => void made.push({ at: one.at + feed.offset, image: one.image })),
        ),
      ),
    ]).catch((error: unknown) => {
      // A file that was used where it is may have gone; once it is copied it is opened anew.
      if (films.get(feed.fileId) === film) films.delete(feed.fileId)
      throw error
    })
    if (worker !== asked) return
    const all = [...finer.value, ...made]
    finer.value = all.slice(-KEPT)
    dropUrlsOf(all.slice(0, -KEPT))
  }
  /**
   * Makes pictures for these instants (s, in order), `step` s apart where nothing is taken out between them. One after
   * the other; of what is wanted while some are being made, only the latest counts.
   */
  const refine = useDebounceFn(async (times: readonly number[], step: number) => {
    latest = wanted = { times, step }
    if (busy) return
    busy = true
    clearTimeout(resting)
    try {
      for (let next: Wanted | null = wanted; next; next = wanted) {
        wanted = null
        await make(next)
      }
    } finally {
      busy = false
      resting = setTimeout(endWorker, REST)
    }
  }, 300)
  // A further take has come, or another feed of one is shown.
  watch(
    () => feeds.value.map((f) => f.fileId).join(' '),
    () => {
      end()
      if (latest) void refine(latest.times, latest.step)
    },
  )

  return { slides: computed(() => of('slide')), nearest, urlOf, refine }
}
