import { fileURLToPath } from 'node:url'
import { beforeServer, moduleCounter } from './scripts/build-steps.mjs'
import { compiledSchemas } from './scripts/compiled-schemas.mjs'
import { entryLimit } from './scripts/entry-limit.mjs'
import { elementStyles } from './scripts/element-styles.mjs'
import { rooms } from './scripts/rooms.mjs'
import { workerUrls } from './scripts/worker-urls.mjs'

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  modules: ['@pinia/nuxt', '@element-plus/nuxt'],
  // Its components by name as they are used; their styles first, so that the theme comes after them.
  elementPlus: { importStyle: false, icon: false },
  devtools: { enabled: false },
  telemetry: false,
  alias: rooms,
  // By its syntax, not by its look: a variable that is called as one of Vue's functions hides it only where it stands.
  imports: { parser: 'oxc' },
  components: [{ path: '~/components', pathPrefix: false }],
  css: ['~/assets/fonts.css', ...elementStyles(), '~/assets/tokens.css', '~/assets/element.css', '~/assets/base.css'],
  app: {
    head: {
      title: 'Thaw',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/thaw.svg' }],
    },
  },
  hooks: {
    // What a page may need later is fetched then, or by a link that comes into sight: not all of it before the first page.
    'build:manifest'(manifest) {
      for (const file of Object.values(manifest)) {
        file.dynamicImports = []
        // Workers, of which the engine's is as large as all else.
        file.assets = file.assets?.filter((asset) => !/\.m?js$/.test(asset))
      }
    },
    'nitro:build:before': beforeServer,
  },
  // Vite makes styles small and fit for browsers by itself.
  postcss: { plugins: { autoprefixer: false, cssnano: false } },
  // The server's code stays readable as it is built.
  sourcemap: false,
  nitro: {
    // Not in a second way: it would take most of the build's time to press the segmenter's 13 MB.
    compressPublicAssets: { gzip: true, brotli: false },
    errorHandler: '~~/server/error',
    // What PDF files may need and do not bring along: typefaces, encodings of East Asian text, decoders of pictures.
    publicAssets: ['standard_fonts', 'cmaps', 'wasm'].map((folder) => ({
      dir: fileURLToPath(new URL(`node_modules/pdfjs-dist/${folder}`, import.meta.url)),
      baseURL: `/pdf/${folder}`,
      maxAge: 60 * 60 * 24,
    })),
  },
  vite: {
    plugins: [compiledSchemas(), moduleCounter(), entryLimit()],
    worker: { format: 'es', plugins: () => [workerUrls, compiledSchemas(), moduleCounter()] },
    build: { chunkSizeWarningLimit: 1500, reportCompressedSize: false },
  },
  typescript: {
    strict: true,
    tsConfig: {
      compilerOptions: { noUncheckedIndexedAccess: true, lib: ['ESNext', 'DOM', 'DOM.Iterable', 'DOM.AsyncIterable'] },
    },
  },
})
