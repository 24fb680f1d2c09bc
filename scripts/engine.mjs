// The media engine outside the application: a headless Chromium with the engine's page, and a server on this machine
// that gives it the page and writes what it makes. Used by the command line, the tests and the benchmarks.
import { randomBytes } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { mkdir, open, rename, rm, stat } from 'node:fs/promises'
import { createServer } from 'node:http'
import { basename, extname, join, normalize } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { launchChromium } from './chromium.mjs'
import { engineFolder } from './setup.mjs'

const types = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.woff2': 'font/woff2',
  '.wasm': 'application/wasm',
  '.mp4': 'video/mp4',
  '.webm': 'video/webm',
  '.m4a': 'audio/mp4',
}

/** Something the engine said about a file; the message is a sentence. */
export class EngineError extends Error {
  name = 'EngineError'
}

/**
 * One output being written: `PUT path?at=N` writes, `GET path?at=N&length=M` reads, `POST path?from=N&by=M` moves what
 * follows up, `POST ?finish` gives it its name, `DELETE` removes it. Until it is finished everything stands in a folder
 * beside the target, so that nothing half made has the right name.
 */
function outputTo(target, isFolder) {
  const folder = `${target}.part-${randomBytes(4).toString('hex')}`
  const handles = new Map()
  const closeAll = async () => {
    for (const handle of handles.values()) await (await handle).close()
    handles.clear()
  }
  const names = []
  let givenUp = false
  return {
    async write(path, at, bytes) {
      if (givenUp) throw new Error('This output was given up.')
      // Pieces come side by side: the promise is kept, so that each file is opened once.
      if (!handles.has(path)) {
        names.push(basename(path))
        handles.set(
          path,
          mkdir(folder, { recursive: true }).then(() => open(join(folder, basename(path)), 'w+')),
        )
      }
      const handle = await handles.get(path)
      for (let done = 0; done < bytes.length;)
        done += (await handle.write(bytes, done, bytes.length - done, at + done)).bytesWritten
    },
    async read(path, at, length) {
      const handle = await handles.get(path)
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, at)
      return buffer.subarray(0, bytesRead)
    },
    async moveUp(path, from, by) {
      const handle = await handles.get(path)
      const { size } = await handle.stat()
      const block = Buffer.alloc(8 << 20)
      for (let at = from; at < size;) {
        const { bytesRead } = await handle.read(block, 0, block.length, at)
        for (let done = 0; done < bytesRead;)
          done += (await handle.write(block, done, bytesRead - done, at - by + done)).bytesWritten
        at += bytesRead
      }
      await handle.truncate(size - by)
    },
    async finish() {
      await closeAll()
      if (isFolder) {
        await rm(target, { recursive: true, force: true })
        await rename(folder, target)
      } else {
        await rename(join(folder, names[0]), target)
        await rm(folder, { recursive: true, force: true })
      }
    },
    async discard() {
      givenUp = true
      await closeAll()
      await rm(folder, { recursive: true, force: true })
    },
  }
}

/** @param pages the folder of the engine's page */
async function serve(pages, outputs, served) {
  const server = createServer((request, response) => {
    answer(request, response).catch((error) => {
      response.writeHead(error.code === 'ENOENT' && request.method === 'GET' ? 404 : 500, {
        'content-type': 'text/plain',
      })
      response.end(error.code === 'ENOSPC' ? 'The disk is full. Make room and try again.' : String(error.message))
    })
  })
  async function answer(request, response) {
    const url = new URL(request.url, 'http://localhost')
    const [, first, token, path] = url.pathname.split('/').map(decodeURIComponent)
    if (first === 'out') {
      const output = outputs.get(token)
      if (!output) throw new Error('This output is not known.')
      const parts = []
      for await (const part of request) parts.push(part)
      if (request.method === 'PUT') await output.write(path, Number(url.searchParams.get('at')), Buffer.concat(parts))
      else if (request.method === 'GET') {
        response
          .writeHead(200)
          .end(await output.read(path, Number(url.searchParams.get('at')), Number(url.searchParams.get('length'))))
        return
      } else if (request.method === 'POST' && path)
        await output.moveUp(path, Number(url.searchParams.get('from')), Number(url.searchParams.get('by')))
      else if (request.method === 'POST') await output.finish()
      else if (request.method === 'DELETE') await output.discard()
      response.writeHead(204).end()
      return
    }
    if (first === 'file') {
      // Whole files, so that a made one can be played in the page.
      const path = served.get(token)
      response.writeHead(200, {
        'content-type': types[extname(path)] ?? 'application/octet-stream',
        'content-length': (await stat(path)).size,
      })
      await pipeline(createReadStream(path), response)
      return
    }
    const file = join(pages, normalize(url.pathname === '/' ? '/index.html' : url.pathname))
    if (!file.startsWith(pages)) throw new Error('Not here.')
    await stat(file)
    response.writeHead(200, { 'content-type': types[extname(file)] ?? 'application/octet-stream' })
    await pipeline(createReadStream(file), response)
  }
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve))
  return server
}

