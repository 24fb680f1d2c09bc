// Says which step of several is being done, how far it is and how long it has taken: on one line that is drawn again
// where a person watches, and as lines one below the other in a log.

/** How often a log is told how far a step is, s. */
const LOG_EVERY = 10

export class Steps {
  #at = 0
  #name = ''
  #howFar = ''
  #began = 0
  #toldAt = 0
  #timer = undefined

  /**
   * @param {number} count how many there are
   * @param {{ write(text: string): unknown, isTTY?: boolean }} [out]
   * @param {() => number} [now] ms
   */
  constructor(count, out = process.stdout, now = Date.now) {
    Object.assign(this, { count, out, now })
  }

  /** Begins the next step; the one before has ended. */
  begin(name) {
    this.end()
    this.#at += 1
    this.#name = name
    this.#began = this.now()
    if (this.out.isTTY) {
      this.#draw()
      this.#timer = setInterval(() => this.#draw(), 1000)
    } else {
      this.#toldAt = this.#began
      this.out.write(`${this.#title()} …\n`)
    }
  }

  /** Says how far the step is, in words such as “300 of 800”. */
  tell(howFar) {
    this.#howFar = howFar
    if (this.out.isTTY) return this.#draw()
    if (this.now() - this.#toldAt < LOG_EVERY * 1000) return
    this.#toldAt = this.now()
    this.out.write(`      ${this.#state()}\n`)
  }

  /** Says how long the step took. */
  end() {
    if (!this.#name) return
    clearInterval(this.#timer)
    const line = `${this.#title()}: done in ${this.#seconds()} s`
    this.out.write(this.out.isTTY ? `\r\x1b[K${line}\n` : `${line}\n`)
    this.#name = this.#howFar = ''
  }

  #seconds = () => Math.round((this.now() - this.#began) / 1000)
  #title = () => `[${this.#at} of ${this.count}] ${this.#name}`
  #state = () => [this.#howFar, `${this.#seconds()} s`].filter(Boolean).join(', ')
  #draw = () => void this.out.write(`\r\x1b[K${this.#title()}: ${this.#state()}`)
}
