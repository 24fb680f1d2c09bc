import { fileURLToPath } from 'node:url'
import { defineConfig, type TestProjectConfiguration, type TestUserConfig } from 'vitest/config'
import { rooms } from './scripts/rooms.mjs'
import { ByChance } from './scripts/by-chance.mjs'

const unit = (name: string, folders: string, options: TestUserConfig = {}): TestProjectConfiguration => ({
  resolve: { alias: { ...rooms, '~': fileURLToPath(new URL('app', import.meta.url)) } },
  test: {
    name,
    environment: 'node',
    include: [`${folders}/**/*.test.ts`],
    // What is kept is flushed to the disk, and some disks take their time for each of hundreds of flushes.
    testTimeout: 60_000,
    hookTimeout: 60_000,
    ...options,
  },
})

const endToEndWorkers = Number(process.env.THAW_TEST_WORKERS ?? 1)

export default defineConfig({
  test: {
    sequence: { sequencer: ByChance },
    projects: [
      // Pure rooms share what they import: nothing in them is replaced or set by a test.
      unit('unit', '{core,media,player}', { isolate: false }),
      unit('unit-apart', '{server,standins,app,scripts}'),
      {
        resolve: { alias: rooms },
        test: {
          name: 'engine',
          environment: 'node',
          include: ['test/engine/**/*.engine.ts'],
          globalSetup: 'test/engine/build.ts',
          testTimeout: 300_000,
          hookTimeout: 300_000,
          maxWorkers: 2,
        },
      },
      {
        resolve: { alias: rooms },
        test: {
          name: 'trials',
          environment: 'node',
          include: ['test/trials/**/*.trial.ts'],
          globalSetup: 'test/serve.ts',
          testTimeout: 7_200_000,
          hookTimeout: 120_000,
          expect: { poll: { timeout: 20_000 } },
          fileParallelism: false,
        },
      },
      {
        resolve: { alias: rooms },
        test: {
          name: 'e2e',
          environment: 'node',
          include: ['test/*.e2e.ts', 'test/at-length/*.e2e.ts'],
          globalSetup: 'test/serve.ts',
          testTimeout: 300_000,
          hookTimeout: 120_000,
          // What is asked again and again comes when the machine gets to it.
          expect: { poll: { timeout: 20_000 } },
          // Each worker has a server of its own: one is enough for a single file.
          fileParallelism: endToEndWorkers > 1,
          maxWorkers: endToEndWorkers,
          // The way is walked step by step: what follows a step that failed says nothing.
          bail: 1,
        },
      },
    ],
  },
})
