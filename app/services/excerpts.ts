/** A stretch of another lecture, made into a video that this one can put in or lay over: as students see it there. */
import { proxy } from 'comlink'
import { excerpt } from '#core/edit/edit'
import type { ResultRange } from '#core/time/units'
import type { AssetRow } from '~/db/database'
import type { useJobs } from '~/stores/jobs'
import { fileName } from '~/utils/download'
import { addAsset, readAssets } from './assets'
import type { LectureParts } from './cards'
import { documentOf } from './fingerprint'
import { renderFeeds } from './publishing'

/**
 * @param from the other lecture
 * @param into the id of the lecture that gets it
 * @throws {Error} with a sentence, or JobCancelled; nothing is kept of it then
 */
export const bringExcerpt = (
  from: LectureParts,
  range: ResultRange,
  into: string,
  jobs: ReturnType<typeof useJobs>,
): Promise<AssetRow> =>
  jobs.start('import', into, `Making a video of “${from.lecture.title}”`, async ({ engine, scratch, progress }) => {
    const whole = documentOf(from, 'edit')
    if (!from.recording || !whole) throw new Error('Nothing is recorded in that lecture yet.')
    const edit = excerpt(whole, range)
    const feeds = await renderFeeds(edit, from.recording, { engine, scratch, progress })
    const { files, width } = await engine.render(
      { edit, feeds, assets: await readAssets(edit), format: 'mp4', captions: null },
      { kind: 'scratch', name: scratch },
      proxy((share: number) => progress(0.9 * share)),
    )
    if (width === 0) throw new Error('There is no picture in that lecture; only what has one can be put in.')
    const made = await engine.readScratch(scratch, files[0] ?? '')
    const name = `${fileName(from.lecture.title)}.mp4`
    return addAsset(new File([made], name, { type: 'video/mp4' }), into, jobs)
  })
