/**
 * Finds where one slide gives way to the next on a screen feed. The screen is seen as a grid of cells, a few times a
 * second. A slide changes when what stood there is gone, not when something is added: builds, a pointer, a talking
 * inset and a clip playing in the slide leave most of what was there in its place.
 *
 *     reference   ■■■■ □□□□      ■ content that is there, □ empty ground
 *     a build     ■■■■ ■□□□      nothing lost                → same slide
 *     a clip      ■■■■ ~~~~      ~ moving cells do not count → same slide
 *     a change    ▲▲▲▲ ▲▲□□      most content lost           → next slide
 */

/** Cells across and down. On a 1920 × 1080 screen a cell is 12 px: about a letter. */
export const COLUMNS = 160
export const ROWS = 90
const CELLS = COLUMNS * ROWS

/** Samples of the screen a second. */
export const SAMPLES_PER_SECOND = 4

/** One look at the screen: mean and contrast (mean deviation) of the luma in each cell, 0…255. */
export interface ScreenGrid {
  mean: Uint8Array
  contrast: Uint8Array
}

/** @param luma rows of `stride` bytes, `width` × `height` px */
export function screenGrid(luma: Uint8Array, stride: number, width: number, height: number): ScreenGrid {
  const mean = new Uint8Array(CELLS)
  const contrast = new Uint8Array(CELLS)
  // Large screens are looked at in every second pixel and row.
  const step = width >= 1000 ? 2 : 1
  for (let r = 0, cell = 0; r < ROWS; r++) {
    const [y0, y1] = [Math.floor((r * height) / ROWS), Math.max(1, Math.floor(((r + 1) * height) / ROWS))]
    for (let c = 0; c < COLUMNS; c++, cell++) {
      const [x0, x1] = [Math.floor((c * width) / COLUMNS), Math.max(1, Math.floor(((c + 1) * width) / COLUMNS))]
      let sum = 0
      let count = 0
      let low = 255
      let high = 0
      for (let y = y0; y < y1; y += step)
        for (let i = y * stride + x0; i < y * stride + x1; i += step) {
          const value = luma[i] as number
          sum += value
          count++
          if (value < low) low = value
          if (value > high) high = value
        }
      mean[cell] = count ? Math.round(sum / count) : 0
      contrast[cell] = count ? high - low : 0
    }
  }
  return { mean, contrast }
}

export interface SlideDetector {
  /** @param time s of recorded time, increasing */
  push(time: number, grid: ScreenGrid): void
  /**
   * Passes over what lies between the last sample and `grid`, when neither gives reason to look at it: what stood there
   * still does, under no other title, and no change is under way. What differs between them moves. It then counts as
   * pushed.
   * @returns whether it was passed over; if not, nothing has changed, and all between is to be pushed
   */
  pass(time: number, grid: ScreenGrid): boolean
  /** Times at which a slide appeared, the first included, s. */
  finish(): number[]
}

/** A cell differs from its reference by more than this in mean or contrast; coding noise stays below. */
const DIFFERS = 9
const CONTRAST_DIFFERS = 40
/** A cell with more contrast than this has something on it. */
const CONTENT = 28
/** Share of the content that has to be gone. */
const LOST = 0.5
/** Cells must be still for this many samples before they say anything. */
const STILL = 3
/**
 * A cell that has moved this often of late belongs to a clip or an inset; for how long it is then not trusted, samples.
 */
const RESTLESS = 5
const DISTRUST = 10 * SAMPLES_PER_SECOND
/**
 * A new title is a new slide even when a figure below it stays: the part of the screen it stands in, and the share of
 * its content that has to be gone.
 */
const TITLE_ROWS = 0.25
const TITLE_LOST = 0.65
/** A row with content across more than this is a rule or a bar, and no part of a title. */
const RULE = 0.9
/** Fewer cells with content than this make an empty slide. */
const EMPTY = CELLS * 0.002
/** Content that has stood for less than this says nothing yet of what is lost, s. */
const FRESH = 2
/** How long before a change content has to have stood there to be the deck's own if it stays, s. */
const BEFORE = 1
/** How long all is looked at after a slide appeared, to learn what moves on it, s. */
const LEARN = 8
/** Two looks with no more between them than this share of the content, or of the title, gone show one slide. */
const PASSED = 0.2
/** As long as no less than this share of the content stands still. */
const TRUSTED = 0.4

