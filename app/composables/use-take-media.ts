import { computed, onScopeDispose, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { readFile } from '~/db/files'
import { useDesk } from '~/stores/desk'
import { nextKept } from '#core/time/time-map'
import { recorded, type RecordedTime } from '#core/time/units'
import type { Feed } from '#core/schema/lecture'

/** How far a feed's element may be off the clock before it is set right, s. */
const DRIFT = 0.12

/**
 * Plays a take's feeds together, in recorded time, skipping what is removed. The sound is the clock, as a jump in
 * it is heard; where there is none, the first picture is.
 */
export function useTakeMedia() {
  const desk = useDesk()
  const urls = shallowRef<{ feed: Feed; url: string }[]>([])
  const elements = new Map<string, HTMLMediaElement>()
  const speed = ref(1)
  let frame = 0
  let lastSync = 0

  const dropUrls = () => {
    urls.value.forEach(({ url }) => URL.revokeObjectURL(url))
    urls.value = []
  }

  const running = () => urls.value.flatMap(({ feed }) => {
    const element = elements.get(feed.kind)
    return element ? [{ feed, element }] : []
  })
  const clock = () => running().find((r) => r.feed.kind === 'sound') ?? running()[0]
  const place = ({ feed, element }: { feed: Feed; element: HTMLMediaElement }, t: number) => { element.currentTime = Math.max(0, t - feed.offset) }

  function seek(t: RecordedTime): void {
    const at = recorded(Math.min(desk.map.duration, Math.max(0, t)))
    desk.time = at
    running().forEach((r) => place(r, at))
  }

  function follow(now: number): void {
    const master = clock()
    if (!master || !desk.playing) return
    const t = recorded(master.element.currentTime + master.feed.offset)
    const next = nextKept(desk.map, t)
    if (next === null || t >= desk.map.duration - 0.02 || master.element.ended) {
      pause()
      if (next === null) desk.time = t
      return
    }
    if (next > t) seek(next)
    else {
      desk.time = t
      if (now - lastSync > 400) {
        lastSync = now
        for (const r of running()) {
          if (r === master) continue
          const due = t - r.feed.offset
          if (due >= 0 && due < r.feed.duration && Math.abs(r.element.currentTime - due) > DRIFT) r.element.currentTime = due
          if (r.element.paused && due >= 0 && due < r.feed.duration) void r.element.play()
        }
      }
    }
    frame = requestAnimationFrame(follow)
  }

  async function play(): Promise<void> {
    const begin = desk.time >= desk.map.duration - 0.05 ? recorded(0) : desk.time
    const from = nextKept(desk.map, begin) ?? nextKept(desk.map, recorded(0))
    if (from === null || running().length === 0) return
    seek(from)
    desk.playing = true
    for (const { element } of running()) element.playbackRate = speed.value
    const started = await Promise.allSettled(running().map((r) => r.element.play()))
    // A pause that comes before playing has begun is no error; anything else is.
    const failed = started.find((s) => s.status === 'rejected' && !(s.reason instanceof DOMException && s.reason.name === 'AbortError'))
    if (failed?.status === 'rejected') {
      pause()
      throw failed.reason
    }
    cancelAnimationFrame(frame)
    frame = requestAnimationFrame(follow)
  }

  function pause(): void {
    cancelAnimationFrame(frame)
    desk.playing = false
    running().forEach((r) => r.element.pause())
  }

  watch(() => desk.take?.state === 'whole' && desk.take.id, async (takeId) => {
    pause()
    dropUrls()
    if (!takeId || !desk.take) return
    const byFile = new Map<string, string>()
    const found: { feed: Feed; url: string }[] = []
    for (const feed of desk.take.feeds) {
      let url = byFile.get(feed.fileId)
      if (!url) {
        const blob = await readFile(feed.fileId)
        if (!blob) continue
        url = URL.createObjectURL(blob)
        byFile.set(feed.fileId, url)
      }
      found.push({ feed, url })
    }
    urls.value = found
  }, { immediate: true })

  watch(speed, (s) => running().forEach((r) => { r.element.playbackRate = s }))
  onScopeDispose(() => {
    pause()
    dropUrls()
  })

  return {
    /** Whether the feeds have been read and can be played. */
    ready: computed(() => urls.value.length > 0),
    urls, speed, seek, play, pause,
    toggle: () => (desk.playing ? pause() : void play()),
    /** Registers the media element of a feed; null when it goes. */
    attach(kind: string, element: HTMLMediaElement | null) {
      if (element) {
        elements.set(kind, element)
        const entry = urls.value.find((u) => u.feed.kind === kind)
        if (entry) place({ feed: entry.feed, element }, desk.time)
      } else elements.delete(kind)
    },
  }
}

export type TakeMedia = ReturnType<typeof useTakeMedia>
export const takeMediaKey = Symbol('take media') as InjectionKey<TakeMedia>
