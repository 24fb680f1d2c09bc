import { readdirSync, readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { pictures } from './pictures.mjs'

const read = (path: string) => readFileSync(new URL(`../${path}`, import.meta.url), 'utf8')
const names = Object.keys(pictures).sort()

it('there is a picture for each that is told of, and no other; fewer than twenty', () => {
  const there = readdirSync(new URL('../docs/screenshots', import.meta.url)).map((name) => name.replace('.png', ''))
  expect(there.sort()).toEqual(names)
  expect(names.length).toBeLessThan(20)
})
it('the README shows each once', () => {
  const shown = [...read('README.md').matchAll(/\(docs\/screenshots\/([\w-]+)\.png\)/g)].map(([, name]) => name)
  expect(shown.sort()).toEqual(names)
})
it('each is taken anew by npm run screenshots', () => {
  const script = read('scripts/screenshots.mjs')
  for (const name of names) expect(script, name).toContain(`'${name}'`)
})
