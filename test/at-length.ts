/**
 * What `npm test` leaves to `npm run trials`: more of a kind of which one is checked each time, and recordings of more
 * than a few seconds.
 */
import { test } from 'vitest'

export const atLength = process.env.THAW_AT_LENGTH === '1'
/** A test that only the trials run. */
export const lengthy = test.runIf(atLength)
