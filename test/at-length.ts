/**
 * What `npm test` leaves to `npm run trials`, so that it is done in a quarter of an hour: more of a kind of which one is
 * checked each time, what a core's own tests hold already, and recordings of more than a few seconds. Of each step of the
 * way something stays. Whole files lie in the folder beside this file.
 */
import { test } from 'vitest'

export const atLength = process.env.THAW_AT_LENGTH === '1'
/** A test that only the trials run. */
export const lengthy = test.runIf(atLength)
