import { chooseRecogniser } from '../../recogniser'

/** Whether speech of a language (`?language=en`) can be recognised here, and if not, how to make it so. */
export default defineEventHandler(async (event) => {
  const recogniser = chooseRecogniser()
  const says =
    (await recogniser.problem()) ||
    (recogniser.knows(languageQuery(event))
      ? ''
      : 'The speech recogniser of this server does not know the language of this lecture.')
  return { available: says === '', says }
})
