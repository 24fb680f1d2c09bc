// The stylesheets of those Element Plus components that the application uses: all of them are 42 kB as they are served.
import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { join } from 'node:path'

const root = fileURLToPath(new URL('..', import.meta.url))
const components = join(root, 'node_modules/element-plus/es/components')
const kebab = (name) => name.replaceAll(/(?<!^)[A-Z]/g, '-$&').toLowerCase()

/** Names of the components in a source, as their folders are called. */
export const componentsIn = (source) => [
  ...[...source.matchAll(/<el-([a-z][a-z\d-]*)/g)].map(([, name]) => name),
  ...[...source.matchAll(/\bEl([A-Z]\w+)/g)].map(([, name]) => kebab(name)),
]

/** Stylesheets of a component, of those it is made of first. */
function stylesOf(name, seen = new Set()) {
  if (seen.has(name)) return []
  seen.add(name)
  const style = join(components, name, 'style/css.mjs')
  if (!existsSync(style)) throw new Error(`Element Plus has no component “${name}”.`)
  return [...readFileSync(style, 'utf8').matchAll(/^import "([^"]+)"/gm)].flatMap(([, from]) =>
    from.endsWith('.css') ? [from] : stylesOf(from.split('/').at(-3), seen),
  )
}

/** For the `css` of Nuxt’s configuration: what all components below `app/` need, each once. */
export function elementStyles() {
  const sources = readdirSync(join(root, 'app'), { recursive: true, encoding: 'utf8' }).filter((path) =>
    /(?<!\.test)\.(vue|ts)$/.test(path),
  )
  const used = new Set(sources.flatMap((path) => componentsIn(readFileSync(join(root, 'app', path), 'utf8'))))
  return [...new Set([...used].sort().flatMap((name) => stylesOf(name)))]
}