export function slideDetector(): SlideDetector {
  const reference = { mean: new Int16Array(CELLS).fill(-1), contrast: new Int16Array(CELLS) }
  const previous = { mean: new Uint8Array(CELLS), contrast: new Uint8Array(CELLS) }
  const stillFor = new Int32Array(CELLS)
  /** How often a cell moved of late: rises with every movement, sinks with time. */
  const restless = new Float32Array(CELLS)
  const distrusted = new Int32Array(CELLS)
  /** Time at which each cell's reference was taken, s. */
  const taken = new Float64Array(CELLS)
  /** Time at which each cell was last like its reference, s. */
  const lastAlike = new Float64Array(CELLS)
  /**
   * Content that outlived the last change is the deck's own – a header, a logo, a footer – and says nothing of slides.
   */
  const template = new Uint8Array(CELLS)
  /** Cells with content in each row of the reference. */
  const inRow = new Int32Array(ROWS)
  const found: number[] = []
  let samples = 0
  let lastTime = 0

  const differs = (cell: number, mean: number, contrast: number) =>
    Math.abs(mean - (reference.mean[cell] as number)) > DIFFERS ||
    Math.abs(contrast - (reference.contrast[cell] as number)) > CONTRAST_DIFFERS

  return {
    pass(time, { mean, contrast }) {
      if (samples <= STILL || time - (found.at(-1) ?? 0) < LEARN) return false
      let contentAll = 0
      let content = 0
      let lost = 0
      let gained = 0
      let title = 0
      let stood = 0
      let gone = 0
      let titleLost = 0
      const moved: number[] = []
      for (let cell = 0; cell < CELLS; cell++) {
        const before = previous.contrast[cell] as number
        const now = contrast[cell] as number
        const different =
          Math.abs((mean[cell] as number) - (previous.mean[cell] as number)) > DIFFERS ||
          Math.abs(now - before) > CONTRAST_DIFFERS
        if (different) moved.push(cell)
        if (template[cell]) continue
        if (before > CONTENT) contentAll++
        if ((distrusted[cell] as number) > 0) continue
        if ((reference.mean[cell] as number) >= 0 && (reference.contrast[cell] as number) > CONTENT) {
          stood++
          if (differs(cell, mean[cell] as number, now)) gone++
        }
        const inTitle = cell < TITLE_ROWS * CELLS
        if (before > CONTENT) {
          content++
          if (different) lost++
          if (inTitle) title++
          if (inTitle && different) titleLost++
        } else if (different && now > CONTENT) gained++
      }
      const same =
        lost <= PASSED * content && titleLost <= PASSED * title && gained <= Math.max(EMPTY, PASSED * content)
      if (content < Math.max(EMPTY, TRUSTED * contentAll) || !same || gone > PASSED * stood) return false
      const passed = Math.round((time - lastTime) * SAMPLES_PER_SECOND)
      for (let cell = 0; cell < CELLS; cell++) {
        stillFor[cell] = (stillFor[cell] as number) + passed
        distrusted[cell] = Math.max(0, (distrusted[cell] as number) - passed)
        previous.mean[cell] = mean[cell] as number
        previous.contrast[cell] = contrast[cell] as number
        if ((reference.mean[cell] as number) >= 0 && !differs(cell, mean[cell] as number, contrast[cell] as number))
          lastAlike[cell] = time
      }
      for (const cell of moved) {
        stillFor[cell] = 0
        distrusted[cell] = DISTRUST
      }
      samples += passed
      lastTime = time
      return true
    },
    push(time, { mean, contrast }) {
      const first = samples === 0
      for (let cell = 0; cell < CELLS; cell++) {
        const m = mean[cell] as number
        const c = contrast[cell] as number
        const moved =
          !first &&
          (Math.abs(m - (previous.mean[cell] as number)) > DIFFERS / 2 ||
            Math.abs(c - (previous.contrast[cell] as number)) > CONTRAST_DIFFERS)
        stillFor[cell] = moved || first ? 0 : (stillFor[cell] as number) + 1
        restless[cell] = (restless[cell] as number) * 0.9 + (moved ? 1 : 0)
        if ((restless[cell] as number) > RESTLESS) distrusted[cell] = DISTRUST
        else if ((distrusted[cell] as number) > 0) distrusted[cell] = (distrusted[cell] as number) - 1
        previous.mean[cell] = m
        previous.contrast[cell] = c
        if ((reference.mean[cell] as number) >= 0 && !differs(cell, m, c)) lastAlike[cell] = time
      }
      samples++
      if (samples <= STILL) {
        lastTime = time
        if (first) found.push(time)
        return
      }
      let content = 0
      let lost = 0
      let gained = 0
      let titleContent = 0
      let titleLost = 0
      let contentAll = 0
      const lostSince: number[] = []
      inRow.fill(0)
      for (let cell = 0; cell < CELLS; cell++)
        if ((reference.contrast[cell] as number) > CONTENT)
          inRow[Math.floor(cell / COLUMNS)] = (inRow[Math.floor(cell / COLUMNS)] as number) + 1
      for (let cell = 0; cell < CELLS; cell++) {
        if ((reference.mean[cell] as number) < 0) continue
        const had = (reference.contrast[cell] as number) > CONTENT
        // What has just been built may be the next slide, over what is about to go.
        if (had && (template[cell] || (taken[cell] as number) > Math.max(0, time - FRESH))) continue
        if (had) contentAll++
        // What moves now, or has been moving, says nothing.
        if ((distrusted[cell] as number) > 0 || (stillFor[cell] as number) < STILL) continue
        const different = differs(cell, mean[cell] as number, contrast[cell] as number)
        if (had) {
          content++
          const inTitle = cell < TITLE_ROWS * CELLS && (inRow[Math.floor(cell / COLUMNS)] as number) <= RULE * COLUMNS
          if (inTitle) titleContent++
          if (different) {
            lost++
            if (inTitle) titleLost++
            lostSince.push(lastAlike[cell] as number)
          }
        } else if (different && (contrast[cell] as number) > CONTENT) {
          gained++
          if (contentAll < EMPTY) lostSince.push(lastAlike[cell] as number)
        }
      }
      const newTitle = titleContent > EMPTY && titleLost > TITLE_LOST * titleContent
      const changed =
        contentAll < EMPTY
          ? gained > 4 * EMPTY
          : content > Math.max(EMPTY, 0.2 * contentAll) && lost > EMPTY && (lost > LOST * content || newTitle)
      if (changed) {
        // The slide appeared just after most of what is gone was last seen.
        lostSince.sort((a, b) => a - b)
        const seen = lostSince[Math.floor(lostSince.length / 2)] ?? lastTime
        found.push(Math.min(time, seen + 1 / SAMPLES_PER_SECOND))
        for (let cell = 0; cell < CELLS; cell++) {
          // What came with the change, while the old slide was still there, is not the deck's own.
          const stays =
            (taken[cell] as number) < seen - BEFORE &&
            (reference.mean[cell] as number) >= 0 &&
            (reference.contrast[cell] as number) > CONTENT &&
            !differs(cell, mean[cell] as number, contrast[cell] as number)
          template[cell] = stays ? 1 : 0
        }
        reference.mean.fill(-1)
        distrusted.fill(0)
        restless.fill(0)
      }
      for (let cell = 0; cell < CELLS; cell++) {
        const still = (stillFor[cell] as number) >= STILL && (distrusted[cell] as number) === 0
        if (!still) continue
        const had = (reference.mean[cell] as number) >= 0
        // Unknown and empty cells take over what is built on them; content that slowly changed is taken over in the
        // end.
        if (
          !had ||
          (reference.contrast[cell] as number) <= CONTENT ||
          (stillFor[cell] as number) > 4 * SAMPLES_PER_SECOND
        ) {
          if (!had || differs(cell, mean[cell] as number, contrast[cell] as number)) taken[cell] = time
          reference.mean[cell] = mean[cell] as number
          reference.contrast[cell] = contrast[cell] as number
          lastAlike[cell] = time
        }
      }
      lastTime = time
    },
    finish: () => found,
  }
}
