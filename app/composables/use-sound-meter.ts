import { quantile } from 'd3-array'
import { reactive } from 'vue'
import { decibels, measure } from '#core/sound/level'
import { soundRemedies, soundWatch } from '#core/record/watch'

/** How a live sound stands, for its meter. dBFS. */
export interface SoundLevels {
  peak: number
  /** Root mean square of the last 0.4 s. */
  short: number
  /** Highest peak of the last two seconds. */
  held: number
  /** What is wrong with it, and what to do; empty when nothing is. */
  warning: string
}

export interface SoundMeter {
  levels: SoundLevels
  setGain(gain: number): void
  /** 90th percentile of the short levels of the last ten seconds, dBFS. */
  loud(): number
  close(): void
}

/** A look at the sound, s. */
const LOOK = 0.08
const SHORT_LOOKS = 5
const LOUD_LOOKS = 125

/**
 * Puts a meter on a live sound. It shows what the gain makes of it; what is recorded does not come through here, as a
 * graph of sounds that stalls holds back what comes after.
 */
export async function openSoundMeter(stream: MediaStream, gain: number): Promise<SoundMeter> {
  const context = new AudioContext({ sampleRate: 48_000 })
  await context.resume()
  const gainNode = new GainNode(context, { gain })
  const analyser = new AnalyserNode(context, { fftSize: 4096 })
  context.createMediaStreamSource(stream).connect(gainNode).connect(analyser)

  const levels = reactive<SoundLevels>({ peak: -Infinity, short: -Infinity, held: -Infinity, warning: '' })
  const samples = new Float32Array(analyser.fftSize)
  const squares: number[] = []
  const watch = soundWatch()
  let heldAt = 0
  const timer = setInterval(() => {
    analyser.getFloatTimeDomainData(samples)
    const now = performance.now() / 1000
    const look = measure(samples)
    levels.peak = decibels(look.peak)
    squares.push(look.rms ** 2)
    if (squares.length > LOUD_LOOKS) squares.shift()
    const short = squares.slice(-SHORT_LOOKS)
    levels.short = decibels(Math.sqrt(short.reduce((a, b) => a + b, 0) / short.length))
    if (levels.peak > levels.held || now - heldAt > 2) {
      levels.held = levels.peak
      heldAt = now
    }
    const warning = watch(now, look)
    levels.warning = warning ? soundRemedies[warning] : ''
  }, LOOK * 1000)
  return {
    levels,
    setGain: (g) => {
      gainNode.gain.value = g
    },
    loud: () => decibels(Math.sqrt(quantile(squares, 0.9) ?? 0)),
    close() {
      clearInterval(timer)
      void context.close()
    },
  }
}
