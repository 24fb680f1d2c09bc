/**
 * How loud elements are played. An element alone is never louder than its file; one that is to be goes through an amplifier
 * from then on, as a browser lets go of it only with the element.
 */
export function elementLevels() {
  let context: AudioContext | null = null
  const amplifiers = new Map<HTMLMediaElement, GainNode>()

  function amplify(element: HTMLMediaElement): GainNode {
    context ??= new AudioContext()
    const known = amplifiers.get(element)
    if (known) return known
    const amplifier = context.createGain()
    context.createMediaElementSource(element).connect(amplifier).connect(context.destination)
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
    close(): void {
      void context?.close()
      context = null
      amplifiers.clear()
    },
  }
}
