/**
 * Makes the demo term's media and caption drafts: `npx tsx demo/make-media.ts [NAME…]`. Needs Debian's flite,
 * ffmpeg, pocketsphinx, pocketsphinx-en-us and chromium. What it makes is committed, so that nobody else needs them.
 */
import { execFile } from 'node:child_process'
import { createServer } from 'node:http'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { fileURLToPath } from 'node:url'
import { build } from 'vite'
import { reflow } from '../core/captions/reflow'
import { newTrack } from '../core/captions/track'
import type { Word } from '../core/schema/captions'
import { readWavHeader, writeWav } from '../core/sound/wav'
import { launchChromium } from '../scripts/chromium.mjs'
import { hear } from '../server/recogniser/hear'
import { pocketsphinx } from '../server/recogniser/pocketsphinx'
import type { TimedDeck } from '../standins/hall/deck'
import { decks } from './decks'

const run = promisify(execFile)
const RATE = 16_000
const out = fileURLToPath(new URL('../public/demo/media/', import.meta.url))

/** Seconds of room before the first word, between slides, and after the last: what tidying takes out. */
const room = { before: 2.5, between: 0.9, after: 3 }

async function speak(text: string, folder: string): Promise<Int16Array> {
  const wav = join(folder, 'say.wav')
  await run('flite', ['-voice', 'slt', '-t', text, '-o', wav])
  const bytes = await readFile(wav)
  return new Int16Array(bytes.buffer, bytes.byteOffset + 44, (bytes.length - 44) >> 1).slice()
}

/**
 * A quiet room instead of digital silence: a small generator with a fixed seed, so that a second run gives the same
 * file.
 */
function addRoomTone(samples: Int16Array): void {
  let seed = 7
  for (let i = 0; i < samples.length; i++) {
    seed = (Math.imul(seed, 1_103_515_245) + 12_345) >>> 0
    samples[i] = Math.max(-32768, Math.min(32767, (samples[i] ?? 0) + ((seed >>> 16) % 13) - 6))
  }
}

/** Recognises the encoded sound, brought to 16 kHz mono, as the application sends it. */
async function recognise(sound: string, folder: string): Promise<ReturnType<typeof newTrack>> {
  const wav = join(folder, 'recognise.wav')
  await run('ffmpeg', ['-v', 'error', '-y', '-i', sound, '-ar', String(RATE), '-ac', '1', wav])
  const words: Word[] = []
  const header = readWavHeader(new Uint8Array(await readFile(wav)))
  for await (const heard of hear(wav, header, pocketsphinx(), { language: 'en' }, new AbortController().signal))
    words.push(...heard.words)
  let id = 0
  return newTrack({ cues: reflow(words, () => `cue-${++id}`) }, 'recogniser')
}

async function main(names: string[]): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'thaw-demo-'))
  await mkdir(out, { recursive: true })
  const bundle = await build({
    logLevel: 'error',
    configFile: false,
    build: {
      write: false,
      lib: { entry: fileURLToPath(new URL('studio.ts', import.meta.url)), formats: ['iife'], name: 'studio' },
    },
  })
  const code = (Array.isArray(bundle) ? bundle[0] : bundle) as { output: { code: string }[] }
  const server = createServer((_, res) =>
    res.setHeader('content-type', 'text/html').end('<!doctype html><title>studio</title>'),
  ).listen(0)
  const address = server.address()
  const browser = await launchChromium()
  try {
    for (const name of names) {
      const deck = decks[name]
      if (!deck) throw new Error(`There is no deck called ${name}; there are ${Object.keys(decks).join(', ')}.`)
      const spoken = await Promise.all(
        deck.slides.map((s, i) =>
          mkdir(join(folder, String(i)), { recursive: true }).then(() => speak(s.says, join(folder, String(i)))),
        ),
      )
      const starts: number[] = []
      let at = room.before
      for (const samples of spoken) {
        starts.push(starts.length ? at - room.between / 2 : 0)
        at += samples.length / RATE + room.between
      }
      const duration = Math.ceil((at - room.between + room.after) * 10) / 10
      const all = new Int16Array(Math.round(duration * RATE))
      at = room.before
      for (const samples of spoken) {
        all.set(samples, Math.round(at * RATE))
        at += samples.length / RATE + room.between
      }
      addRoomTone(all)
      const wav = join(folder, `${name}.wav`)
      await writeFile(wav, writeWav(new Uint8Array(all.buffer, all.byteOffset, all.byteLength), RATE))
      const timed: TimedDeck = { ...deck, starts: starts.map((s) => Math.round(s * 1000) / 1000), duration }
      const page = await browser.newPage()
      await page.goto(`http://localhost:${typeof address === 'object' && address ? address.port : 0}/`)
      await page.addScriptTag({ content: code.output[0]?.code ?? '' })
      const made = (await page.evaluate(
        (d, w) =>
          (
            globalThis as unknown as { makeLecture(d: unknown, w: string): Promise<Record<string, string>> }
          ).makeLecture(d, w),
        timed,
        (await readFile(wav)).toString('base64'),
      )) as Record<string, string>
      await page.close()
      for (const [feed, data] of Object.entries(made))
        await writeFile(join(out, `${name}-${feed}.mp4`), Buffer.from(data, 'base64'))
      await writeFile(join(out, `${name}.deck.json`), JSON.stringify(timed, null, 1) + '\n')
      await writeFile(
        join(out, `${name}.captions.json`),
        JSON.stringify(await recognise(join(out, `${name}-sound.mp4`), folder)) + '\n',
      )
      console.log(`${name}: ${duration} s`)
    }
  } finally {
    await browser.close()
    server.close()
    await rm(folder, { recursive: true, force: true })
  }
}

await main(process.argv.length > 2 ? process.argv.slice(2) : Object.keys(decks))
