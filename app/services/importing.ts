/** Bringing in a video or sound file: looked at first, stored only when it can be used. */
import { readFile, removeFile, storeFile } from '~/db/files'
import type { Feed, Take } from '#core/schema/lecture'
import type { useJobs } from '~/stores/jobs'
import { changeLecture } from './cards'
import { newId, nowInstant } from './ids'
import { analyseTake, placeTake } from './takes'

/**
 * Brings a file into a lecture; if it has a recording, the file goes on after it.
 * @returns what a person should know besides that it worked; empty when nothing
 * @throws {Error} with a sentence; nothing is kept of the file then
 */
export async function bringIn(file: File, lectureId: string, jobs: ReturnType<typeof useJobs>): Promise<string> {
  const takeId = newId()
  const notes = await jobs.start(
    'import',
    lectureId,
    `Bringing in “${file.name}”`,
    async ({ engine, scratch, progress }) => {
      const found = await engine.probe(file, file.name)
      const notes: string[] = []
      notes.push(...found.remarks)
      if (!found.sound) notes.push(`“${file.name}” has no sound: there will be no waveform and nothing to caption.`)
      if (!found.picture) notes.push(`“${file.name}” has no picture; it is brought in as sound only.`)
      // Browsers write WebM without a length; a copy with an index can be moved about in.
      const data = found.statesDuration ? file : await engine.settle(file, scratch, [])
      const { type } = found.statesDuration ? found : await engine.probe(data, file.name)
      const name = found.statesDuration
        ? file.name
        : file.name.replace(/(\.[^.]*)?$/, /matroska/.test(type) ? '.mkv' : '.mp4')
      const fileId = newId()
      await storeFile({ id: fileId, type, name, size: data.size }, data, progress)
      const stored = await readFile(fileId)
      if (!stored || stored.size !== data.size) {
        await removeFile(fileId)
        throw new Error(`“${file.name}” could not be stored whole. Nothing was kept; try again.`)
      }
      const common = { fileId, offset: 0, duration: found.duration }
      const feeds: Feed[] = []
      if (found.picture)
        feeds.push({
          ...common,
          id: 'screen',
          kind: 'screen',
          label: 'Picture',
          width: found.picture.width,
          height: found.picture.height,
          frameRate: found.picture.frameRate,
        })
      if (found.sound)
        feeds.push({ ...common, id: 'sound', kind: 'sound', label: 'Sound', width: 0, height: 0, frameRate: 0 })
      const take: Take = {
        id: takeId,
        lectureId,
        state: 'whole',
        startedAt: nowInstant(),
        duration: found.duration,
        feeds,
        pauses: [],
        note: notes.join(' '),
      }
      await changeLecture(lectureId, () => placeTake(take))
      return notes
    },
  )
  // Analysis runs on; what it finds appears on the desk when it is there.
  void analyseTake(takeId, jobs, true).catch((error: unknown) => console.error('analysis', error))
  return notes.join(' ')
}
