/**
 * The one gate for data that crosses a border. A schema (TypeBox, which is JSON Schema) is compiled once by
 * Ajv; what passes is trusted from there on, what does not is refused with a sentence that names the place.
 */
import type { Static, TSchema } from '@sinclair/typebox'
import { Ajv, type ValidateFunction } from 'ajv'
import { RichTextSchema } from './rich-text'

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

// Only the first problem is looked for: nonsense of any size costs no more than reading up to it. A schema may also
// stand inside another; each is kept by its object, not by its $id.
const ajv = new Ajv({
  ...{ strict: true, allowUnionTypes: true, addUsedSchema: false, discriminator: true },
  // A set of questions names rich text in dozens of places: written out in each, and the code made shorter afterwards,
  // its check took 0.7 s to make rather than 25 ms, which whoever came first waited for.
  inlineRefs: false,
  code: { optimize: false },
})
ajv.addSchema(RichTextSchema)
const compiled = new WeakMap<TSchema, ValidateFunction>()

function compile(schema: TSchema): ValidateFunction {
  let check = compiled.get(schema)
  if (!check) compiled.set(schema, (check = ajv.compile(schema)))
  return check
}

/**
 * Checks `data` against `schema` and returns it typed.
 * @param what noun for the message, such as `edit document`
 * @throws {InvalidDocument} naming the place that does not fit
 */
export function parseAs<S extends TSchema>(schema: S, data: unknown, what: string): Static<S> {
  const check = compile(schema)
  if (check(data)) return data as Static<S>
  const problems = (check.errors ?? [])
    .filter((e) => e.keyword !== 'anyOf' && e.keyword !== 'const')
    .map((e) => {
      const extra = e.keyword === 'additionalProperties' ? ` (“${String(e.params.additionalProperty)}”)` : ''
      return `${e.instancePath || 'it'} ${e.message ?? 'does not fit'}${extra}`
    })
  throw new InvalidDocument(what, [...new Set(problems.length ? problems : ['it does not fit its schema'])])
}
