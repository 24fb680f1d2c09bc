/** From here on what is amplified is held back, dBFS, and how hard. */
const THRESHOLD = -3
const RATIO = 20

/** Keeps amplified peaks from clipping; what is published is limited more exactly (`core/sound/true-peak.ts`). */
function limiterOf(context: AudioContext): AudioNode {
  const limiter = context.createDynamicsCompressor()
  limiter.threshold.value = THRESHOLD
  limiter.knee.value = 0
  limiter.ratio.value = RATIO
  limiter.attack.value = 0.002
  limiter.release.value = 0.06
  // A compressor makes up for what it takes, also where it takes nothing (Web Audio API §1.19.4); that is undone.
  const made = context.createGain()
  made.gain.value = 10 ** ((0.6 * THRESHOLD * (1 - 1 / RATIO)) / 20)
  limiter.connect(made).connect(context.destination)
  return limiter
}

/**
 * How loud elements are played. An element alone is never louder than its file; one that is to be goes through an amplifier
 * from then on, as a browser lets go of it only with the element.
 */
export function elementLevels() {
  let context: AudioContext | null = null
  let limit: AudioNode | null = null
  const amplifiers = new Map<HTMLMediaElement, GainNode>()

  function amplify(element: HTMLMediaElement): GainNode {
    context ??= new AudioContext()
    const known = amplifiers.get(element)
    if (known) return known
    const amplifier = context.createGain()
    limit ??= limiterOf(context)
    context.createMediaElementSource(element).connect(amplifier).connect(limit)
    amplifiers.set(element, amplifier)
    return amplifier
  }

  return {
    /** @param gain an amplitude; 1 as the file has it */
    set(element: HTMLMediaElement, gain: number): void {
      const amplifier = gain > 1 ? amplify(element) : amplifiers.get(element)
      // Until a person has pressed something, a browser keeps it from running.
      if (amplifier && context?.state === 'suspended') void context.resume()
      if (amplifier) amplifier.gain.value = Math.max(1, gain)
      const volume = Math.min(1, gain)
      if (element.volume !== volume) element.volume = volume
    },
    /** Lets go of an element that is gone. */
    release(element: HTMLMediaElement): void {
      amplifiers.get(element)?.disconnect()
      amplifiers.delete(element)
    },
    close(): void {
      void context?.close()
      context = null
      limit = null
      amplifiers.clear()
    },
  }
}
