/**
 * Renders an edit: its script is laid out, picture and sound are made as packets side by side – copied where
 * nothing was changed – and written in a stream as MP4, WebM, sound alone, or segments for HLS.
 */
import {
  CmafOutputFormat,
  EncodedAudioPacketSource,
  EncodedVideoPacketSource,
  HlsOutputFormat,
  Mp4OutputFormat,
  NullTarget,
  Output,
  PathedTarget,
  TextSubtitleSource,
  WebMOutputFormat,
  type AudioCodec,
  type OutputFormat,
  type Target,
  type VideoCodec,
} from 'mediabunny'
import type { EditDocument } from '#core/schema/edit'
import {
  assetsOf,
  InvalidScript,
  spanAt,
  writeScript,
  type Part,
  type Script,
  type ScriptAssets,
  type ScriptFeed,
} from '#core/render/script'
import { burntCaptions, burntLinks, withBurnt, type Burnt } from '#core/render/burnt'
import type { PublishedLink } from '#core/schema/publication'
import { subtitlePlaylist, withSubtitles } from '#core/packages/hls'
import { readVtt } from '#core/captions/vtt'
import { standingOf } from '#core/captions/position'
import { inTurn, withText, type Mp4Captions } from '#core/packages/mp4-text'
import { frontBoxes, moveChunks } from '#core/packages/mp4-index'
import { openStore, type Store, type StoreAddress } from '../store'
import { movingRate, openComposer, type Composer } from './compose'
import { openFeed, type OpenFeed, type OpenPicture, type OpenSound } from './feed'
import { picturePackets, planPicture, type PicturePlan } from './picture'
import { planSoundTrack, type SoundPlan } from './sound'

export type RenderFormat = 'mp4' | 'webm' | 'm4a' | 'hls'

export interface RenderFeed extends Pick<ScriptFeed, 'id' | 'kind' | 'offset'> {
  blob: Blob
}

export interface RenderJob {
  edit: EditDocument
  feeds: readonly RenderFeed[]
  /** The pictures and videos that the edit puts in, by the name it uses. */
  assets: readonly { name: string; blob: Blob }[]
  format: RenderFormat
  /** One of its pictures alone; all of them in one frame when null. */
  part?: Part | null
  /** Captions of the result, in result time; they go into the file where it has a place for them. */
  captions: { language: string; label: string; vtt: string } | null
  /** Captions (WebVTT) and link cards that are burnt into the picture, in result time. */
  burnt?: { vtt: string | null; links: readonly PublishedLink[] }
  /** Chapters of the result; they go into MP4 and M4A files. */
  chapters?: readonly RenderChapter[]
}

/** `at` s of the result. */
export interface RenderChapter {
  at: number
  title: string
}

export interface Rendered {
  /** Names of the files written; the first is the one to open. */
  files: string[]
  /** Length of the result, s. */
  duration: number
  /** px; 0 for sound alone. */
  width: number
  height: number
  /** Seconds of picture that were encoded anew; the rest was copied. */
  encoded: number
  /** What a person should know about how it was made; empty when all went as meant. */
  note: string
}

/** Seconds of an HLS segment, and between key frames that are encoded for one. */
const SEGMENT = 6

interface Form {
  file: string
  video: readonly VideoCodec[]
  audio: readonly AudioCodec[]
  keyFrameInterval: number
  /** Where captions stand inside: in a track that the writer makes, in one that is added to the index, or nowhere. */
  captions: 'written' | 'added' | 'none'
}

/** What each form holds, the preferred codec for encoding first. */
const forms: Record<RenderFormat, Form> = {
  mp4: {
    file: 'media.mp4',
    video: ['avc', 'vp9', 'av1'],
    audio: ['aac', 'opus'],
    keyFrameInterval: 5,
    captions: 'added',
  },
  webm: { file: 'media.webm', video: ['vp9', 'vp8', 'av1'], audio: ['opus'], keyFrameInterval: 5, captions: 'written' },
  m4a: { file: 'media.m4a', video: [], audio: ['aac', 'opus'], keyFrameInterval: 5, captions: 'none' },
  hls: {
    file: 'index.m3u8',
    video: ['avc', 'vp9', 'av1'],
    audio: ['aac', 'opus'],
    keyFrameInterval: SEGMENT,
    captions: 'none',
  },
}

