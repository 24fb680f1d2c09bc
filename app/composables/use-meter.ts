import { onScopeDispose, ref } from 'vue'
import { decibels, measure, meterShare, zoneOf } from '#core/sound/level'

/** Seconds of silence after which a person is warned. */
const SILENCE = 5

/**
 * The level of a live sound track, and a gain in front of it: what `output` carries is what is recorded.
 */
export function useMeter() {
  const peakDb = ref(-Infinity)
  const heldDb = ref(-Infinity)
  const share = ref(0)
  const warning = ref('')
  let context: AudioContext | null = null
  let gainNode: GainNode | null = null
  let timer: ReturnType<typeof setInterval> | undefined

  function close(): void {
    clearInterval(timer)
    void context?.close()
    context = null
    gainNode = null
    peakDb.value = heldDb.value = -Infinity
    share.value = 0
    warning.value = ''
  }

  /** Listens to `stream` and gives the track to record. */
  async function open(stream: MediaStream, gain: number): Promise<MediaStreamTrack> {
    close()
    context = new AudioContext({ sampleRate: 48_000 })
    await context.resume()
    const source = context.createMediaStreamSource(stream)
    gainNode = new GainNode(context, { gain })
    const analyser = new AnalyserNode(context, { fftSize: 4096 })
    const out = context.createMediaStreamDestination()
    source.connect(gainNode).connect(analyser)
    gainNode.connect(out)
    const samples = new Float32Array(analyser.fftSize)
    let quietSince = performance.now()
    let heldAt = 0
    let clippedAt = -Infinity
    timer = setInterval(() => {
      analyser.getFloatTimeDomainData(samples)
      const now = performance.now()
      const db = decibels(measure(samples).peak)
      peakDb.value = db
      share.value = meterShare(db)
      if (db > heldDb.value || now - heldAt > 2000) {
        heldDb.value = db
        heldAt = now
      }
      const { zone, says } = zoneOf(db)
      if (zone !== 'silent') quietSince = now
      if (zone === 'clipping') clippedAt = now
      if (now - clippedAt < 3000) warning.value = zoneOf(0).says
      else if (now - quietSince > SILENCE * 1000) warning.value = zoneOf(-Infinity).says
      else warning.value = zone === 'hot' ? says : ''
    }, 80)
    const track = out.stream.getAudioTracks()[0]
    if (!track) throw new Error('This browser gave no sound track.')
    return track
  }

  onScopeDispose(close)
  return { peakDb, heldDb, share, warning, open, close, setGain: (gain: number) => { if (gainNode) gainNode.gain.value = gain } }
}
