import { Type } from '@sinclair/typebox'
import { speechFolder } from '../../recogniser'
import { keepVocabulary } from '../../recogniser/vocabulary'

const Vocabulary = Type.Object(
  { lines: Type.Array(Type.String({ maxLength: 300 }), { maxItems: 10_000 }) },
  { additionalProperties: false },
)

/** Takes text of a course – terms, titles –, for what is recognised with `?vocabulary=ID` after that. */
export default defineEventHandler(async (event) => {
  await requireAuthor(event)
  const { lines } = await bodyAs(event, Vocabulary, 'vocabulary', 4 << 20)
  return { id: await keepVocabulary(speechFolder(), lines) }
})