const outputFormat = (format: RenderFormat, onMain: (text: string) => void): OutputFormat => {
  switch (format) {
    case 'mp4':
    case 'm4a':
      return new Mp4OutputFormat({ fastStart: 'reserve' })
    case 'webm':
      return new WebMOutputFormat()
    case 'hls':
      return new HlsOutputFormat({ segmentFormat: new CmafOutputFormat(), targetDuration: SEGMENT, onMaster: onMain })
  }
}

/** Progress is told no more often than this, ms: each telling crosses to another thread. */
const TELL_EVERY = 200

/** How far sound is written ahead of the picture, s: players read both together. */
const AHEAD = 0.5

/**
 * Renders into a store.
 * @param onProgress told 0…1
 * @throws {InvalidScript} when the edit cannot be rendered with what there is; and whatever a decoder, an encoder or
 * the storage says. Nothing is left behind.
 */
export async function render(job: RenderJob, to: StoreAddress, onProgress: (share: number) => void): Promise<Rendered> {
  const store = openStore(to)
  let opened: OpenScript | null = null
  try {
    opened = await openScript(job)
    const { pictureOf, soundOf, composer } = opened
    const script = withBurnt(opened.script, burntOf(job.burnt))
    const form = forms[job.format]
    const seen = script.frame && form.video.length > 0
    if (!seen && !script.sounds) throw new InvalidScript('There is no sound to make a file of.')
    const picture = seen
      ? await planPicture(script, pictureOf, { codecs: form.video, keyFrameInterval: form.keyFrameInterval })
      : null
    const sound = script.sounds ? await planSoundTrack(script, soundOf, form.audio, scratchFor(to)) : null
    const added = form.captions === 'added' && job.captions ? mp4Captions(job.captions, script.frame) : null
    const titles = (job.chapters ?? []).map(titleOf)
    const files = [form.file]
    let main = ''
    const output = new Output({
      format: outputFormat(job.format, (text) => void (main = text)),
      target: new PathedTarget<Target>(form.file, (request) => {
        // The main playlist is written last, with a line about the captions.
        if (request.isRoot && job.format === 'hls') return new NullTarget()
        if (!request.isRoot) files.push(request.path)
        return store.open(request.path)
      }),
    })
    const video = picture && new EncodedVideoPacketSource(picture.codec)
    if (video && picture)
      output.addVideoTrack(video, {
        rotation: picture.rotation,
        maximumPacketCount: packetBound(picture, script.length) + textBound(added, titles),
      })
    const audio = sound && new EncodedAudioPacketSource(sound.codec)
    if (audio && sound)
      output.addAudioTrack(audio, { maximumPacketCount: sound.packetCount + textBound(added, titles) })
    const captions = job.captions && form.captions === 'written' ? new TextSubtitleSource('webvtt') : null
    if (captions && job.captions)
      output.addSubtitleTrack(captions, {
        languageCode: iso639(job.captions.language),
        name: job.captions.label,
        maximumPacketCount: 2 * job.captions.vtt.split('-->').length + 8,
      })
    await output.start()
    if (captions && job.captions) {
      await captions.add(job.captions.vtt)
      captions.close()
    }

    // Measuring the loudness beforehand takes about as long as everything else; taking noise out, most of the time.
    let passed = 0
    const { loudness, noise } = script.treatment
    const beforehand = loudness === null ? 0 : noise === 'reduce' ? 0.9 : 0.5
    let told = 0
    const report = (share: number) => {
      if (performance.now() - told < TELL_EVERY) return
      told = performance.now()
      onProgress(beforehand * passed + (1 - beforehand) * share)
    }
    const sounding =
      sound && audio
        ? sound.packets((share) => {
            passed = share
            report(0)
          })
        : null
    let soundAt = -Infinity
    const pumpSound = async (upTo: number) => {
      while (sounding && audio && soundAt < upTo) {
        const next = await sounding.next()
        if (next.done) {
          soundAt = Infinity
          audio.close()
          return
        }
        const { packet, meta } = next.value
        await audio.add(packet, meta)
        soundAt = packet.timestamp + packet.duration
        if (!picture) report(Math.min(1, soundAt / script.length))
      }
    }
    if (video && picture) {
      for await (const { packet, meta } of picturePackets(
        picture,
        { codecs: form.video, keyFrameInterval: form.keyFrameInterval },
        composer,
      )) {
        await pumpSound(packet.timestamp + AHEAD)
        await video.add(packet, meta)
        report(Math.min(1, packet.timestamp / script.length))
      }
      video.close()
    }
    await pumpSound(Infinity)
    await output.finalize()
    if (job.format === 'mp4' || job.format === 'm4a')
      await tightenIndex(store, form.file, { chapters: titles, captions: added }, script.length)
    if (job.format === 'hls') files.push(...(await writeMain(store, form.file, main, job.captions, script.length)))
    await store.finish()
    onProgress(1)
    return {
      files,
      duration: script.length,
      width: script.frame?.width ?? 0,
      height: script.frame?.height ?? 0,
      encoded: picture?.encoded ?? 0,
      note: [picture?.note, sound?.note, soundNote(job.format, sound)].filter(Boolean).join(' '),
    }
  } catch (error) {
    await store.discard()
    throw error
  } finally {
    opened?.close()
  }
}