/**
 * Starts the engine. `onProgress(share)` of each call is told 0…1. Close it when done.
 * @param {{ quiet?: boolean }} [options]
 */
export async function openEngine(options = {}) {
  const pages = await engineFolder(options.quiet)
  const outputs = new Map()
  const served = new Map()
  const progress = new Map()
  const server = await serve(pages, outputs, served)
  // One page, and no second renderer kept in reserve.
  const browser = await launchChromium({
    devices: false,
    patient: true,
    args: ['--disable-features=SpareRendererForSitePerProcess'],
  })
  const [page = await browser.newPage()] = await browser.pages()
  await page.exposeFunction('thawProgress', (job, share) => progress.get(job)?.(share))
  const origin = `http://127.0.0.1:${server.address().port}`
  await page.goto(`${origin}/`)
  await page.waitForFunction('window.thaw !== undefined')

  /** Chooses the files; the engine reads them where they are. */
  const choose = async (files) => {
    for (const file of files) {
      const found = await stat(file).catch(() => null)
      if (!found) throw new EngineError(`“${file}” is not there.`)
      if (!found.isFile()) throw new EngineError(`“${file}” is not a file.`)
    }
    const input = await page.$('#files')
    await input.uploadFile(...files)
  }
  const call = async (method, job, args, onProgress) => {
    progress.set(job, onProgress)
    try {
      const answer = await page.evaluate((name, values) => window.thaw[name](...values), method, args)
      if ('error' in answer) throw new EngineError(answer.error)
      return answer.value
    } finally {
      progress.delete(job)
    }
  }
  return {
    browser,
    page,
    async probe(file) {
      await choose([file])
      return call('probe', 'probe', [0])
    },
    async analyse(file, what, onProgress) {
      await choose([file])
      const job = randomBytes(8).toString('hex')
      return call('analyse', job, [job, 0, what], onProgress)
    },
    /** Works out what a finish does to a file: the edit, its chapters as WebVTT, what was done and what needs a look. */
    async finish(file, finish, particulars, onProgress) {
      await choose([file])
      const job = randomBytes(8).toString('hex')
      return call('finish', job, [job, { file: 0, finish, particulars }], onProgress)
    },
    /**
     * @param request { file, camera?, sound?, further?: [path], edit, assets: { name: path }, format, captions, chapters?, burnt? } @param
     * target path of the file or folder
     */
    async render(request, target, onProgress) {
      const files = [request.file]
      const number = (path) => (path ? files.push(path) - 1 : null)
      const camera = number(request.camera)
      const sound = number(request.sound)
      const further = (request.further ?? []).map(number)
      const assets = Object.entries(request.assets ?? {}).map(([name, path]) => ({ name, file: number(path) }))
      await choose(files)
      const job = randomBytes(8).toString('hex')
      const output = outputTo(target, request.format === 'hls')
      outputs.set(job, output)
      try {
        return await call(
          'render',
          job,
          [
            job,
            {
              own: 0,
              camera,
              sound,
              further,
              edit: request.edit ?? null,
              assets,
              format: request.format,
              part: request.part ?? null,
              captions: request.captions ?? null,
              chapters: request.chapters ?? [],
              burnt: request.burnt ?? null,
              url: `${origin}/out/${job}`,
            },
          ],
          onProgress,
        )
      } catch (error) {
        await output.discard()
        throw error
      } finally {
        outputs.delete(job)
      }
    },
    /** An address at which the page can play a file. */
    address(path) {
      const token = randomBytes(8).toString('hex')
      served.set(token, path)
      return `${origin}/file/${token}`
    },
    /** Removes what is half written; for an interrupt. */
    async abandon() {
      for (const output of outputs.values()) await output.discard()
    },
    async close() {
      await browser.close()
      server.close()
    },
  }
}
