import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { chmodSync, existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { afterAll, afterEach, describe, expect, it, vi } from 'vitest'
import { readWavHeader, writeWav } from '#core/sound/wav'
import type { Word } from '#core/schema/captions'
import { recorded } from '#core/time/units'
import { chooseRecogniser } from '.'
import { hear } from './hear'
import { program, readWords, service } from './outside'
import { pocketsphinx } from './pocketsphinx'
import type { Recogniser } from './recogniser'

const folder = mkdtempSync(join(tmpdir(), 'thaw-recogniser-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

function script(text: string): string {
  const path = join(folder, `p${Math.random().toString(36).slice(2)}`)
  writeFileSync(path, `#!/bin/sh\n${text}\n`)
  chmodSync(path, 0o755)
  return path
}
/** A file of so many seconds that are loud (`#`) or silent (`.`). */
function sound(text: string) {
  const samples = Int16Array.from({ length: text.length * 16_000 }, (_, i) =>
    text[Math.floor(i / 16_000)] === '#' ? 8000 * Math.sin(i / 7) : i % 3,
  )
  const bytes = writeWav(new Uint8Array(samples.buffer), 16_000)
  const file = join(folder, 'speech.wav')
  writeFileSync(file, bytes)
  return { file, header: readWavHeader(bytes), seconds: text.length }
}
const word = (text: string, from: number, to: number): Word => ({
  text,
  from: recorded(from),
  to: recorded(to),
  confidence: 1,
})
const never = new AbortController().signal
const piece = { file: '/x.wav', language: 'en' }

describe('what a recogniser hears piece by piece', () => {
  const fake = (read: Recogniser['read']): Recogniser => ({ problem: async () => '', knows: () => true, read })
  const all = async (recogniser: Recogniser, text = '#..#..#..#', signal = never, from = 0) => {
    const { file, header } = sound(text)
    const heard = []
    for await (const part of hear(file, header, recogniser, { language: 'en', cores: 2, from }, signal))
      heard.push(part)
    return heard
  }
  it('is given in the time of the whole and in its order, however long each takes', async () => {
    const heard = await all(
      fake(async ({ file }) => {
        const mine = Number(/piece-(\d+)/.exec(file)?.[1])
        await new Promise((resolve) => setTimeout(resolve, mine % 2 ? 5 : 40))
        return [word(`w${mine}`, 0.2, 9)]
      }),
    )
    expect(heard.flatMap((h) => h.words).map(({ text, from, to }) => [text, from, to])).toEqual([
      ['w0', 0.2, 1.2],
      ['w1', 3, 4.2],
      ['w2', 6, 7.2],
      ['w3', 9, 10],
    ])
    expect(heard.at(-1)?.until).toBe(10)
    expect(readdirSync(folder).filter((name) => name.startsWith('piece'))).toEqual([])
  })
  it('goes on where it stopped', async () => {
    const say = fake(async () => [word('so', 0.3, 0.6)])
    const whole = await all(say)
    expect(await all(say, '#..#..#..#', never, whole[1]?.until)).toEqual(whole.slice(2))
    expect(await all(say, '#..#..#..#', never, 10)).toEqual(whole.slice(-1))
  })
  it('lacks a piece that fails twice, and says so', async () => {
    const tries = new Map<string, number>()
    const heard = await all(
      fake(async ({ file }) => {
        const before = tries.get(file) ?? 0
        tries.set(file, before + 1)
        if (file.includes('-1') || (file.includes('-2') && before === 0)) throw new Error('it fell over')
        return [word('so', 0.3, 0.6)]
      }),
    )
    expect(heard.flatMap((h) => h.words)).toHaveLength(3)
    expect(heard.filter((h) => h.missed).map((h) => h.missed)).toEqual([{ from: 2.8, to: 4.2, says: 'it fell over' }])
  })
  it('is nothing when the recogniser does not work at all', async () => {
    await expect(
      all(
        fake(async () => {
          throw new Error('no model')
        }),
      ),
    ).rejects.toThrow('no model')
  })
  it('ends when nobody waits any more', async () => {
    const abort = new AbortController()
    setTimeout(() => abort.abort(), 50)
    await expect(
      all(
        fake(
          (_, signal) => new Promise((_, reject) => signal.addEventListener('abort', () => reject(new Error('end')))),
        ),
        '#..#',
        abort.signal,
      ),
    ).rejects.toThrow()
  }, 20_000)
  it('is empty where nobody speaks', async () => {
    expect(
      await all(
        fake(() => Promise.reject(new Error('not asked'))),
        '....',
      ),
    ).toEqual([{ words: [], until: 4 }])
  })
})

describe('pocketsphinx', () => {
  it('that is not installed is said to be missing', async () => {
    expect(await pocketsphinx(join(folder, 'nothing')).problem()).toContain('apt-get install pocketsphinx')
  })
  it('that fails says so with what it complained of, and leaves nothing behind', async () => {
    const { file } = sound('#')
    const failing = pocketsphinx(script('echo "no model" >&2; exit 3'))
    await expect(failing.read({ file, language: 'en' }, never)).rejects.toThrow(
      'The speech recogniser stopped (3). no model',
    )
    expect(readdirSync(folder).filter((name) => name.startsWith('read-'))).toEqual([])
  })
  it('knows English only', () => {
    expect(['en', 'en-GB', 'fr', 'enm'].map(pocketsphinx().knows)).toEqual([true, true, false, false])
  })
})

describe('a recogniser of one’s own', () => {
  const answer =
    '{"text":"snow","from":0.5,"to":0.8,"confidence":0.9,"alternatives":["no"]}\n\n{"text":"the","from":0.1,"to":0.4,"confidence":1}\n'
  it('is chosen by settings', async () => {
    expect(await chooseRecogniser({ THAW_RECOGNISER: '/nothing/here' }).problem()).toContain('/nothing/here')
    const french = chooseRecogniser({ THAW_RECOGNISER: 'http://localhost:1', THAW_RECOGNISER_LANGUAGES: 'fr, pt-BR' })
    expect(['fr-CA', 'pt', 'en'].map(french.knows)).toEqual([true, true, false])
    expect(chooseRecogniser({ THAW_RECOGNISER: 'HTTPS://x' }).knows('zh-Hans')).toBe(true)
  })
  it('as a program is called with language and file', async () => {
    const own = program(
      script(`test "$1 $2 $3" = "--language en /x.wav" && printf '${answer.replaceAll('\n', '\\n')}'`),
      [],
    )
    expect(await own.problem()).toBe('')
    expect((await own.read(piece, never)).map((w) => w.text)).toEqual(['the', 'snow'])
  })
  it.each([
    ['{"text":"a"}', 'Line 1'],
    ['{"text":"a","from":0,"to":1,"confidence":1}\nhello', 'Line 2'],
    ['{"text":"a","from":2,"to":1,"confidence":1}', 'ends before it begins'],
    ['{"text":"a","from":0,"to":1,"confidence":7}', 'Line 1'],
  ])('that answers %s is told which line is wrong', (text, says) => {
    expect(() => readWords(text)).toThrow(says)
  })
  it('that prints without end is ended', async () => {
    await expect(
      program(script('yes 0123456789012345678901234567890123456789'), []).read(piece, never),
    ).rejects.toThrow('it said too much')
  })
  it('that hangs is ended with what it started', async () => {
    const mark = join(folder, 'lived')
    const abort = new AbortController()
    setTimeout(() => abort.abort(), 100)
    await expect(program(script(`sleep 1; touch ${mark}`), []).read(piece, abort.signal)).rejects.toThrow()
    await new Promise((resolve) => setTimeout(resolve, 1300))
    expect(existsSync(mark)).toBe(false)
  }, 20_000)

  describe('as a service', () => {
    let server: Server | undefined
    afterEach(() => server?.close())
    afterEach(() => vi.unstubAllEnvs())
    const serving = (status: number, body: string) =>
      new Promise<{ address: string; asked: string[] }>((resolve) => {
        const asked: string[] = []
        server = createServer((request, response) => {
          const headers = { 'content-type': request.headers['content-type'] ?? '' }
          const whole = new Response(Readable.toWeb(request) as ReadableStream, { headers })
          void whole.formData().then(async (form) => {
            const [sound, words] = ['sound', 'vocabulary'].map((name) => form.get(name) as File | null)
            asked.push([request.method, request.url, form.get('language'), await words?.text(), sound?.size].join(' '))
            response.writeHead(status).end(body)
          })
        }).listen(0, () =>
          resolve({ address: `http://localhost:${(server?.address() as AddressInfo).port}/words?key=k`, asked }),
        )
      })
    it('is posted the sound, the language and the course’s words', async () => {
      const { address, asked } = await serving(200, answer)
      const { file } = sound('#')
      const vocabulary = join(folder, 'words.txt')
      writeFileSync(vocabulary, 'firn\nmoraine')
      expect(await service(address, []).read({ file, language: 'pt-BR', vocabulary }, never)).toHaveLength(2)
      expect(asked).toEqual(['POST /words?key=k pt-BR firn\nmoraine 32044'])
    })
    it('that refuses, answers nonsense or is not there is told of in a sentence', async () => {
      const { file } = sound('#')
      const read = (address: string) => service(address, []).read({ file, language: 'en' }, never)
      await expect(read((await serving(500, 'oh')).address)).rejects.toThrow(/answered 500/)
      server?.close()
      await expect(read((await serving(200, 'oh')).address)).rejects.toThrow('Line 1')
      await expect(read('http://localhost:1/')).rejects.toThrow('cannot be reached')
    })
  })
})
