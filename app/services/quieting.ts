/** The sound of takes without its steady noise, to be heard at the desk before anything is published. */
import { proxy } from 'comlink'
import { newEdit } from '#core/edit/edit'
import { soundOf, type Recording } from '#core/record/recording'
import { recorded } from '#core/time/units'
import { db } from '~/db/database'
import { readFile, storing } from '~/db/files'
import { JobCancelled, type useJobs } from '~/stores/jobs'

/** Takes of a recording whose sound is not there without its noise yet. */
async function lacking(recording: Recording): Promise<{ takeId: string; fileId: string; duration: number }[]> {
  const wanted = recording.takes.flatMap((take) => {
    const sound = soundOf(recording, take.id)
    return sound ? [{ takeId: take.id, fileId: sound.fileId, duration: sound.duration }] : []
  })
  const known = new Map((await db.quiets.bulkGet(wanted.map((w) => w.takeId))).map((row) => [row?.takeId, row?.fileId]))
  return wanted.filter((w) => known.get(w.takeId) !== w.fileId)
}

/**
 * Takes the noise out of a recording's sound, as publishing does, and keeps that beside it. What is there is not made
 * anew; two tabs make it once.
 * @throws {Error} with a sentence, or JobCancelled
 */
export async function quieten(
  recording: Recording,
  lectureId: string,
  jobs: ReturnType<typeof useJobs>,
): Promise<void> {
  await navigator.locks.request(`quiet-${lectureId}`, async () => {
    const all = await lacking(recording)
    if (all.length === 0) return
    await jobs.start(
      'quiet',
      lectureId,
      'Taking the noise out, to be heard',
      async ({ engine, scratch, progress, signal }) => {
        const whole = all.reduce((sum, take) => sum + take.duration, 0)
        let done = 0
        for (const [i, { takeId, fileId, duration }] of all.entries()) {
          const blob = await readFile(fileId)
          if (!blob) throw new Error('The sound of this recording is not in this browser any more.')
          const to = `${scratch}~${i}`
          const { files } = await engine.render(
            {
              edit: { ...newEdit(recorded(duration), 0), sound: { noise: 'reduce', loudness: null, truePeak: -1 } },
              feeds: [{ id: 'sound', kind: 'sound', offset: 0, blob }],
              assets: [],
              format: 'm4a',
              captions: null,
            },
            { kind: 'scratch', name: to },
            proxy((share: number) => progress((0.9 * (done + share * duration)) / whole)),
          )
          const made = await engine.readScratch(to, files[0] ?? '')
          const { loudness } = await engine.analyseSound(
            made,
            proxy(() => undefined),
          )
          // The scratch file goes with the job.
          const sound = new Blob([await made.arrayBuffer()], { type: 'audio/mp4' })
          if (signal.aborted) throw new JobCancelled('Cancelled.')
          await storing(() =>
            db.transaction('rw', [db.quiets, db.takes], async () => {
              // Its take may be gone meanwhile.
              if (await db.takes.get(takeId))
                await db.quiets.put({ takeId, fileId, sound, loudness: loudness.integrated })
            }),
          )
          done += duration
        }
      },
    )
  })
}
