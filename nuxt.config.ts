import { rooms } from './scripts/rooms.mjs'
import { workerUrls } from './scripts/worker-urls.mjs'

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  modules: ['@pinia/nuxt', '@element-plus/nuxt'],
  // Its components by name as they are used; its styles whole and first, so that the theme comes after them.
  elementPlus: { importStyle: false, icon: false },
  devtools: { enabled: false },
  telemetry: false,
  alias: rooms,
  components: [{ path: '~/components', pathPrefix: false }],
  css: [
    '~/assets/fonts.css',
    'element-plus/dist/index.css',
    '~/assets/tokens.css',
    '~/assets/element.css',
    '~/assets/base.css',
  ],
  app: {
    head: {
      title: 'Thaw',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/thaw.svg' }],
    },
  },
  nitro: { compressPublicAssets: { gzip: true }, errorHandler: '~~/server/error' },
  vite: { worker: { format: 'es', plugins: () => [workerUrls] }, build: { chunkSizeWarningLimit: 1500 } },
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: { noUncheckedIndexedAccess: true, lib: ['ESNext', 'DOM', 'DOM.Iterable', 'DOM.AsyncIterable'] },
    },
  },
})
