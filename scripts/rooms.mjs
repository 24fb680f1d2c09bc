// The rooms that are imported by name, in one place for Nuxt, Vite (the player) and Vitest.
import { fileURLToPath } from 'node:url'

const at = (folder) => fileURLToPath(new URL(`../${folder}`, import.meta.url))

export const rooms = {
  '#core': at('core'),
  '#media': at('media'),
  '#standins': at('standins'),
  '#player': at('player'),
}