/** Under which name scratch files are made beside an output. */
const scratchFor = (to: StoreAddress): string => (to.kind === 'scratch' ? to.name : `http-${crypto.randomUUID()}`)

/** A script with the files that it plays, open. */
interface OpenScript {
  script: Script
  pictureOf(index: number): OpenPicture
  soundOf(source: { kind: 'feed'; feed: number } | { kind: 'asset'; file: string }): OpenSound
  /** Runs are encoded side by side, so that each composes in planes of its own. */
  composer(colour: VideoColorSpaceInit | null): Composer
  close(): void
}

/** @throws {InvalidScript} */
async function openScript(job: Pick<RenderJob, 'edit' | 'feeds' | 'assets' | 'part'>): Promise<OpenScript> {
  const feeds: OpenFeed[] = []
  const assets = new Map<string, OpenFeed>()
  const close = () => {
    for (const { input } of new Set([...feeds, ...assets.values()])) input.dispose()
  }
  try {
    // Picture and sound of one file share what is read of it.
    const opened = new Map<Blob, OpenFeed>()
    for (const { blob } of job.feeds) {
      const feed = opened.get(blob) ?? (await openFeed(blob))
      opened.set(blob, feed)
      feeds.push(feed)
    }
    const blobs = new Map(job.assets.map((a) => [a.name, a.blob]))
    const known = await measureAssets(job.edit, blobs, assets)
    const script = writeScript(job.edit, await scriptFeeds(job.feeds, feeds), known, job.part)
    const pictureOf = (index: number): OpenPicture =>
      must(feeds[index]?.picture, 'A picture feed has no picture in its file.')
    return {
      script,
      pictureOf,
      soundOf: (source) =>
        must(
          source.kind === 'feed' ? feeds[source.feed]?.sound : assets.get(source.file)?.sound,
          'The sound feed has no sound in its file.',
        ),
      composer: (colour) =>
        openComposer({
          colour,
          frame: must(script.frame, 'There is no picture.'),
          feed: pictureOf,
          asset: (name) => must(assets.get(name)?.picture, `“${name}” has no picture in it.`),
          blob: (name) => must(blobs.get(name), `“${name}” is not there.`),
        }),
      close,
    }
  } catch (error) {
    close()
    throw error
  }
}

/**
 * What is seen of a result at an instant, s, as a PNG of its frame's size.
 * @throws {InvalidScript}
 */
