/**
 * The rehearsal: ten seconds through the very same recorder, played back at once, and judged from what was recorded.
 */
import { judge, type Verdict } from '#core/record/rehearsal'
import { kindOf } from '#core/record/inputs'
import type { InputPlan } from '#core/schema/setup'
import { errorMessage } from '#core/text/error-message'
import { startRecorder, type RecorderFeed } from '#media/recorder'
import { startMediaWorker } from './media-worker'

export interface Rehearsed {
  /** What was recorded, to be played; in the order of the inputs. */
  feeds: { plan: InputPlan; blob: Blob; offset: number }[]
  verdicts: Verdict[]
}

/** Length of a rehearsal, s. */
export const REHEARSAL = 10

/**
 * Records for ten seconds and judges. What is recorded is small, stays in memory and is gone with the page.
 * @param onClock told the seconds that have passed
 * @param signal stops earlier; what was recorded until then is judged
 */
export async function rehearse(
  chosen: readonly { plan: InputPlan; track: MediaStreamTrack }[],
  onClock: (seconds: number) => void,
  signal: AbortSignal,
): Promise<Rehearsed> {
  const chunks = new Map<string, Uint8Array<ArrayBuffer>[]>(chosen.map(({ plan }) => [plan.id, []]))
  const offsets = new Map<string, number>()
  const trouble: Verdict[] = []
  const labelOf = (id: string) => chosen.find((c) => c.plan.id === id)?.plan.label ?? ''
  const recorder = await startRecorder(
    chosen.map(({ plan, track }): RecorderFeed => ({
      id: plan.id,
      kind: kindOf(plan.source),
      track,
      frameRate: plan.picture?.frameRate ?? 0,
      bitrate: plan.bitrate,
      area: plan.picture?.area ?? null,
      gain: () => plan.gain,
    })),
    {
      async onChunk(id, bytes) {
        chunks.get(id)?.push(bytes)
      },
      onClock: (id, points) => void offsets.set(id, points[0]?.late ?? 0),
      onTrouble: (id, error) =>
        trouble.push({
          about: labelOf(id),
          grade: 'bad',
          says: `It broke off: ${errorMessage(error)}`,
          remedy: 'Switch it off and on again, or choose another device.',
        }),
    },
  )
  const began = performance.now()
  await new Promise<void>((resolve) => {
    const timer = setInterval(() => {
      const seconds = (performance.now() - began) / 1000
      onClock(Math.min(REHEARSAL, seconds))
      if (seconds < REHEARSAL && !signal.aborted) return
      clearInterval(timer)
      resolve()
    }, 100)
  })
  await recorder.stop()
  const feeds = chosen.map(({ plan }) => ({
    plan,
    blob: new Blob(chunks.get(plan.id) ?? [], { type: kindOf(plan.source) === 'sound' ? 'audio/mp4' : 'video/mp4' }),
    offset: offsets.get(plan.id) ?? 0,
  }))

  const { engine, end } = startMediaWorker()
  try {
    // A feed that gave nothing has no file; it is judged as silent or missing.
    const sounds = feeds.filter((f) => kindOf(f.plan.source) === 'sound')
    const pictures = feeds.filter((f) => kindOf(f.plan.source) !== 'sound')
    const heard = await Promise.all(
      sounds.map(({ plan, blob }) =>
        blob.size
          ? engine.hear(blob, plan.label)
          : { label: plan.label, tops: new Float32Array(0), noiseFloor: -Infinity, clipped: 0 },
      ),
    )
    const seen = await Promise.all(
      pictures.map(({ plan, blob }) => {
        const kind = kindOf(plan.source) === 'screen' ? 'screen' : 'camera'
        return blob.size
          ? engine.see(blob, plan.label, kind, plan.picture?.frameRate ?? 0)
          : ({ label: plan.label, kind, frames: 0, due: 0, movement: 0, brightest: 0 } as const)
      }),
    )
    return { feeds, verdicts: [...trouble, ...judge(heard, seen)] }
  } finally {
    end()
  }
}
