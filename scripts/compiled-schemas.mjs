// Checks of schemas, made when the application is built: a page that needs no `unsafe-eval` runs no text as code.
import { fileURLToPath } from 'node:url'
import standalone from 'ajv/dist/standalone/index.js'
import { runnerImport } from 'vite'

const core = fileURLToPath(new URL('../core/', import.meta.url))
/** The module that makes checks where none were made before; in a page, what it is given is the check. */
const COMPILER = `${core}schema/compile.ts`
const GATE = `${core}schema/validate.ts`
/** The schemas themselves are of no more use then. */
const noSchemas = fileURLToPath(new URL('no-schemas.mjs', import.meta.url))
const PREFIX = '\0thaw-check:'

/** What a module of `core/` exports, by its path. */
const modules = new Map()
async function exportsOf(file) {
  if (!modules.has(file))
    modules.set(
      file,
      runnerImport(file, { configFile: false, logLevel: 'error' }).then(({ module }) => module),
    )
  return modules.get(file)
}

/** A module whose default export checks by a schema. @param {object} schema */
async function checkModule(schema) {
  const { newAjv } = await exportsOf(COMPILER)
  const ajv = newAjv({ source: true, esm: true, optimize: 1 })
  const imports = []
  const code = standalone
    .default(ajv, ajv.compile(schema))
    .replaceAll(/const (\w+) = require\("([^"]+)"\)\.default;/g, (_, name, from) => {
      // A module of before there was `export`: bundlers give its exports as the default one.
      imports.push(`import ${name}Module from '${from}.js'\nconst ${name} = ${name}Module.default ?? ${name}Module`)
      return ''
    })
  return [...imports, code].join('\n')
}

/** The calls of a function in a module. @returns {object[]} nodes of ESTree */
function callsOf(program, name) {
  const calls = []
  const walk = (node) => {
    if (node === null || typeof node !== 'object') return
    if (Array.isArray(node)) return node.forEach(walk)
    if (node.type === 'CallExpression' && node.callee.type === 'Identifier' && node.callee.name === name)
      calls.push(node)
    Object.values(node).forEach(walk)
  }
  walk(program.body)
  return calls
}

/** What a module imports, by the name that it has there. */
const importsOf = (program) =>
  new Map(
    program.body
      .filter((node) => node.type === 'ImportDeclaration')
      .flatMap(({ source, specifiers }) =>
        specifiers
          .filter((s) => s.type === 'ImportSpecifier')
          .map((s) => [s.local.name, { from: source.value, name: s.imported.name ?? s.imported.value }]),
      ),
  )

/**
 * Gives each `parseAs(Schema, …)` the check of that schema in its place.
 * @returns {import('vite').Plugin}
 */
export const compiledSchemas = () => ({
  name: 'thaw:compiled-schemas',
  enforce: 'post',
  config: () => ({ resolve: { alias: { '@sinclair/typebox': noSchemas } } }),
  resolveId: (id) => (id.startsWith(PREFIX) ? id : null),
  load(id) {
    if (id === COMPILER) return 'export const checkOf = (check) => check'
    if (!id.startsWith(PREFIX)) return null
    const [name, file] = id.slice(PREFIX.length, -'.js'.length).split(' ')
    return exportsOf(file).then((found) => {
      if (!found[name]) this.error(`${file} has to export ${name}: it is checked by where the application is built.`)
      return checkModule(found[name])
    })
  },
  async transform(code, id) {
    if (!code.includes('parseAs(') || id.startsWith(GATE) || id.includes('/node_modules/')) return null
    const program = this.parse(code)
    const imported = importsOf(program)
    const gate = imported.get('parseAs')
    if (!gate) return null
    const checks = new Map()
    const places = []
    for (const call of callsOf(program, 'parseAs')) {
      const [schema] = call.arguments
      if (schema?.type !== 'Identifier')
        this.error(`${id}: the schema of parseAs is named where a module of core/ exports it, not made on the spot.`)
      const known = imported.get(schema.name) ?? { from: id, name: schema.name }
      const file = (await this.resolve(known.from, id))?.id.replace(/\?.*$/, '') ?? ''
      if (!file.startsWith(core)) this.error(`${id}: ${schema.name} has to be exported by a module of core/.`)
      checks.set(schema.name, `${PREFIX}${known.name} ${file}.js`)
      places.push(schema)
    }
    let text = code
    for (const { start, end, name } of places.sort((a, b) => b.start - a.start))
      text = `${text.slice(0, start)}check$${name}${text.slice(end)}`
    for (const [name, module] of checks) text += `\nimport check$${name} from ${JSON.stringify(module)}`
    return { code: text, map: null }
  },
})
