import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'
import { rooms } from '../scripts/rooms.mjs'

// The engine with the command line's page, built on its own; the application bundles the same workers itself.
export default defineConfig({
  root: fileURLToPath(new URL('command', import.meta.url)),
  base: './',
  resolve: { alias: rooms },
  worker: { format: 'es' },
  build: { target: 'es2023', chunkSizeWarningLimit: 8000 },
})
