/** How words are said that the recogniser's dictionary does not have: by flite's rules from letters to sounds. */
import { access } from 'node:fs/promises'
import { runProgram } from './run'

const PROGRAM = '/usr/bin/t2p'

/** Sounds of flite that the dictionary writes otherwise. */
const other: Record<string, string> = {
  ax: 'AH',
  axr: 'ER',
  dx: 'T',
  nx: 'N',
  el: 'AH L',
  em: 'AH M',
  en: 'AH N',
  hv: 'HH',
}

/** Whether words can be said here that no dictionary has. */
export async function canPronounce(): Promise<boolean> {
  try {
    await access(PROGRAM)
    return true
  } catch {
    return false
  }
}

/** As the dictionary writes it (`M ER EY N`); empty when nothing can be said of it. */
export async function pronounce(word: string, signal: AbortSignal): Promise<string> {
  const said = await runProgram(PROGRAM, [word], signal)
  return said
    .trim()
    .split(/\s+/)
    .map((sound) => sound.replace(/\d$/, ''))
    .filter((sound) => sound && sound !== 'pau')
    .map((sound) => other[sound] ?? sound.toUpperCase())
    .join(' ')
}
