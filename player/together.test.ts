import { describe, expect, it } from 'vitest'
import { keepTogether, type Playing } from './together'

/** A film that plays by a clock of the test's, at its speed times `pace`, from what it holds up to `loaded` s. */
class Film extends EventTarget implements Playing {
  currentTime = 0
  playbackRate = 1
  paused = true
  seeking = false
  loaded = Infinity
  constructor(readonly pace = 1) {
    super()
  }
  get readyState() {
    return this.currentTime >= this.loaded ? 2 : 4
  }
  play() {
    this.paused = false
    return Promise.resolve()
  }
  pause() {
    this.paused = true
  }
  run(seconds: number) {
    if (!this.paused)
      this.currentTime = Math.min(this.loaded, this.currentTime + seconds * this.playbackRate * this.pace)
  }
  tell(type: string) {
    this.dispatchEvent(new Event(type))
  }
}

function pair(pace = 1, speed = 1) {
  const [first, second] = [new Film(), new Film(pace)]
  let ms = 0
  const together = keepTogether(first, second, speed, () => ms)
  /** Plays on; gives how far apart the two were at most, s. */
  const run = (seconds: number) => {
    let most = 0
    for (let i = 0; i < seconds * 25; i++) {
      ms += 40
      first.run(0.04)
      second.run(0.04)
      together.tick()
      most = Math.max(most, Math.abs(first.currentTime - second.currentTime))
    }
    return most
  }
  const start = () => {
    void first.play()
    first.tell('playing')
  }
  return { first, second, together, run, start }
}

describe('two pictures', () => {
  it.each([0.5, 1, 2, 3])('stay together at %s times the speed, though their clocks differ', (speed) => {
    const { run, start } = pair(1.01, speed)
    start()
    run(2)
    expect(run(60)).toBeLessThan(0.04)
  })
  it('are stopped, sought and started together', () => {
    const { first, second, run, start } = pair()
    start()
    run(3)
    first.pause()
    first.tell('pause')
    expect(second.paused).toBe(true)
    expect(second.currentTime).toBeCloseTo(first.currentTime, 6)
    first.currentTime = 50
    first.tell('seeking')
    first.tell('seeked')
    expect(second.currentTime).toBe(50)
    start()
    expect(run(5)).toBeLessThan(0.04)
  })
  it('come together again when one was started late, without a jump when it is not far', () => {
    const { first, second, run, start } = pair()
    start()
    second.currentTime = first.currentTime - 0.1
    const before = second.currentTime
    run(0.04)
    expect(second.currentTime - before).toBeLessThan(0.06)
    run(2)
    expect(run(1)).toBeLessThan(0.02)
  })
  it('wait for each other, and not for ever', () => {
    const { first, second, run, start } = pair()
    start()
    run(1)
    second.loaded = 2
    run(3)
    expect(first.currentTime).toBeLessThan(2.1)
    expect(first.paused).toBe(false)
    second.loaded = Infinity
    run(1)
    expect(first.playbackRate).toBe(1)
    expect(run(3)).toBeLessThan(0.04)
    second.loaded = second.currentTime
    run(12)
    expect(first.currentTime).toBeGreaterThan(second.loaded + 2)
    second.loaded = Infinity
    expect(run(1)).toBeLessThan(0.04)
    first.tell('waiting')
    expect(second.paused).toBe(true)
  })
  it('play at a speed that is chosen meanwhile', () => {
    const { first, second, together, run, start } = pair()
    start()
    run(1)
    together.setSpeed(2)
    const from = first.currentTime
    run(2)
    expect(first.currentTime - from).toBeCloseTo(4, 1)
    expect(second.currentTime).toBeCloseTo(first.currentTime, 1)
  })
})
