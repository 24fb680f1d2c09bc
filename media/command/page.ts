/**
 * The command line's page: the same workers as the application's, told what to do by `scripts/engine.mjs` through
 * `window.thaw`. Files are those chosen in the one input, by number.
 */
import { proxy, releaseProxy, wrap, type Remote } from 'comlink'
import { editTimeMap, newEdit } from '#core/edit/edit'
import { putFinish, readFinish, type FieldValues } from '#core/edit/finish'
import { readEdit } from '#core/edit/upgrade'
import { placeAfter } from '#core/record/recording'
import { chaptersVtt, projectChapters } from '#core/marks/chapters'
import { FinishParticulars } from '#core/schema/finish'
import { InvalidDocument, parseAs } from '#core/schema/validate'
import { usualSilence } from '#core/sound/silence'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import type { AnalyseOptions } from '../analyse/analyse'
import type { Part } from '#core/render/script'
import { BACKGROUND_FILE } from '../background/names'
import type { RenderChapter, RenderFormat, RenderJob } from '../render/render'
import type { Engine } from '../worker'

export interface RenderRequest {
  /** Numbers of files. `own` has both picture and sound; `camera` lies over it. */
  own: number
  camera: number | null
  sound: number | null
  /** Further takes, end to end after `own`. */
  further: number[]
  /** An edit document as it was read from a file, not yet checked; null leaves everything as it is. */
  edit: unknown
  assets: { name: string; file: number }[]
  format: RenderFormat
  /** One of its pictures alone. */
  part: Part | null
  captions: { language: string; label: string; vtt: string } | null
  chapters: RenderChapter[]
  burnt: RenderJob['burnt'] | null
  /** Where the server takes the output. */
  url: string
}

/** Working out what a finish does to a recording. */
export interface FinishRequest {
  file: number
  /** A finish and particulars as they were read from files, not yet checked. */
  finish: unknown
  particulars: unknown
}

declare global {
  interface Window {
    /** Told 0…1 by whatever runs; given by the command line. */
    thawProgress(job: string, share: number): void
    thaw: {
      probe(file: number): Promise<unknown>
      analyse(job: string, file: number, options: AnalyseOptions): Promise<unknown>
      render(job: string, request: RenderRequest): Promise<unknown>
      finish(job: string, request: FinishRequest): Promise<unknown>
    }
  }
}

function fileOf(index: number): File {
  const file = document.querySelector<HTMLInputElement>('#files')?.files?.[index]
  if (!file) throw new Error('That file was not given.')
  return file
}

/** Runs something in a worker of its own, and answers with its value or with what went wrong as a sentence. */
async function inWorker<T>(run: (engine: Remote<Engine>) => Promise<T>): Promise<{ value: T } | { error: string }> {
  const worker = new Worker(new URL('../worker.ts', import.meta.url), { type: 'module' })
  const engine = wrap<Engine>(worker)
  const crashed = new Promise<never>((_, reject) =>
    worker.addEventListener('error', (e) => reject(new Error(e.message || 'The media worker could not be started.'))),
  )
  try {
    return { value: await Promise.race([run(engine), crashed]) }
  } catch (error) {
    return { error: errorMessage(error) }
  } finally {
    engine[releaseProxy]()
    worker.terminate()
  }
}

/** The edit for a recording: its own length (s) and frame rate stand in for those it was written with. */
function editFor(document: unknown, duration: number, frameRate: number) {
  const fresh = newEdit(recorded(duration), frameRate)
  if (document === null || document === undefined) return fresh
  if (typeof document !== 'object') throw new InvalidDocument('edit document', ['it is not an object'])
  return readEdit({ ...document, duration: fresh.duration, frameRate: fresh.frameRate })
}

