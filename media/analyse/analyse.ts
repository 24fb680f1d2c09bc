/** Everything that can be found out about a file, for the command line: as plain JSON. */
import { decibels } from '#core/sound/level'
import { probe, type Probe } from '../probe'
import { slides } from './picture'
import { analyseSound } from './sound'
import type { SilenceSettings } from '#core/sound/silence'

export interface AnalyseOptions {
  /** Whether the picture is looked through for slides, which takes longer than everything else. */
  slides: boolean
  silence: SilenceSettings
}

/** JSON has no infinities; what is endlessly quiet is null. */
const finite = (db: number) => (Number.isFinite(db) ? Math.round(db * 100) / 100 : null)
const ms = (seconds: number) => Math.round(seconds * 1000) / 1000

export async function analyseFile(file: File, options: AnalyseOptions, onProgress: (share: number) => void) {
  const found: Probe = await probe(file, file.name)
  const both = options.slides && found.picture !== null
  const share = both && found.sound ? 0.3 : both ? 0 : 1
  const sound = found.sound ? await analyseSound(file, (s) => onProgress(share * s), options.silence) : null
  const shown = both ? await slides(file, (s) => onProgress(share + (1 - share) * s)) : null
  const overview = sound?.peaks.at(-1)
  return {
    format: 'thaw-analysis',
    version: 1,
    file: file.name,
    probe: found,
    sound: sound && {
      integratedLufs: finite(sound.loudness.integrated),
      rangeLu: finite(sound.loudness.range),
      truePeakDbtp: finite(sound.loudness.truePeak),
      maxShortTermLufs: finite(sound.loudness.maxShortTerm),
      shortTermLufs: Array.from(sound.loudness.shortTerm, finite),
      noiseFloorDbfs: finite(sound.noiseFloor),
      zones: Object.fromEntries(Object.entries(sound.zones).map(([zone, part]) => [zone, ms(part)])),
      silenceBelowDbfs: finite(sound.threshold),
      silences: sound.silences.map((r) => ({ from: ms(r.from), to: ms(r.to) })),
      clipping: sound.clipping.map((r) => ({ from: ms(r.from), to: ms(r.to) })),
      proposedCuts: sound.proposals.map((p) => ({ from: ms(p.from), to: ms(p.to), reason: p.reason, says: p.says })),
      peaksPerSecond: overview?.binsPerSecond ?? 0,
      peaksDbfs: overview
        ? Array.from({ length: overview.data.length / 2 }, (_, i) =>
            finite(
              decibels(Math.max(Math.abs(overview.data[2 * i] ?? 0), Math.abs(overview.data[2 * i + 1] ?? 0)) / 127),
            ),
          )
        : [],
    },
    slides: shown?.map((s) => ({ at: ms(s.at) })) ?? null,
  }
}
