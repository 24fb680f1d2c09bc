/** Languages of caption tracks: tags of BCP 47 and their names (ECMA-402 §12). */
import type { CaptionTrack } from '../schema/captions'

/** Languages that are offered; any other tag can be typed. */
export const LANGUAGES = [
  ...['ar', 'bn', 'ca', 'cs', 'cy', 'da', 'de', 'el', 'en', 'en-GB', 'en-US', 'es', 'es-419', 'et', 'eu', 'fa', 'fi'],
  ...['fr', 'fr-CA', 'ga', 'gl', 'he', 'hi', 'hr', 'hu', 'id', 'is', 'it', 'iu', 'ja', 'kl', 'ko', 'lt', 'lv', 'mi'],
  ...['nb', 'nl', 'nn', 'pl', 'pt', 'pt-BR', 'ro', 'ru', 'se', 'sk', 'sl', 'sr', 'sv', 'sw', 'ta', 'th', 'tr', 'uk'],
  ...['ur', 'vi', 'zh-Hans', 'zh-Hant'],
] as const

/** A tag as it is usually written (`EN-gb` → `en-GB`); null for what is none. */
export function readLanguage(tag: string): string | null {
  try {
    return /^[A-Za-z]{2,3}(-|$)/.test(tag.trim()) ? (Intl.getCanonicalLocales(tag.trim())[0] ?? null) : null
  } catch {
    // A RangeError says that it is no tag.
    return null
  }
}

const namesIn = new Map<string, Intl.DisplayNames>()

/**
 * A language by its name; a tag that is none stands for itself.
 * @param inLanguage the language of the name
 */
export function sayLanguage(tag: string, inLanguage = 'en'): string {
  const read = readLanguage(tag)
  if (!read) return tag
  const names =
    namesIn.get(inLanguage) ??
    new Intl.DisplayNames([readLanguage(inLanguage) ?? 'en'], { type: 'language', fallback: 'code' })
  namesIn.set(inLanguage, names)
  return names.of(read) ?? tag
}

/** A track as a person can tell it from others. */
export const sayTrack = ({ language, role = 'captions' }: Pick<CaptionTrack, 'language' | 'role'>): string =>
  `${sayLanguage(language)} ${role}`

/** What goes out of captions. */
export function sayTracks(tracks: readonly Pick<CaptionTrack, 'language' | 'role'>[]): string {
  if (tracks.length === 0) return 'no captions'
  return tracks.length === 1 && tracks[0]?.role !== 'translation' ? 'captions' : tracks.map(sayTrack).join(', ')
}
