/** What of a page cannot be reached: outside the window where nothing scrolls to it, or under another thing. */
import type { Frame, Page } from 'puppeteer-core'
import { atRest } from './at-rest'

/**
 * Everything that can be pressed or written into is measured where it stands, and where it lies in something that scrolls,
 * after it was scrolled to. What is placed along the time line or on the picture may lie over one another, and is left out.
 * @returns a line for each that cannot be reached, and for each pane that is wider than its place
 */
export async function outOfReach(target: Page | Frame): Promise<string[]> {
  await atRest(target)
  return target.evaluate(() => {
    const found: string[] = []
    const nameOf = (e: Element) =>
      `${e.tagName.toLowerCase()} “${(e.getAttribute('aria-label') ?? e.textContent ?? '').trim().slice(0, 40)}”`
    const overlay = [...document.querySelectorAll('.el-overlay')].filter((e) => e.checkVisibility()).at(-1)
    const root: Element = overlay ?? document.body
    const placed = '.time-line, .lanes, .picture, .frame, [role=slider], .timeline'
    const control =
      'label, .el-input, .el-select, .el-switch, .el-radio, .el-checkbox, .el-slider, .el-input-number, .el-date-editor, .el-textarea, .el-color-picker, .el-radio-button'
    for (const e of root.querySelectorAll<HTMLElement>(
      'button, a[href], input:not([type=hidden]), select, textarea, [role=button], [role=tab], [role=checkbox]',
    )) {
      if (!e.checkVisibility({ visibilityProperty: true }) || e.closest(placed) || e.closest('.unseen, .skip')) continue
      // A styled field hides its input: what is drawn around it counts.
      let shown: HTMLElement = e
      while (shown.getBoundingClientRect().width < 6 && shown.parentElement) shown = shown.parentElement
      shown.scrollIntoView({ block: 'nearest', inline: 'nearest' })
      const { left, right, top, bottom } = shown.getBoundingClientRect()
      if (left < -1 || top < -1 || right > innerWidth + 1 || bottom > innerHeight + 1) {
        found.push(`${nameOf(e)} lies at ${[left, top, right, bottom].map(Math.round).join()}, outside the window`)
        continue
      }
      const hit = document.elementFromPoint((left + right) / 2, (top + bottom) / 2)
      if (!hit || shown.contains(hit) || hit.contains(shown) || hit.closest(control)?.contains(e)) continue
      found.push(`${nameOf(e)} lies under ${nameOf(hit)}`)
    }
    for (const pane of root.querySelectorAll<HTMLElement>('aside, .el-dialog, .el-dialog__body, main, .scroll')) {
      const { overflowX } = getComputedStyle(pane)
      if (
        pane.checkVisibility() &&
        pane.scrollWidth > pane.clientWidth + 1 &&
        !(overflowX === 'auto' && pane.tagName === 'DIV')
      )
        found.push(
          `${pane.tagName.toLowerCase()}.${pane.className} is ${pane.scrollWidth} px wide in ${pane.clientWidth}`,
        )
    }
    if (document.documentElement.scrollWidth > innerWidth + 1)
      found.push(`the page is ${document.documentElement.scrollWidth} px wide in ${innerWidth}`)
    return [...new Set(found)]
  })
}
