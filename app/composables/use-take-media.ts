import { computed, onScopeDispose, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { readFile } from '~/db/files'
import { useDesk } from '~/stores/desk'
import { shownFeeds, takeAt, type PlacedFeed } from '#core/record/recording'
import { nextKept } from '#core/time/time-map'
import { recorded, type RecordedTime } from '#core/time/units'

/** How far a feed's element may be off the clock before it is set right, s. */
const DRIFT = 0.12
/** Elements tell their time in whole microseconds, and so may stand just before what they were placed at, s. */
const ROUNDING = 0.001

/** A feed that can be played. Several feeds may stand in one file, which then has one address. */
interface Playable {
  key: string
  feed: PlacedFeed
  url: string
}

/**
 * Plays a lecture's recording in recorded time: the feeds of one take together, take after take, skipping what is
 * removed. The sound is the clock, as a jump in it is heard; where there is none, the first picture is.
 */
export function useTakeMedia() {
  const desk = useDesk()
  const urls = shallowRef<Playable[]>([])
  const elements = new Map<string, { playable: Playable; element: HTMLMediaElement }>()
  const speed = ref(1)
  let frame = 0
  let lastSync = 0

  const take = computed(() => desk.recording && takeAt(desk.recording, desk.time))
  const takeId = computed(() => take.value?.id)
  const shown = computed(() => urls.value.filter((u) => u.feed.takeId === takeId.value))
  /** Those of the take that is seen and of the next one, which is then ready when its turn comes. */
  const near = computed(() => {
    const takes = desk.recording?.takes ?? []
    const here = takes.findIndex((t) => t.id === takeId.value)
    return urls.value.filter((u) => takes.slice(here, here + 2).some((t) => t.id === u.feed.takeId))
  })

  const dropUrls = () => {
    new Set(urls.value.map((u) => u.url)).forEach((url) => URL.revokeObjectURL(url))
    urls.value = []
  }

  type Running = { feed: PlacedFeed; element: HTMLMediaElement }
  const running = (): Running[] =>
    shown.value.flatMap(({ key, feed }) => {
      const element = elements.get(key)?.element
      return element ? [{ feed, element }] : []
    })
  /** Of a device that went away there is nothing more to follow; another feed then leads. */
  const leads = ({ feed, element }: Running) => !element.ended && desk.time < feed.offset + feed.duration - 0.05
  const clock = () => running().find((r) => r.feed.kind === 'sound' && leads(r)) ?? running().find(leads)
  const place = ({ feed, element }: Running, t: number) => {
    element.currentTime = Math.max(0, t - feed.offset)
  }

  async function start({ element }: Running): Promise<void> {
    element.playbackRate = speed.value
    try {
      await element.play()
    } catch (error) {
      // A pause that comes before playing has begun is no error; anything else is.
      if (error instanceof DOMException && error.name === 'AbortError') return
      pause()
      throw error
    }
  }

  function seek(t: RecordedTime): void {
    const at = recorded(Math.min(desk.map.duration, Math.max(0, t)))
    const before = takeId.value
    desk.time = at
    running().forEach((r) => place(r, at))
    if (takeId.value === before) return
    for (const { playable, element } of elements.values()) if (playable.feed.takeId !== takeId.value) element.pause()
    if (desk.playing) for (const r of running()) void start(r)
  }

  function follow(now: number): void {
    if (!desk.playing) return
    frame = requestAnimationFrame(follow)
    // Just after a jump to another take its elements may not be there yet; each begins when it comes.
    if (running().length === 0 || !take.value) return
    const { from, to } = take.value
    const master = clock()
    // While it jumps it is not yet where it is heard; another jump would begin it anew.
    if (master?.element.seeking) return
    const t = master ? recorded(Math.min(to, Math.max(from, master.element.currentTime + master.feed.offset))) : to
    const over = t >= to - 0.02
    const next = nextKept(desk.map, over ? to : t)
    if (next === null || (over && to >= desk.map.duration)) {
      pause()
      desk.time = over ? to : t
      return
    }
    if (over || next - t > ROUNDING) {
      seek(next)
      return
    }
    desk.time = next
    if (now - lastSync <= 400) return
    lastSync = now
    for (const r of running()) {
      const due = t - r.feed.offset
      if (due < 0 || due >= r.feed.duration) continue
      if (r !== master && Math.abs(r.element.currentTime - due) > DRIFT) r.element.currentTime = due
      // The browser may pause an element by itself, also the one that leads.
      if (r.element.paused) void start(r)
    }
  }

  async function play(): Promise<void> {
    const begin = desk.time >= desk.map.duration - 0.05 ? recorded(0) : desk.time
    const from = nextKept(desk.map, begin) ?? nextKept(desk.map, recorded(0))
    if (from === null || urls.value.length === 0) return
    seek(from)
    desk.playing = true
    cancelAnimationFrame(frame)
    frame = requestAnimationFrame(follow)
    await Promise.all(running().map(start))
  }

  function pause(): void {
    cancelAnimationFrame(frame)
    desk.playing = false
    for (const { element } of elements.values()) element.pause()
  }

  // What is read stays while further takes come, so that playing goes on through it.
  watch(
    () =>
      desk.recording
        ? shownFeeds(desk.recording)
            .map((f) => f.fileId)
            .join(' ')
        : '',
    async (_ids, _before, onCleanup) => {
      let outdated = false
      onCleanup(() => {
        outdated = true
      })
      const { recording } = desk
      const feeds = recording ? shownFeeds(recording) : []
      const before = new Map(urls.value.map((u) => [u.feed.fileId, u.url]))
      if (!feeds.some((f) => before.has(f.fileId))) pause()
      const read = new Map<string, string>()
      for (const { fileId } of feeds) {
        if (before.has(fileId) || read.has(fileId)) continue
        const blob = await readFile(fileId)
        if (blob) read.set(fileId, URL.createObjectURL(blob))
      }
      if (outdated) {
        read.forEach((url) => URL.revokeObjectURL(url))
        return
      }
      urls.value = feeds.flatMap((feed) => {
        const url = before.get(feed.fileId) ?? read.get(feed.fileId)
        return url ? [{ key: `${url} ${feed.kind}`, feed, url }] : []
      })
      const still = new Set(urls.value.map((u) => u.url))
      before.forEach((url) => {
        if (!still.has(url)) URL.revokeObjectURL(url)
      })
    },
    { immediate: true },
  )

  watch(speed, (s) =>
    running().forEach((r) => {
      r.element.playbackRate = s
    }),
  )
  onScopeDispose(() => {
    pause()
    dropUrls()
  })

  return {
    /** Whether the feeds have been read and can be played. */
    ready: computed(() => urls.value.length > 0),
    /** The take that the playhead stands in. */
    takeId,
    shown,
    near,
    speed,
    seek,
    play,
    pause,
    toggle: () => (desk.playing ? pause() : void play()),
    /** Registers the media element of a feed; null when it goes. */
    attach(playable: Playable, element: HTMLMediaElement | null) {
      if (!element) {
        elements.delete(playable.key)
        return
      }
      if (elements.get(playable.key)?.element === element) return
      elements.set(playable.key, { playable, element })
      const own = { feed: playable.feed, element }
      place(own, desk.time)
      if (desk.playing && playable.feed.takeId === takeId.value) void start(own)
    },
  }
}

export type TakeMedia = ReturnType<typeof useTakeMedia>
export const takeMediaKey = Symbol('take media') as InjectionKey<TakeMedia>