export async function still(job: Pick<RenderJob, 'edit' | 'feeds' | 'assets'>, at: number): Promise<Blob> {
  const { script, pictureOf, composer, close } = await openScript(job)
  try {
    const frame = must(script.frame, 'There is no picture.')
    const span = must(spanAt(script.picture, at), 'There is no picture.')
    const into = Math.min(Math.max(0, at - span.at), span.length)
    const rate = movingRate(span.layers.flatMap((l) => (l.kind === 'feed' ? [pictureOf(l.feed)] : []))) ?? 30
    // The composer takes what is seen in the middle of a frame.
    const layers = span.layers.map((l) =>
      l.kind === 'feed' || l.kind === 'video'
        ? { ...l, from: l.from + into - 0.5 / rate + 1e-4 }
        : l.kind === 'strokes'
          ? { ...l, from: l.from + into }
          : l,
    )
    const light = span.light[0] + (span.light[1] - span.light[0]) * (span.length > 0 ? into / span.length : 0)
    const g = new OffscreenCanvas(frame.width, frame.height).getContext('2d')
    if (!g) throw new Error('This browser cannot draw in a worker, which rendering needs.')
    for await (const sample of composer(null).frames({ ...span, at: 0, length: 1e-3, layers, light: [light, light] })) {
      sample.draw(g, 0, 0, frame.width, frame.height)
      sample.close()
    }
    return await g.canvas.convertToBlob({ type: 'image/png' })
  } finally {
    close()
  }
}

function must<T>(value: T | null | undefined, message: string): T {
  if (value === null || value === undefined) throw new InvalidScript(message)
  return value
}

const soundNote = (format: RenderFormat, sound: SoundPlan | null): string =>
  format !== 'webm' && sound?.codec === 'opus' ? 'The sound is Opus, which some older players do not play.' : ''

/** Room for the index at the start of an MP4: frames may come a little closer together than their usual rate. */
const packetBound = (picture: PicturePlan, length: number): number => Math.ceil(length * picture.frameRate * 1.5) + 256

/** The same as packets, of which each has room for 16 bytes at least, for text that is added to the index. */
function textBound(captions: Mp4Captions | null, titles: readonly { title: Uint8Array }[]): number {
  // Besides its text, a sample takes some 30 bytes of tables, and what of it is set otherwise 12 each.
  const cueBytes = ({ lines }: Mp4Captions['cues'][number]) =>
    90 + lines.reduce((sum, line) => sum + line.reduce((n, { text }) => n + 3 * text.length + 12, 1), 0)
  const said = captions?.cues.reduce((sum, cue) => sum + cueBytes(cue), 1000) ?? 0
  const named = titles.reduce((sum, { title }) => sum + 60 + title.length, titles.length > 0 ? 1000 : 0)
  return Math.ceil((said + named) / 16)
}

function burntOf(wanted: RenderJob['burnt']): Burnt[] {
  let count = 0
  const cues = wanted?.vtt ? readVtt(wanted.vtt, () => String(count++)).cues : []
  return [...burntCaptions(cues), ...burntLinks(wanted?.links ?? [])]
}

/** Captions as an MP4 has them inside. @param frame of the picture, px */
function mp4Captions(
  { language, label, vtt }: NonNullable<RenderJob['captions']>,
  frame: Script['frame'],
): Mp4Captions {
  let count = 0
  const { cues } = readVtt(vtt, () => String(count++))
  const placed = cues.map((cue) => ({ ...cue, top: standingOf(cue).line === 'top' }))
  const { width, height } = frame ?? { width: 640, height: 360 }
  return { cues: inTurn(placed), language: iso639(language), label, width, height }
}

const titleOf = ({ at, title }: RenderChapter) => ({
  at,
  title: new TextEncoder().encode(title.replace(/[\r\n]+/g, ' ').trim() || 'Chapter'),
})

