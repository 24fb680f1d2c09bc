/** An instant as the reader's own calendar and clock say it. */
export const sayInstant = (iso: string): string =>
  new Date(iso).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
