import { computed, onScopeDispose, readonly, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { db, type AssetRow } from '~/db/database'
import { readFile } from '~/db/files'
import { elementLevels } from '~/services/element-levels'
import { assetsFor } from '~/services/assets'
import { useDesk } from '~/stores/desk'
import { feedsInSlots } from '#core/edit/edit'
import { shownFeeds, takeAt } from '#core/record/recording'
import {
  assetSource,
  carried,
  carriers,
  comingParts,
  feedSource,
  jumpingFiles,
  movingParts,
  partsAt,
  soundParts,
  type Part,
} from '#core/render/playing'
import { InvalidScript, soundAt, spanAt, writeScript, type Script, type ScriptAssets } from '#core/render/script'
import { leadingSpeed, SEEK_BEYOND } from '#core/time/lead'
import type { EditDocument } from '#core/schema/edit'
import { toResult } from '#core/time/time-map'
import { recorded, result, type RecordedTime, type ResultTime } from '#core/time/units'

/** Elements tell their time in whole microseconds, and end a little early: so near, s, it is the same instant. */
const NEAR = 0.02
/** How long before it is seen what is put in gets ready, s. */
const AHEAD = 20
/** How long before a jump a second element of the file goes where it leads, and how long before it plays there, s. */
const READY = 4
const RUN_UP = 0.5

/** A file that is played: a feed of the recording, or a video that the edit puts in. */
export interface Playable {
  /** Of the element. */
  key: string
  /** What the script calls the file; two elements take turns with one that the script jumps in. */
  source: string
  /** Index among the script's feeds; null for a video that is put in. */
  feed: number | null
  /** The name of a video that is put in; empty for a feed. */
  asset: string
  isSound: boolean
  label: string
  url: string
}

/** The other of the two elements that take turns with a file. */
const otherOf = (key: string) => (key.endsWith(' b') ? key.slice(0, -2) : `${key} b`)
const sourceOfKey = (key: string) => (key.endsWith(' b') ? key.slice(0, -2) : key)

/**
 * Plays the script of a lecture, the same that is rendered: its elements are led through the spans in result time. What
 * is heard is the clock, as a jump in it is noticed; in silence a picture that moves is, and where nothing moves the
 * machine's own. A removed part can be looked at too (`seekRecorded`): that is the script of the edit without its cuts.
 */
export function useScriptPlayer() {
  const desk = useDesk()
  const elements = new Map<string, HTMLMediaElement>()
  const speed = ref(1)
  let frame = 0
  let lastSync = 0
  /** What the machine's clock said at an instant of the result, while it leads. */
  let base: { time: number; now: number } | null = null
  const levels = elementLevels()
  const treated = useTreatedSound()
  const backdrops = useBackdrops()

  const assetRows = useLive(() => assetsFor(desk.lecture?.id ?? ''), [() => desk.lecture?.id])
  const assets = computed<ScriptAssets>(() => new Map(assetRows.value?.map((a) => [a.hash, a])))
  const feeds = computed(() =>
    desk.recording ? shownFeeds(desk.recording, desk.edit ? feedsInSlots(desk.edit) : undefined) : [],
  )
  /** What is played of each feed; empty where it is not read yet. */
  const feedUrls = computed(() =>
    feeds.value.map((feed) => {
      const instead = feed.kind === 'sound' ? treated.urlOf(feed) : backdrops.urlOf(feed)
      return instead || (urls.value.get(sourceOf(feed.fileId)) ?? '')
    }),
  )
  /** Sounds that the element of a picture plays, as they are in its file. */
  const carrying = computed<ReadonlyMap<number, number>>((before) => {
    const now = carriers(feeds.value, feedUrls.value)
    return before && [...before].join() === [...now].join() ? before : now
  })
  function write(edit: EditDocument | null): { script: Script | null; says: string } {
    // Until the rows are read, nothing is missing.
    if (!edit || feeds.value.length === 0 || !assetRows.value) return { script: null, says: '' }
    try {
      return { script: carried(writeScript(edit, feeds.value, assets.value), carrying.value), says: '' }
    } catch (error) {
      if (error instanceof InvalidScript) return { script: null, says: error.message }
      throw error
    }
  }
  const written = computed(() => write(desk.edit))
  /** Of the recording as it is, in whose result time is recorded time. */
  const uncut = computed(() => write(desk.edit && { ...desk.edit, removed: [], inserts: [], fade: 0 }))
  const script = computed(() => (desk.peek === null ? written.value.script : uncut.value.script))
  /** The playhead in the script that is shown, s. */
  const clock = computed<number>(() => desk.peek ?? desk.time)
  const span = computed(() => script.value && (spanAt(script.value.picture, clock.value) ?? null))
  const soundSpan = computed(() => script.value && (soundAt(script.value.sound, clock.value) ?? null))

  const parts = (): Part[] => (script.value ? partsAt(script.value, clock.value) : [])
  const due = ({ from, at }: Part, time: number) => Math.max(0, from + (time - at))
  /** Which element plays a file, where it is the second. */
  const turns = shallowRef<ReadonlySet<string>>(new Set())
  const keyOf = (source: string) => (turns.value.has(source) ? otherOf(source) : source)
  /** What elements got ready for, and play already shortly before its turn. */
  const early = new Map<string, Part>()

  /** Has a browser let go at once of what an element holds of its file, and not only when it is collected. */
  function release(element: HTMLMediaElement): void {
    element.pause()
    levels.release(element)
    element.removeAttribute('src')
    element.load()
  }

  function place(element: HTMLMediaElement, time: number, beyond: number): void {
    if (Math.abs(element.currentTime - time) > beyond) element.currentTime = time
  }

  async function start(element: HTMLMediaElement): Promise<void> {
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

  /** Has a file go on with the element that got ready for a part, where one did. */
  function takeTurns(here: readonly Part[]): void {
    const next = new Set(turns.value)
    for (const part of here) {
      const key = keyOf(part.source)
      const ready = early.get(otherOf(key))
      if (!ready || Math.abs(due(ready, part.at) - part.from) > 1e-3 || part.at < ready.at - 1e-3) continue
      if (next.has(part.source)) next.delete(part.source)
      else next.add(part.source)
    }
    if ([...next].join() !== [...turns.value].join()) turns.value = next
    for (const part of here) early.delete(keyOf(part.source))
  }

  /** Has what belongs here play, or stand at its place, and all else stand still, but for what gets ready. */
  function arrange(beyond: number): void {
    const here = parts()
    takeTurns(here)
    const heard = soundSpan.value ? soundParts(soundSpan.value) : []
    for (const [key, element] of elements) {
      const source = sourceOfKey(key)
      const part = key === keyOf(source) ? here.find((p) => p.source === source) : undefined
      const sound = part && heard.find((p) => p.source === source)
      if (element instanceof HTMLVideoElement) element.muted = !sound
      levels.set(element, sound ? sound.gain * treated.gain.value : early.has(key) ? 0 : 1)
      if (!part) {
        if (!early.has(key)) element.pause()
        continue
      }
      place(element, due(part, clock.value), beyond)
      if (element.playbackRate !== speed.value) element.playbackRate = speed.value
      const isOver = element.ended || due(part, clock.value) >= element.duration
      if (desk.playing && element.paused && !isOver) void start(element)
    }
  }

  /** Leads what has drifted from the clock back to it, but for what leads. */
  function lead(): void {
    const [first, ...others] = parts()
    const leader = first && elements.get(keyOf(first.source))
    if (leader && leader.playbackRate !== speed.value) leader.playbackRate = speed.value
    for (const part of others) {
      const element = elements.get(keyOf(part.source))
      if (!element || element.paused || element.seeking) continue
      const apart = element.currentTime - due(part, clock.value)
      if (Math.abs(apart) > SEEK_BEYOND) element.currentTime = due(part, clock.value)
      else element.playbackRate = leadingSpeed(apart, speed.value)
    }
  }

  /** Brings elements to where the next jumps lead, and has them play there just before. */
  function getReady(): void {
    if (!script.value) return
    const here = new Set(parts().map((p) => p.source))
    for (const part of comingParts(script.value, clock.value, READY * speed.value)) {
      const key = here.has(part.source) ? otherOf(keyOf(part.source)) : keyOf(part.source)
      const element = elements.get(key)
      if (!element) continue
      const runUp = Math.min(RUN_UP * speed.value, part.from)
      const left = part.at - clock.value
      if (early.get(key)?.from !== part.from || early.get(key)?.at !== part.at) {
        early.set(key, part)
        element.pause()
        place(element, part.from - runUp, 0.001)
      }
      if (element.seeking || left > runUp) continue
      if (element.paused) {
        levels.set(element, 0)
        void start(element)
        // Some take a while to begin, others none: each is led to be there when its turn comes.
      } else element.playbackRate = leadingSpeed(element.currentTime - (part.from - left), speed.value)
    }
  }

  /** Goes to an instant of the result, s. */
  /** Goes up with every seek, also to where one is: a view then shows it. */
  const seeks = ref(0)
  function seek(to: ResultTime): void {
    seeks.value++
    desk.peek = null
    desk.time = result(Math.min(desk.map.length, Math.max(0, to)))
    base = null
    early.clear()
    arrange(0.001)
  }

  /** Goes to an instant of the recording; into what was taken out, to look at it there. */
  function seekRecorded(to: RecordedTime): void {
    const where = toResult(desk.map, recorded(Math.min(desk.map.duration, Math.max(0, to))))
    if (where.kind === 'kept') {
      seek(where.at)
      return
    }
    pause()
    seeks.value++
    desk.time = where.at
    desk.peek = recorded(Math.max(where.removed.from, Math.min(where.removed.to, to)))
    arrange(0.001)
  }

  /** Goes on or back by so many seconds. */
  const step = (by: number) =>
    desk.peek === null ? seek(result(desk.time + by)) : seekRecorded(recorded(desk.peek + by))

  /** Where the clock stands now, s; null while what leads is not there yet. */
  function readClock(now: number): number | null {
    const sound = soundSpan.value ? soundParts(soundSpan.value) : []
    const leaders = [...sound, ...(span.value ? movingParts(span.value) : [])]
    for (const part of leaders) {
      const element = elements.get(keyOf(part.source))
      // Just after a jump to another take its elements may not be there yet; each begins when it comes.
      if (!element) {
        if (near.value.some((p) => p.source === part.source)) return null
        continue
      }
      // Of a device that went away there is nothing more to follow; another one then leads.
      if (element.error || element.ended || due(part, clock.value) >= element.duration - NEAR) continue
      // While it jumps it is not yet where it is heard; another jump would begin it anew.
      if (element.seeking) return null
      base = null
      return part.at + (element.currentTime - part.from)
    }
    base ??= { time: clock.value, now }
    return base.time + ((now - base.now) / 1000) * speed.value
  }

  function follow(now: number): void {
    if (!desk.playing) return
    frame = requestAnimationFrame(follow)
    const read = readClock(now)
    if (read === null) return
    const whole = desk.map.length
    const end = soundSpan.value ? soundSpan.value.at + soundSpan.value.length : whole
    const before = span.value
    const isOver = read >= end - NEAR / 4
    desk.time = result(Math.min(whole, Math.max(desk.time, isOver ? end : read)))
    if (desk.time >= whole - 1e-6) {
      pause()
      return
    }
    if (isOver || span.value !== before) {
      base = null
      arrange(SEEK_BEYOND)
    } else if (now - lastSync > 40) {
      lastSync = now
      getReady()
      lead()
    }
  }

  function play(): void {
    if (playables.value.length === 0 || !written.value.script) return
    desk.playing = true
    seek(desk.time >= desk.map.length - 0.05 ? result(0) : desk.time)
    cancelAnimationFrame(frame)
    frame = requestAnimationFrame(follow)
  }

  function pause(): void {
    cancelAnimationFrame(frame)
    desk.playing = false
    base = null
    early.clear()
    for (const element of elements.values()) element.pause()
  }

  /** Addresses of the files that have been read, by the names of where they were read. */
  const urls = shallowRef(new Map<string, string>())
  const drop = (of: Map<string, string>) => of.forEach((url) => URL.revokeObjectURL(url))
  const wanted = computed(() => [
    ...new Set([...feeds.value.map((f) => f.fileId), ...(assetRows.value ?? []).map((a: AssetRow) => a.hash)]),
  ])
  const stored = useLive(() => db.files.where('id').anyOf(wanted.value).primaryKeys(), [() => wanted.value.join(' ')])
  /** Names what is to be read: a file that is used where it is until it is copied is read anew then. */
  const sourceOf = (id: string) => (stored.value?.includes(id) ? id : `${id} elsewhere`)
  // What is read stays while further takes come, so that playing goes on through it.
  watch(
    () => stored.value && wanted.value.map(sourceOf).join(','),
    async (sources, _before, onCleanup) => {
      if (sources === undefined) return
      let outdated = false
      onCleanup(() => {
        outdated = true
      })
      const before = urls.value
      const ids = [...wanted.value]
      const names = new Set(ids.map(sourceOf))
      if (!ids.some((id) => before.has(id) || before.has(`${id} elsewhere`))) pause()
      const read = new Map<string, string>()
      for (const id of ids) {
        const name = sourceOf(id)
        const blob = before.has(name) ? null : await readFile(id)
        if (blob) read.set(name, URL.createObjectURL(blob))
      }
      if (outdated) {
        drop(read)
        return
      }
      urls.value = new Map([...before, ...read].filter(([name]) => names.has(name)))
      drop(new Map([...before].filter(([name]) => !names.has(name))))
    },
    { immediate: true },
  )

  /** All that can be played. */
  const playables = computed<Playable[]>(() => [
    ...feeds.value.flatMap((feed, index) => {
      const url = feedUrls.value[index]
      if (!url || carrying.value.has(index)) return []
      const source = feedSource(index)
      return [{ key: source, source, feed: index, asset: '', isSound: feed.kind === 'sound', label: feed.label, url }]
    }),
    ...(assetRows.value ?? []).flatMap((row) => {
      const url = urls.value.get(sourceOf(row.hash))
      if (!url || row.kind !== 'video') return []
      const source = assetSource(row.hash)
      return [{ key: source, source, feed: null, asset: row.hash, isSound: false, label: row.name, url }]
    }),
  ])
  /** The take that the playhead stands in, and the one after it. */
  const takesNear = computed(() => {
    const takes = desk.recording?.takes ?? []
    const here = desk.recording && takeAt(desk.recording, desk.recordedTime)
    const at = takes.findIndex((t) => t.id === here?.id)
    return takes
      .slice(Math.max(0, at), at + 2)
      .map((t) => t.id)
      .join(' ')
  })
  /** What moves in the picture here; the last one of a take may stand still into the next. */
  const seen = computed(() => new Set(span.value ? movingParts(span.value).map((p) => p.source) : []))
  /** The playhead in steps of five seconds, s. */
  const here = computed(() => Math.floor(clock.value / 5) * 5)
  /** Videos that are seen now or soon. */
  const assetsNear = computed(() => {
    const from = here.value
    return (script.value?.picture ?? [])
      .filter((s) => s.at < from + 5 + AHEAD && s.at + s.length > from)
      .flatMap((s) => s.layers.flatMap((l) => (l.kind === 'video' ? [l.file] : [])))
      .join(' ')
  })
  /** Files in which the script jumps soon. */
  const jumping = computed<ReadonlySet<string>>(() =>
    script.value ? jumpingFiles(script.value, here.value, 5 + AHEAD, READY * speed.value) : new Set(),
  )
  /**
   * What is ready to be played here; the next take and video too, which then are when their turn comes, and a second
   * element of what the script soon jumps in. No more than that: each takes some hundred megabytes.
   */
  const near = computed(() =>
    playables.value
      .filter((p) =>
        p.feed === null
          ? assetsNear.value.includes(p.asset)
          : takesNear.value.includes(feeds.value[p.feed]?.takeId ?? '') || seen.value.has(p.source),
      )
      .flatMap((p) =>
        jumping.value.has(p.source) ? [p, { ...p, key: otherOf(p.key) }] : [{ ...p, key: keyOf(p.source) }],
      ),
  )

  watch(speed, (s) => {
    base = null
    elements.forEach((element) => {
      element.playbackRate = s
    })
  })
  // What an edit changes is seen at once, wherever the playhead comes to stand by that.
  watch(
    [script, () => desk.peek, treated.gain],
    () => {
      early.clear()
      arrange(NEAR)
    },
    { flush: 'post' },
  )
  onScopeDispose(() => {
    pause()
    levels.close()
    drop(urls.value)
  })

  return {
    /** Whether the feeds have been read and can be played. */
    ready: computed(() => playables.value.length > 0),
    /** What is shown; null while there is nothing. */
    script,
    /** Why it cannot be shown; empty when it can. */
    problem: computed(() => (desk.peek === null ? written.value.says : '')),
    /** What is seen at the playhead. */
    span,
    /** Pictures of the recording that are seen at the playhead, bottom-most first, and where they stand in the frame. */
    pictures: computed(() =>
      (span.value?.layers ?? []).flatMap((l) =>
        l.kind === 'feed' ? [{ feed: feeds.value[l.feed]?.id ?? '', box: l.box }] : [],
      ),
    ),
    /** How long it has been seen, s. */
    into: computed(() => clock.value - (span.value?.at ?? 0)),
    near,
    /** Whether an element plays its file now, and does not get ready for the next jump. */
    isOn: (p: Playable) => keyOf(p.source) === p.key,
    /** Where a picture or video that is put in can be read, by its name. */
    urlOf: (asset: string) => urls.value.get(sourceOf(asset)) ?? '',
    /** How long such a video is, s. */
    lengthOf: (asset: string) => assets.value.get(asset)?.duration ?? 0,
    speed,
    treated,
    backdrops,
    seeks: readonly(seeks),
    seek,
    seekRecorded,
    step,
    play,
    pause,
    toggle: () => (desk.playing ? pause() : play()),
    /** Registers the element of something that is played; null when it goes. */
    attach(key: string, element: HTMLMediaElement | null) {
      if (!element) {
        const gone = elements.get(key)
        elements.delete(key)
        early.delete(key)
        if (gone) release(gone)
        return
      }
      if (elements.get(key) === element) return
      elements.set(key, element)
      arrange(desk.playing ? SEEK_BEYOND : 0.001)
    },
  }
}

export type ScriptPlayer = ReturnType<typeof useScriptPlayer>
export const scriptPlayerKey = Symbol('script player') as InjectionKey<ScriptPlayer>
