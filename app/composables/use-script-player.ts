import { computed, onScopeDispose, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { db, type AssetRow } from '~/db/database'
import { readFile } from '~/db/files'
import { elementLevels } from '~/services/element-levels'
import { assetsFor } from '~/services/assets'
import { useDesk } from '~/stores/desk'
import { feedsInSlots } from '#core/edit/edit'
import { shownFeeds, takeAt } from '#core/record/recording'
import {
  InvalidScript,
  soundAt,
  spanAt,
  writeScript,
  type Script,
  type ScriptAssets,
  type SoundSource,
  type SoundSpan,
  type Span,
} from '#core/render/script'
import type { EditDocument } from '#core/schema/edit'
import { toResult } from '#core/time/time-map'
import { recorded, result, type RecordedTime, type ResultTime } from '#core/time/units'

/** How far an element may be off the clock before it is set right, s. */
const DRIFT = 0.12
/** Elements tell their time in whole microseconds, and end a little early: so near, s, it is the same instant. */
const NEAR = 0.02
/** How long before it is seen what is put in gets ready, s. */
const AHEAD = 20

/** A file that is played: a feed of the recording, or a video that the edit puts in. */
export interface Playable {
  key: string
  /** Index among the script's feeds; null for a video that is put in. */
  feed: number | null
  /** The name of a video that is put in; empty for a feed. */
  asset: string
  isSound: boolean
  label: string
  url: string
}

const feedKey = (index: number) => `feed ${index}`
const assetKey = (file: string) => `asset ${file}`

/** What an element plays now: its own time at an instant of the clock. */
interface Part {
  key: string
  from: number
  /** Where the span begins and ends, s. */
  at: number
  end: number
}

/** What moves in a span of the picture. */
const movingParts = ({ at, length, layers }: Span): Part[] =>
  layers.flatMap((l) => {
    const key = l.kind === 'feed' ? feedKey(l.feed) : l.kind === 'video' ? assetKey(l.file) : null
    return key !== null && (l.kind === 'feed' || l.kind === 'video')
      ? [{ key, from: l.from, at, end: at + length }]
      : []
  })

const keyOf = (source: SoundSource) => (source.kind === 'feed' ? feedKey(source.feed) : assetKey(source.file))
/** What is heard in a span, what leads first. */
const soundPart = ({ at, length, source, beneath }: SoundSpan): Part[] =>
  [source, beneath?.source].flatMap((s) => (s ? [{ key: keyOf(s), from: s.from, at, end: at + length }] : []))

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
  function write(edit: EditDocument | null): { script: Script | null; says: string } {
    // Until the rows are read, nothing is missing.
    if (!edit || feeds.value.length === 0 || !assetRows.value) return { script: null, says: '' }
    try {
      return { script: writeScript(edit, feeds.value, assets.value), says: '' }
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

  const parts = (): Part[] => {
    const all = [...(soundSpan.value ? soundPart(soundSpan.value) : []), ...(span.value ? movingParts(span.value) : [])]
    return all.filter((p, i) => all.findIndex((q) => q.key === p.key) === i)
  }
  const due = ({ from, at }: Part, time: number) => Math.max(0, from + (time - at))

  function place(part: Part, time: number, beyond: number): void {
    const element = elements.get(part.key)
    if (element && Math.abs(element.currentTime - due(part, time)) > beyond) element.currentTime = due(part, time)
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

  /** Has what belongs here play, or stand at its place, and all else stand still. */
  function arrange(beyond: number): void {
    const here = parts()
    const heard = soundSpan.value
    const gains = new Map<string, number>()
    const all = treated.gain.value
    if (heard?.source) gains.set(keyOf(heard.source), all * (heard.gain ?? 1))
    if (heard?.beneath) gains.set(keyOf(heard.beneath.source), all * heard.beneath.gain)
    for (const [key, element] of elements) {
      const part = here.find((p) => p.key === key)
      const isAsset = key.startsWith('asset ')
      if (isAsset) element.muted = !gains.has(key)
      levels.set(element, gains.get(key) ?? 1)
      if (!part) {
        element.pause()
        continue
      }
      place(part, clock.value, beyond)
      const isOver = element.ended || due(part, clock.value) >= element.duration
      if (desk.playing && element.paused && !isOver) void start(element)
    }
  }

  /** Goes to an instant of the result, s. */
  function seek(to: ResultTime): void {
    desk.peek = null
    desk.time = result(Math.min(desk.map.length, Math.max(0, to)))
    base = null
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
    desk.time = where.at
    desk.peek = recorded(Math.max(where.removed.from, Math.min(where.removed.to, to)))
    arrange(0.001)
  }

  /** Goes on or back by so many seconds. */
  const step = (by: number) =>
    desk.peek === null ? seek(result(desk.time + by)) : seekRecorded(recorded(desk.peek + by))

  /** Where the clock stands now, s; null while what leads is not there yet. */
  function readClock(now: number): number | null {
    const sound = soundSpan.value
    const moving = span.value ? movingParts(span.value) : []
    const leaders = sound && sound.source ? [...soundPart(sound), ...moving] : moving
    for (const part of leaders) {
      const element = elements.get(part.key)
      // Just after a jump to another take its elements may not be there yet; each begins when it comes.
      if (!element) {
        if (playables.value.some((p) => p.key === part.key)) return null
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
      arrange(isOver ? NEAR : DRIFT)
    } else if (now - lastSync > 400) {
      lastSync = now
      arrange(DRIFT)
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
      const isSound = feed.kind === 'sound'
      const instead = isSound ? treated.urlOf(feed) : backdrops.urlOf(feed)
      const url = instead || urls.value.get(sourceOf(feed.fileId))
      return url ? [{ key: feedKey(index), feed: index, asset: '', isSound, label: feed.label, url }] : []
    }),
    ...(assetRows.value ?? []).flatMap((row) => {
      const url = urls.value.get(sourceOf(row.hash))
      const isVideo = row.kind === 'video'
      return url && isVideo
        ? [{ key: assetKey(row.hash), feed: null, asset: row.hash, isSound: false, label: row.name, url }]
        : []
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
  /** Videos that are seen now or soon. */
  const assetsNear = computed(() => {
    const here = Math.floor(clock.value / 5) * 5
    return (script.value?.picture ?? [])
      .filter((s) => s.at < here + 5 + AHEAD && s.at + s.length > here)
      .flatMap((s) => s.layers.flatMap((l) => (l.kind === 'video' ? [l.file] : [])))
      .join(' ')
  })
  /** What is ready to be played here; the next take and video too, which then are when their turn comes. */
  const near = computed(() =>
    playables.value.filter((p) =>
      p.feed === null
        ? assetsNear.value.includes(p.asset)
        : takesNear.value.includes(feeds.value[p.feed]?.takeId ?? ''),
    ),
  )

  watch(speed, (s) => {
    base = null
    elements.forEach((element) => {
      element.playbackRate = s
    })
  })
  // What an edit changes is seen at once, wherever the playhead comes to stand by that.
  watch([script, () => desk.peek, treated.gain], () => arrange(NEAR), { flush: 'post' })
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
    /** Where a picture or video that is put in can be read, by its name. */
    urlOf: (asset: string) => urls.value.get(sourceOf(asset)) ?? '',
    /** How long such a video is, s. */
    lengthOf: (asset: string) => assets.value.get(asset)?.duration ?? 0,
    speed,
    treated,
    backdrops,
    seek,
    seekRecorded,
    step,
    play,
    pause,
    toggle: () => (desk.playing ? pause() : play()),
    /** Registers the element of something that is played; null when it goes. */
    attach(key: string, element: HTMLMediaElement | null) {
      if (!element) {
        elements.delete(key)
        return
      }
      if (elements.get(key) === element) return
      elements.set(key, element)
      arrange(0.001)
    },
  }
}

export type ScriptPlayer = ReturnType<typeof useScriptPlayer>
export const scriptPlayerKey = Symbol('script player') as InjectionKey<ScriptPlayer>
