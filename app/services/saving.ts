/**
 * Saving the result as files of the person's own: one film, its sound, or a folder for streaming, with captions and chapters
 * beside it or inside. What is saved is what students would see, whether it was published or not.
 */
import { proxy } from 'comlink'
import type { useJobs } from '~/stores/jobs'
import { download, fileName } from '~/utils/download'
import { zipFiles } from '~/utils/zip'
import { chaptersVtt } from '#core/marks/chapters'
import { projectLecture, projectTrack } from '#core/packages/publication'
import { editTimeMap } from '#core/edit/edit'
import { readAssets } from './assets'
import type { LectureParts } from './cards'
import { documentOf } from './fingerprint'
import { renderFeeds } from './publishing'
import type { RenderFormat } from '#media/render/render'

export interface SaveOptions {
  format: RenderFormat
  captions: 'inside' | 'beside' | 'burnt' | 'none'
  /** Whether link cards are burnt into the picture. */
  links: boolean
}

/** Forms that a result is saved in. */
export const saveForms: readonly { format: RenderFormat; name: string; takesCaptions: boolean; seen: boolean }[] = [
  { format: 'mp4', name: 'MP4 film', takesCaptions: true, seen: true },
  { format: 'webm', name: 'WebM film', takesCaptions: true, seen: true },
  { format: 'm4a', name: 'Sound only (M4A)', takesCaptions: false, seen: false },
  { format: 'hls', name: 'Folder for streaming (HLS), zipped', takesCaptions: true, seen: true },
]
const types: Record<RenderFormat, string> = {
  mp4: 'video/mp4',
  webm: 'video/webm',
  m4a: 'audio/mp4',
  hls: 'application/zip',
}

/** What a saved file is called, and what is in it. */
export interface Saved {
  name: string
  /** What a person should know; empty otherwise. */
  note: string
}

/** @throws {Error} with a sentence, or JobCancelled */
export function saveResult(
  parts: LectureParts,
  { format, captions, links }: SaveOptions,
  jobs: ReturnType<typeof useJobs>,
): Promise<Saved> {
  const { lecture, recording } = parts
  const edit = documentOf(parts, 'edit')
  const says = `Saving as ${saveForms.find((f) => f.format === format)?.name ?? format}`
  return jobs.start(
    'save',
    lecture.id,
    says,
    async ({ engine, scratch, progress }) => {
      if (!recording || !edit) throw new Error('Nothing is recorded yet; there is nothing to save.')
      const track = documentOf(parts, 'captions')
      const map = editTimeMap(edit)
      const vtt = track ? projectTrack(map, track).text : null
      const projected = projectLecture(map, {
        chapters: documentOf(parts, 'chapters'),
        links: links ? documentOf(parts, 'links') : null,
      })
      const language = track?.language ?? 'en'
      const inside = captions === 'inside' && vtt
      const made = await engine.render(
        {
          edit,
          feeds: await renderFeeds(edit, recording, { engine, scratch, progress }),
          assets: await readAssets(edit),
          format,
          captions: inside ? { language, label: 'Captions', vtt: inside } : null,
          chapters: projected.chapters,
          burnt: { vtt: captions === 'burnt' ? vtt : null, links: projected.links },
        },
        { kind: 'scratch', name: scratch },
        proxy((share: number) => progress(0.95 * share)),
      )
      const base = fileName(lecture.title)
      const files = await Promise.all(
        made.files.map(async (path) => ({ path, data: await engine.readScratch(scratch, path) })),
      )
      const beside = [
        ...(captions === 'beside' && vtt ? [{ name: `captions-${language}.vtt`, data: new Blob([vtt]) }] : []),
        ...(projected.chapters.length > 0 && (format === 'hls' || captions === 'beside')
          ? [{ name: 'chapters.vtt', data: new Blob([chaptersVtt(projected.chapters, made.duration)]) }]
          : []),
      ]
      const [first] = files
      if (!first) throw new Error('Nothing was made.')
      if (format === 'hls' || beside.length > 0) {
        const film = `${base}.${format}`
        const named = files.map(({ path, data }) => ({ name: format === 'hls' ? path : film, data }))
        const name = `${base}.zip`
        download(name, 'application/zip', await zipFiles([...named, ...beside]))
        return { name, note: made.note }
      }
      // The scratch file goes with the job; what is handed over is a copy.
      const copy = await new Response(first.data.stream()).blob()
      const name = `${base}.${format}`
      download(name, types[format], copy)
      return { name, note: made.note }
    },
    { awaited: true },
  )
}

/** Saves what is seen at an instant of the result, s, as a picture. @throws {Error} with a sentence, or JobCancelled */
export function saveStill(parts: LectureParts, at: number, jobs: ReturnType<typeof useJobs>): Promise<string> {
  const { lecture, recording } = parts
  const edit = documentOf(parts, 'edit')
  return jobs.start('save', lecture.id, 'Saving a picture', async ({ engine, scratch, progress }) => {
    if (!recording || !edit) throw new Error('Nothing is recorded yet; there is no picture to save.')
    const job = {
      edit,
      feeds: await renderFeeds(edit, recording, { engine, scratch, progress }),
      assets: await readAssets(edit),
    }
    const name = `${fileName(lecture.title)}-${at.toFixed(2).replace('.', '-')}.png`
    download(name, 'image/png', await engine.still(job, at))
    return name
  })
}
