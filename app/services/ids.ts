/** New identifiers: safe in a path, a URL and a WebVTT identifier. */
import { nanoid } from 'nanoid'

export const newId = (): string => nanoid(16)
export const nowInstant = (): string => new Date().toISOString()
