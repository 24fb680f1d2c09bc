// How long the recogniser takes for speech: a made talk is sent to the server as the desk sends it, and recognised on
// all cores; beside it, the same program on one core alone, for a part of it.
import { execFileSync } from 'node:child_process'
import { cpus, tmpdir } from 'node:os'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { buildWhenStale, installDebian } from '../setup.mjs'
import { KEY, startServer } from './server.mjs'

const TEXT = [
  'Snow that falls in winter becomes ice. The surface melts in summer, and water finds its way to the bed.',
  'We measure the depth of the snow every week. Old ice is blue because the air has left it.',
  'A glacier is a river that moves slowly. The valley was filled with ice long ago.',
  'Stones are carried down and left at the end. So what do we see in the wall of a pit?',
]

export async function speech({ say, figure, minutes }) {
  installDebian([{ name: 'flite', program: ['/usr/bin/flite'] }])
  await buildWhenStale()
  const wanted = Math.min(minutes, 10)
  const folder = await mkdtemp(join(tmpdir(), 'thaw-speech-'))
  try {
    const said = TEXT.map((text, i) => {
      const file = join(folder, `${i}.wav`)
      execFileSync('flite', ['-voice', 'slt', '-t', text, '-o', file])
      return file
    })
    const parts = await Promise.all(said.map(async (file) => (await readFile(file)).subarray(44)))
    const once = Buffer.concat(parts)
    const length = wanted * 60 * 32_000
    const samples = Buffer.concat(Array.from({ length: Math.ceil(length / once.length) }, () => once)).subarray(
      0,
      length,
    )
    const head = (await readFile(said[0])).subarray(0, 44)
    head.writeUInt32LE(36 + samples.length, 4)
    head.writeUInt32LE(samples.length, 40)
    const wav = Buffer.concat([head, samples])
    const server = await startServer(join(folder, 'data'))
    try {
      const session = await fetch(`${server.origin}/api/author/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ key: KEY }),
      })
      const cookie = session.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; ')
      say(`Recognising ${wanted} minutes …`)
      const began = performance.now()
      const answer = await fetch(`${server.origin}/api/speech?language=en`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'audio/wav' },
        body: wav,
      })
      const lines = (await answer.text()).trim().split('\n')
      const took = (performance.now() - began) / 1000
      if (!lines.at(-1)?.includes('"done"')) throw new Error(lines.at(-1))
      figure({
        minutes: wanted,
        cores: cpus().length,
        words: lines.filter((l) => l.startsWith('{"word"')).length,
        ofLength: Number((took / (wanted * 60)).toFixed(3)),
      })
    } finally {
      await server.stop()
    }
    // One core: the same program over one minute at once.
    const minute = join(folder, 'minute.wav')
    const one = samples.subarray(0, 60 * 32_000)
    const its = Buffer.from(head)
    its.writeUInt32LE(36 + one.length, 4)
    its.writeUInt32LE(one.length, 40)
    await writeFile(minute, Buffer.concat([its, one]))
    const began = performance.now()
    execFileSync('pocketsphinx_continuous', ['-infile', minute, '-logfn', '/dev/null'], { stdio: 'ignore' })
    figure({ program: 'pocketsphinx_continuous', ofLength: Number(((performance.now() - began) / 60_000).toFixed(3)) })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
