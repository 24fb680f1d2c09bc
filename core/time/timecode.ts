/**
 * Times as people read and type them: `m:ss`, `h:mm:ss`, with an optional fraction. One grammar for every
 * field in which a time can be typed.
 */

/**
 * Writes seconds as `m:ss` or `h:mm:ss`, with `decimals` digits after the point.
 * Rounds once, before splitting, so that 59.9996 s never prints as `0:60`.
 */
export function formatTimecode(seconds: number, decimals = 0): string {
  const scale = 10 ** decimals
  const units = Math.round(Math.max(0, seconds) * scale)
  const whole = Math.floor(units / scale)
  const fraction = decimals > 0 ? '.' + String(units % scale).padStart(decimals, '0') : ''
  const h = Math.floor(whole / 3600)
  const m = Math.floor(whole / 60) % 60
  const s = String(whole % 60).padStart(2, '0')
  return h > 0 ? `${h}:${String(m).padStart(2, '0')}:${s}${fraction}` : `${m}:${s}${fraction}`
}

/**
 * Reads `ss`, `m:ss` or `h:mm:ss`, each with an optional `.fraction` (a comma is accepted too).
 * @returns seconds, or `null` when the text is not a time (minutes or seconds over 59 behind a colon included).
 */
export function parseTimecode(text: string): number | null {
  const match = /^(?:(?:(\d{1,3}):)?(\d{1,3}):)?(\d{1,6})(?:[.,](\d{1,6}))?$/.exec(text.trim())
  if (!match) return null
  const [, h, m, s = '0', fraction] = match
  if (m !== undefined && (s.length !== 2 || Number(s) > 59)) return null
  if (h !== undefined && (m === undefined || m.length !== 2 || Number(m) > 59)) return null
  return Number(h ?? 0) * 3600 + Number(m ?? 0) * 60 + Number(s) + (fraction ? Number(`0.${fraction}`) : 0)
}

/** Says a length of time in words, for labels and screen readers: `1 h 4 min`, `3 min 20 s`, `0.4 s`. */
export function sayDuration(seconds: number): string {
  if (seconds < 10) return `${Math.round(seconds * 10) / 10} s`
  const whole = Math.round(seconds)
  const h = Math.floor(whole / 3600)
  const m = Math.floor(whole / 60) % 60
  const s = whole % 60
  if (h > 0) return m > 0 ? `${h} h ${m} min` : `${h} h`
  if (m > 0) return s > 0 ? `${m} min ${s} s` : `${m} min`
  return `${s} s`
}
