/** KaTeX with its style and letters, fetched when there is a formula. */
import katex from 'katex'
import 'katex/dist/katex.min.css'

/** Draws TeX into an element; what is none is shown as it is written, with the reason as its title. */
export function drawFormula(tex: string, into: HTMLElement, displayMode: boolean): void {
  into.title = ''
  try {
    katex.render(tex, into, {
      displayMode,
      throwOnError: false,
      trust: false,
      maxSize: 20,
      maxExpand: 500,
      strict: 'ignore',
    })
  } catch (error) {
    // Braces in braces without end are more than the stack holds, which KaTeX takes for no mistake in the formula.
    if (!(error instanceof RangeError)) throw error
    into.textContent = tex
    into.title = 'This formula is nested too deeply to be drawn.'
  }
}
