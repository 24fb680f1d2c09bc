/** Where a recording reaches full scale: two samples side by side are clipping, one may be chance. */
import { recorded, type RecordedRange } from '../time/units'

const FULL = 0.999
/** Stretches closer than this are one, s; and no more than this many are kept, as they say the same. */
const JOIN = 0.25
const KEPT = 200

export interface ClippingFinder {
  /** The size of each sample, 0…1, of the loudest channel. */
  push(sizes: Float32Array): void
  readonly found: RecordedRange[]
}

export function clippingFinder(sampleRate: number): ClippingFinder {
  const found: RecordedRange[] = []
  let at = 0
  let before = 0
  return {
    found,
    push(sizes) {
      for (let i = 0; i < sizes.length; i++) {
        const size = sizes[i] as number
        if (size >= FULL && before >= FULL) {
          const time = recorded((at + i) / sampleRate)
          const last = found.at(-1)
          if (last && time - last.to < JOIN) last.to = time
          else if (found.length < KEPT) found.push({ from: time, to: time })
        }
        before = size
      }
      at += sizes.length
    },
  }
}
