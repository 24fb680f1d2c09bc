/** What axe finds wrong with a page, for those who do not see it or cannot use a mouse. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Frame, Page } from 'puppeteer-core'
import { atRest } from './at-rest'

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

interface Violation {
  id: string
  impact: string | null
  nodes: { html: string; failureSummary?: string }[]
}
/** The serious and critical ones, a line each, once nothing moves: colours that still fade have no contrast yet. */
export async function violations(target: Page | Frame): Promise<string[]> {
  await atRest(target)
  await target.evaluate(axe)
  const found = (await target.evaluate(
    'axe.run(document, { resultTypes: ["violations"], iframes: false }).then((r) => r.violations)',
  )) as Violation[]
  return found
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.nodes
          .map((n) => n.html.slice(0, 160))
          .slice(0, 3)
          .join(' | ')}`,
    )
}
