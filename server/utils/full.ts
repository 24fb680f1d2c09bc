/** A disk without room, as a system says it and as a person is told. */

export const FULL =
  'The server’s disk is full, so that this could not be kept. Nothing that was kept before is lost; try again when there is room.'

/** Whether an error is one of a system that has no room left. */
export const isFull = (error: unknown): boolean =>
  typeof error === 'object' && error !== null && 'code' in error && ['ENOSPC', 'EDQUOT'].includes(String(error.code))
