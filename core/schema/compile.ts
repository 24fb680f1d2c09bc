/**
 * Makes the check of a schema with Ajv. In what is built for browsers this file is left out: there the checks were made
 * when it was built (`scripts/compiled-schemas.mjs`), as a page that may make code of text runs whatever text gets in.
 */
import type { TSchema } from '@sinclair/typebox'
import { Ajv, type CodeOptions, type ValidateFunction } from 'ajv'
import { RichTextSchema } from './rich-text'

/**
 * Only the first problem is looked for: nonsense of any size costs no more than reading up to it. A schema may also stand
 * inside another; each is kept by its object, not by its $id.
 */
export function newAjv(code: CodeOptions): Ajv {
  const ajv = new Ajv({
    ...{ strict: true, allowUnionTypes: true, addUsedSchema: false, discriminator: true },
    // A set of questions names rich text in dozens of places: written out in each, its check is six times as long.
    inlineRefs: false,
    code,
  })
  ajv.addSchema(RichTextSchema)
  return ajv
}

// The code made shorter afterwards, a check of questions took 0.7 s to make rather than 25 ms, which whoever came first
// waited for.
const ajv = newAjv({ optimize: false })
const made = new WeakMap<TSchema, ValidateFunction>()

/** The check of a schema, made when it is first asked for. */
export function checkOf(schema: TSchema): ValidateFunction {
  let check = made.get(schema)
  if (!check) made.set(schema, (check = ajv.compile(schema)))
  return check
}
