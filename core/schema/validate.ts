/**
 * The one gate for data that crosses a border. A schema (TypeBox, which is JSON Schema) is compiled once by
 * Ajv; what passes is trusted from there on, what does not is refused with a sentence that names the place.
 */
import type { Static, TSchema } from '@sinclair/typebox'
import { checkOf } from './compile'

/** Data that does not fit its schema. `message` is a sentence for a person; `problems` has one line for each. */
export class InvalidDocument extends Error {
  override name = 'InvalidDocument'
  constructor(
    readonly what: string,
    readonly problems: string[],
  ) {
    super(
      `This ${what} cannot be used: ${problems.slice(0, 3).join('; ')}${problems.length > 3 ? `; and ${problems.length - 3} more` : ''}.`,
    )
  }
}

/**
 * Checks `data` against `schema` and returns it typed.
 * @param schema in what browsers get, a constant that a module of `core/` exports: its check is made when that is built
 * @param what noun for the message, such as `edit document`
 * @throws {InvalidDocument} naming the place that does not fit
 */
export function parseAs<S extends TSchema>(schema: S, data: unknown, what: string): Static<S> {
  const check = checkOf(schema)
  if (check(data)) return data as Static<S>
  const problems = (check.errors ?? [])
    .filter((e) => e.keyword !== 'anyOf' && e.keyword !== 'const')
    .map((e) => {
      const extra = e.keyword === 'additionalProperties' ? ` (“${String(e.params.additionalProperty)}”)` : ''
      return `${e.instancePath || 'it'} ${e.message ?? 'does not fit'}${extra}`
    })
  throw new InvalidDocument(what, [...new Set(problems.length ? problems : ['it does not fit its schema'])])
}
