import vue from '@vitejs/plugin-vue'
import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'
import { rooms } from '../scripts/rooms.mjs'

// The student player is built on its own, into the app's public folder, and stays small.
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  base: '/player/',
  plugins: [vue()],
  resolve: {
    alias: { ...rooms, '@sinclair/typebox': fileURLToPath(new URL('../scripts/no-schemas.mjs', import.meta.url)) },
  },
  define: { __VUE_OPTIONS_API__: 'false', __VUE_PROD_DEVTOOLS__: 'false' },
  build: { outDir: '../public/player', emptyOutDir: true, target: 'es2022', reportCompressedSize: false },
})
