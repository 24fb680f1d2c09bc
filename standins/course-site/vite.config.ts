import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vite'

// The course site that ships, as one program: it stands for another house's, and is a process of its own.
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  build: {
    ssr: 'main.ts',
    outDir: fileURLToPath(new URL('../../.build/course-site', import.meta.url)),
    emptyOutDir: true,
    target: 'node20',
    rollupOptions: { output: { entryFileNames: 'course-site.mjs' } },
  },
})
