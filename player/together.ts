/**
 * Keeps a second picture with the first, which has the sound: started, stopped, sought and sped up with it, and brought
 * back by playing a little faster or slower when it drifts. Whichever has to wait for its data, the other waits too.
 */
import { leadingSpeed, SEEK_BEYOND } from '#core/time/lead'

/** What is used of a media element. */
export type Playing = Pick<
  HTMLMediaElement,
  'currentTime' | 'playbackRate' | 'paused' | 'seeking' | 'readyState' | 'play' | 'pause'
> & {
  addEventListener(type: string, listen: () => void): void
  removeEventListener(type: string, listen: () => void): void
}

/** So near, s, it is not sought. */
const NEAR = 0.008
/** HTMLMediaElement.HAVE_FUTURE_DATA */
const CAN_GO_ON = 3
/** How long the first waits for the second, ms; then it goes on without. */
const PATIENCE = 8000

export interface Together {
  /** To be called often while it plays. */
  tick(): void
  /** The speed at which both play. */
  setSpeed(speed: number): void
  end(): void
}

/** @param now ms */
export function keepTogether(first: Playing, second: Playing, speed: number, now: () => number): Together {
  let wanted = speed
  /** Since when the first waits for the second, ms; null while it does not. */
  let held: number | null = null
  let givenUp = false

  const start = () => {
    // One that may not play on this device stays where it is; the first goes on.
    second.play().catch(() => undefined)
  }
  const align = () => {
    if (Math.abs(second.currentTime - first.currentTime) > NEAR) second.currentTime = first.currentTime
  }
  const hold = () => {
    held ??= now()
    first.playbackRate = second.playbackRate = 0
  }
  const release = () => {
    held = null
    first.playbackRate = second.playbackRate = wanted
  }
  const isReady = () => !second.seeking && second.readyState >= CAN_GO_ON
  const tick = () => {
    if (first.paused || first.seeking) return
    if (isReady()) givenUp = false
    else {
      if (held !== null && now() - held > PATIENCE) givenUp = true
      if (!givenUp) hold()
      else if (held !== null) release()
      return
    }
    if (held !== null) {
      // Both stand: from the same instant they go on.
      if (Math.abs(second.currentTime - first.currentTime) > SEEK_BEYOND) second.currentTime = first.currentTime
      else release()
      return
    }
    if (second.paused && first.readyState >= CAN_GO_ON) start()
    const apart = second.currentTime - first.currentTime
    if (apart < -SEEK_BEYOND * Math.max(1, wanted)) {
      hold()
      second.currentTime = first.currentTime
    } else second.playbackRate = leadingSpeed(apart, wanted)
  }

  const on: Record<string, () => void> = {
    playing: start,
    pause() {
      second.pause()
      release()
      align()
    },
    seeking() {
      givenUp = false
      second.currentTime = first.currentTime
    },
    seeked: align,
    waiting: () => second.pause(),
    ended: () => second.pause(),
  }
  for (const [type, listen] of Object.entries(on)) first.addEventListener(type, listen)
  first.playbackRate = second.playbackRate = wanted
  align()
  if (!first.paused) start()
  return {
    tick,
    setSpeed(next) {
      wanted = next
      if (held === null) first.playbackRate = second.playbackRate = next
    },
    end() {
      for (const [type, listen] of Object.entries(on)) first.removeEventListener(type, listen)
      second.pause()
      release()
    },
  }
}
