/** The service as a process of its own: `node captioning.mjs --port 3100 --data FOLDER [--pace SECONDS]`. */
import { execFile } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdir, mkdtemp, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs, promisify } from 'node:util'
import { toNodeListener } from 'h3'
import type { Word } from '../../core/schema/captions'
import { Word as WordSchema } from '../../core/schema/captions'
import { parseAs } from '../../core/schema/validate'
import { captioningService, KeptOrder } from './service'

const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '3100' },
    data: { type: 'string', default: '.data/captioning' },
    pace: { type: 'string', default: '10' },
    /** A program that listens, as docs/formats.md, “Speech”, has it. */
    listener: { type: 'string' },
  },
})
const folder = join(values.data, 'orders')
// Keys and lectures are nobody else's on the machine.
await mkdir(folder, { recursive: true, mode: 0o700 })

/** Replaces a file, whole or not at all. */
async function put(file: string, text: string): Promise<void> {
  const part = `${file}.${randomBytes(4).toString('hex')}.part`
  await writeFile(part, text, { mode: 0o600 })
  await rename(part, file)
}
const keyFile = join(values.data, 'key')
let key = await readFile(keyFile, 'utf8').catch(() => '')
if (!key) {
  key = randomBytes(12).toString('base64url')
  await put(keyFile, key)
}

const read = async (id: string): Promise<KeptOrder | null> => {
  let text: string
  try {
    text = await readFile(join(folder, `${id}.json`), 'utf8')
  } catch (error) {
    if ((error as { code?: string }).code === 'ENOENT') return null
    throw error
  }
  return parseAs(KeptOrder, JSON.parse(text), 'order')
}

async function listen(wav: Uint8Array, language: string): Promise<Word[]> {
  const at = await mkdtemp(join(tmpdir(), 'captioning-'))
  try {
    const file = join(at, 'sound.wav')
    await writeFile(file, wav)
    const program = values.listener ?? ''
    const { stdout } = await promisify(execFile)(process.execPath, [program, '--language', language, file], {
      maxBuffer: 1 << 26,
    })
    return stdout
      .split('\n')
      .filter(Boolean)
      .map((line) => parseAs(WordSchema, JSON.parse(line), 'word'))
  } finally {
    await rm(at, { recursive: true, force: true })
  }
}

const service = captioningService({
  orders: {
    read,
    write: (order) => put(join(folder, `${order.id}.json`), JSON.stringify(order)),
    async all() {
      const names = (await readdir(folder)).filter((n) => n.endsWith('.json'))
      const all = await Promise.all(names.map((n) => read(n.slice(0, -5))))
      return all.filter((o) => o !== null).sort((a, b) => a.order.dueAt.localeCompare(b.order.dueAt))
    },
  },
  account: 'Norrhaven Polar College',
  key,
  pace: Number(values.pace),
  now: () => new Date(),
  listen: values.listener ? listen : null,
})
createServer(toNodeListener(service)).listen(Number(values.port), () =>
  console.log(`Captioning service on http://localhost:${values.port}/`),
)
