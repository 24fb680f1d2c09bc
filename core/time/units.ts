/**
 * The two clocks of a lecture. `RecordedTime` runs along what was recorded, `ResultTime` along what a
 * viewer sees after the edit. Both are plain numbers in seconds, branded so that only the time map
 * (`time-map.ts`) can turn one into the other.
 */
declare const clock: unique symbol

/** Seconds from the first instant of the recording. */
export type RecordedTime = number & { readonly [clock]: 'recorded' }
/** Seconds from the first instant of the edited result. */
export type ResultTime = number & { readonly [clock]: 'result' }

/** Marks a number read at a border (a file, a media element, a form) as seconds of recorded time. */
export const recorded = (seconds: number): RecordedTime => seconds as RecordedTime
/** Marks a number read at a border as seconds of result time. */
export const result = (seconds: number): ResultTime => seconds as ResultTime

/** Half-open stretch of result time, `from` ≤ t < `to`, in seconds. */
export interface ResultRange {
  from: ResultTime
  to: ResultTime
}

/** Half-open stretch of recorded time, `from` ≤ t < `to`, in seconds. */
export interface RecordedRange {
  from: RecordedTime
  to: RecordedTime
}
