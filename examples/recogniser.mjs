#!/usr/bin/env node
/**
 * An example of a recogniser of one's own, as docs/formats.md, “Speech”, asks for it. Called as `recogniser.mjs --language en FILE.wav` it
 * is a program for THAW_RECOGNISER; as `recogniser.mjs --port 8090`, a service for it. What it does with the sound is to call
 * `pocketsphinx_continuous`; put your own in its place.
 */
import { execFile } from 'node:child_process'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { parseArgs, promisify } from 'node:util'

const { values, positionals } = parseArgs({
  options: { language: { type: 'string' }, vocabulary: { type: 'string' }, port: { type: 'string' } },
  allowPositionals: true,
})

/** A line of JSON for each word of a WAVE file. */
async function recognise(file) {
  const args = ['-infile', file, '-time', 'yes', '-logfn', '/dev/null']
  const { stdout } = await promisify(execFile)('pocketsphinx_continuous', args, { maxBuffer: 2 ** 24 })
  return stdout
    .split('\n')
    .map((line) => /^([a-z'.-]+)(?:\(\d+\))? (\S+) (\S+) (\S+)$/.exec(line))
    .filter((match) => match !== null)
    .map(([, text, from, to, confidence]) =>
      JSON.stringify({
        text,
        from: Number(from),
        to: Number(to) + 0.01,
        confidence: Math.min(1, Number(confidence)),
      }),
    )
    .join('\n')
}

if (values.port === undefined) console.log(await recognise(positionals[0]))
else
  createServer(async (request, response) => {
    const folder = await mkdtemp(join(tmpdir(), 'recogniser-'))
    try {
      const file = join(folder, 'piece.wav')
      const headers = { 'content-type': request.headers['content-type'] }
      const form = await new Response(Readable.toWeb(request), { headers }).formData()
      await writeFile(file, Buffer.from(await form.get('sound').arrayBuffer()))
      response.setHeader('content-type', 'application/x-ndjson').end(await recognise(file))
    } catch (error) {
      response.writeHead(500).end(error.message)
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  }).listen(Number(values.port), () => console.log(`Listening on ${values.port}`))
