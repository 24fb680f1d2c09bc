/** Which recogniser this server uses, by its settings. */
import { resolve } from 'node:path'
import { program, service } from './outside'
import { pocketsphinx } from './pocketsphinx'
import type { Recogniser } from './recogniser'

/** Where sound lies while it is listened to; whatever a killed server left there is removed at the next start. */
export const speechFolder = (): string => resolve(process.env.THAW_DATA ?? '.data', 'speech')

/**
 * `THAW_RECOGNISER` is the path of a program or the address of a service, and `THAW_RECOGNISER_LANGUAGES` which ones it knows
 * (`en,fr`; all when left out). Without them, Debian's pocketsphinx is used where it is installed.
 */
export function chooseRecogniser(settings: NodeJS.ProcessEnv = process.env): Recogniser {
  const own = settings.THAW_RECOGNISER
  const languages = (settings.THAW_RECOGNISER_LANGUAGES ?? '').split(/[\s,]+/).filter(Boolean)
  if (!own) return pocketsphinx()
  return /^https?:\/\//i.test(own) ? service(own, languages) : program(own, languages)
}
