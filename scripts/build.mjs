// npm run build: the player and the application, when something changed.
import { buildWhenStale } from './setup.mjs'

await buildWhenStale()
