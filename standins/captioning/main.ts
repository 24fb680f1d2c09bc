/** The service as a process of its own: `node captioning.mjs --port 3100 --data FOLDER [--pace SECONDS]`. */
import { execFile } from 'node:child_process'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs, promisify } from 'node:util'
import type { Word } from '../../core/schema/captions'
import { Word as WordSchema } from '../../core/schema/captions'
import { parseAs } from '../../core/schema/validate'
import { documents, keptSecret } from '../documents'
import { serveHere } from '../serve'
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
const orders = await documents(join(values.data, 'orders'), KeptOrder)
const key = await keptSecret(join(values.data, 'key'))

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
    read: (id) => orders.read(id),
    write: (order) => orders.write(order.id, order),
    async all() {
      const all = await Promise.all((await orders.ids()).map((id) => orders.read(id)))
      return all.filter((o) => o !== null).sort((a, b) => a.order.dueAt.localeCompare(b.order.dueAt))
    },
  },
  account: 'A practice account',
  key,
  pace: Number(values.pace),
  now: () => new Date(),
  listen: values.listener ? listen : null,
})
serveHere(service, Number(values.port), 'Captioning service')
