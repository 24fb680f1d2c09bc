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

export interface SoundPath {
  levels: SoundLevels
  /** What is recorded: the sound behind the gain. */
  track: MediaStreamTrack
  setGain(gain: number): void
  /** 90th percentile of the short levels of the last ten seconds, dBFS. */
  loud(): number
  close(): void
}

/** A look at the sound, s. */
const LOOK = 0.08
const SHORT_LOOKS = 5
const LOUD_LOOKS = 125

/** Puts a gain and a meter behind a live sound. */
export async function openSoundPath(stream: MediaStream, gain: number): Promise<SoundPath> {
  const context = new AudioContext({ sampleRate: 48_000 })
  await context.resume()
  const gainNode = new GainNode(context, { gain })
  const analyser = new AnalyserNode(context, { fftSize: 4096 })
  const out = context.createMediaStreamDestination()
  context.createMediaStreamSource(stream).connect(gainNode).connect(analyser)
  gainNode.connect(out)
  const track = out.stream.getAudioTracks()[0]
  if (!track) throw new Error('This browser gave no sound track.')

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
    levels, track,
    setGain: (g) => { gainNode.gain.value = g },
    loud: () => decibels(Math.sqrt(quantile(squares, 0.9) ?? 0)),
    close() {
      clearInterval(timer)
      void context.close()
    },
  }
}