window.thaw = {
  probe: (file) => inWorker((engine) => engine.probe(fileOf(file), fileOf(file).name)),
  analyse: (job, file, options) =>
    inWorker((engine) =>
      engine.analyseFile(
        fileOf(file),
        options,
        proxy((share: number) => window.thawProgress(job, share)),
      ),
    ),
  finish: (job, request) =>
    inWorker(async (engine) => {
      const file = fileOf(request.file)
      const finish = readFinish(request.finish)
      const given = parseAs(FinishParticulars, request.particulars ?? {}, 'list of particulars')[file.name] ?? {}
      const options = { slides: finish.chapters, silence: usualSilence }
      const { probe, sound, slides } = await engine.analyseFile(
        file,
        options,
        proxy((share: number) => window.thawProgress(job, share)),
      )
      const empty: FieldValues = { title: '', course: '', week: '', lecturer: '', date: '', rights: '' }
      let made = 0
      const { edit, chapters, did, look } = putFinish(
        finish,
        {
          fields: { ...empty, title: file.name.replace(/\.[^.]*$/, ''), ...given },
          edit: newEdit(recorded(probe.duration), probe.picture?.frameRate ?? 0),
          chapters: null,
          others: {},
          proposals: (sound?.proposedCuts ?? []).map((p) => ({ ...p, from: recorded(p.from), to: recorded(p.to) })),
          slides: (slides ?? []).map(({ at }, i) => ({ at: recorded(at), title: `Slide ${i + 1}` })),
          hasSound: sound !== null,
          clipped: sound?.clipping.length ?? 0,
        },
        () => `finish-${made++}`,
      )
      if (finish.trims.words) look.push('What is said is not known here: no words were taken out.')
      const map = editTimeMap(edit)
      const visible = chapters ? projectChapters(chapters.chapters, map).visible : []
      const named = visible.map(({ item, at }) => ({ at, title: item.title }))
      return { edit, chapters: named, vtt: named.length > 0 ? chaptersVtt(named, map.length) : '', did, look }
    }),
  render: (job, request) =>
    inWorker(async (engine) => {
      const own = fileOf(request.own)
      const found = await engine.probe(own, own.name)
      const frameRate = found.picture?.frameRate ?? 0
      const sound = request.sound !== null ? fileOf(request.sound) : found.sound ? own : null
      const feeds: RenderJob['feeds'][number][] = [
        ...(found.picture ? [{ id: 'screen', kind: 'screen' as const, offset: 0, blob: own }] : []),
        ...(request.camera !== null
          ? [{ id: 'camera', kind: 'camera' as const, offset: 0, blob: fileOf(request.camera) }]
          : []),
        ...(sound ? [{ id: 'sound', kind: 'sound' as const, offset: 0, blob: sound }] : []),
      ]
      let { duration } = found
      for (const blob of request.further.map(fileOf)) {
        const next = await engine.probe(blob, blob.name)
        const offset = placeAfter(duration, frameRate)
        if (next.picture) feeds.push({ id: 'screen', kind: 'screen', offset, blob })
        if (next.sound) feeds.push({ id: 'sound', kind: 'sound', offset, blob })
        duration = offset + next.duration
      }
      const edit = editFor(request.edit, duration, frameRate)
      const assets = request.assets.map(({ name, file }) => ({ name, blob: fileOf(file) }))
      const background = edit.background
      const behind = feeds.filter((f) => f.kind !== 'sound' && f.id === background?.on)
      const share = behind.length > 0 ? 0.5 : 1
      for (const [i, feed] of behind.entries()) {
        const how = background?.how
        const picture = how?.kind === 'picture' ? assets.find((a) => a.name === how.file)?.blob : null
        if (!how || picture === undefined) throw new Error('The picture that is to be behind the speaker is not there.')
        const to = `${job}~${i}`
        await engine.replaceBackground(
          feed.blob,
          how,
          picture,
          to,
          proxy((s: number) => window.thawProgress(job, ((1 - share) * (i + s)) / behind.length)),
        )
        feeds[feeds.indexOf(feed)] = { ...feed, blob: await engine.readScratch(to, BACKGROUND_FILE) }
      }
      if (background && behind.length === 0)
        throw new Error(`The edit replaces the background of “${background.on}”, which is not there.`)
      return engine.render(
        {
          edit,
          feeds,
          assets,
          format: request.format,
          part: request.part,
          captions: request.captions,
          chapters: request.chapters,
          ...(request.burnt && { burnt: request.burnt }),
        },
        { kind: 'http', url: request.url },
        proxy((s: number) => window.thawProgress(job, 1 - share + share * s)),
      )
    }),
}