async function scriptFeeds(described: readonly RenderFeed[], opened: readonly OpenFeed[]): Promise<ScriptFeed[]> {
  const out: ScriptFeed[] = []
  for (const [i, { id, kind, offset }] of described.entries()) {
    const { picture, sound } = opened[i] ?? { picture: null, sound: null }
    const track = kind === 'sound' ? sound?.track : picture?.track
    const duration = await must(
      track,
      kind === 'sound' ? 'The sound feed has no sound in its file.' : 'A picture feed has no picture in its file.',
    ).computeDuration()
    out.push({
      id,
      kind,
      offset,
      duration,
      width: kind === 'sound' ? 0 : (picture?.width ?? 0),
      height: kind === 'sound' ? 0 : (picture?.height ?? 0),
    })
  }
  return out
}

/** Sizes of what the edit puts in; videos stay open in `opened`. */
async function measureAssets(
  edit: EditDocument,
  blobs: ReadonlyMap<string, Blob>,
  opened: Map<string, OpenFeed>,
): Promise<ScriptAssets> {
  const known = new Map<string, { width: number; height: number; duration: number; sound: boolean }>()
  for (const name of assetsOf(edit)) {
    const blob = blobs.get(name)
    if (!blob) continue
    if (blob.type.startsWith('image/')) {
      const image = await createImageBitmap(blob).catch(() => null)
      if (!image) throw new InvalidScript(`The picture “${name}” cannot be read. PNG, JPEG, WebP, AVIF and GIF can be.`)
      known.set(name, { width: image.width, height: image.height, duration: 0, sound: false })
      image.close()
      continue
    }
    const feed = await openFeed(blob)
    opened.set(name, feed)
    if (!feed.picture && !feed.sound)
      throw new InvalidScript(`“${name}” is neither a picture nor a video that can be read here.`)
    known.set(name, {
      width: feed.picture?.width ?? 0,
      height: feed.picture?.height ?? 0,
      duration: (await feed.picture?.track.computeDuration()) ?? 0,
      sound: feed.sound !== null,
    })
  }
  return known
}

/**
 * Takes the room out that was kept for the index and not needed: who watches would wait for it. Chapters and captions go into
 * that room first.
 */
async function tightenIndex(
  store: Store,
  file: string,
  text: Parameters<typeof withText>[1],
  length: number,
): Promise<void> {
  const front = await frontBoxes((at, size) => store.read(file, at, size))
  if (!front) return
  const moov = new Uint8Array(await store.read(file, front.moov.at, front.moov.size))
  const isAdded = text.chapters.length > 0 || text.captions !== null
  const named = isAdded ? withText(moov, text, length, front.moov.at) : moov
  const spare = front.free - (named.length - moov.length)
  if (spare < 0) throw new Error('There is no room for so much text in a film so short.')
  if (spare === 0 && !isAdded) return
  moveChunks(moov, spare)
  const written = isAdded ? withText(moov, text, length, front.moov.at) : moov
  await store.write(file, front.moov.at, written)
  await store.moveUp(file, front.media, spare)
}

/** Writes the main playlist, and captions beside the segments. @returns the names of what was added */
async function writeMain(
  store: Store,
  file: string,
  main: string,
  captions: RenderJob['captions'],
  length: number,
): Promise<string[]> {
  if (!captions) {
    await store.put(file, main)
    return []
  }
  await store.put('captions.vtt', captions.vtt)
  await store.put('captions.m3u8', subtitlePlaylist('captions.vtt', length))
  await store.put(file, withSubtitles(main, captions, 'captions.m3u8'))
  return ['captions.m3u8', 'captions.vtt']
}

/** Tracks name their language by ISO 639-2/T. */
const iso639 = (language: string): string =>
  ({
    en: 'eng',
    de: 'deu',
    fr: 'fra',
    es: 'spa',
    nb: 'nob',
    sv: 'swe',
    fi: 'fin',
    da: 'dan',
    it: 'ita',
    nl: 'nld',
    pl: 'pol',
    pt: 'por',
  })[language.slice(0, 2)] ?? 'und'
