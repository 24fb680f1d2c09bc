/**
 * A server of its own for trials: started, killed and started again on one folder, and asked as the author and as
 * students.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { SignJWT } from 'jose'
import { PART_SIZE, type PlaceResponses, type PublishedVersions, type UploadStart } from '../../core/schema/publication'
import type { WatchView } from '../../core/packages/watch-view'
import { freePort } from '../../scripts/setup.mjs'
import { startCourseSite, type StandIn } from '../../scripts/stand-ins.mjs'
import { checkpoint, placeOf, publication } from '../publication'

const KEY = 'a-key-for-trials'
const entry = fileURLToPath(new URL('../../.output/server/index.mjs', import.meta.url))
const sha = (b: Uint8Array) => createHash('sha256').update(b).digest('hex')

/** How much of the repetitions was asked for. */
export const share = Number(process.env.THAW_TRIALS_SHARE ?? 1)
/** How often something is repeated: all of `n`, or the share that was asked for. */
export const times = (n: number): number => Math.max(3, Math.round(n * share))
export const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
/** Says what a trial found, on its line. */
export const say = (text: string) => console.info(`    ${text}`)

export type Answer = { status: number; body: unknown }

export class TrialServer {
  private child: ChildProcess | null = null
  private cookie = ''
  private origin = ''
  private site: StandIn | null = null
  private readonly siteFolder = mkdtempSync(join(tmpdir(), 'thaw-trial-site-'))
  constructor(readonly folder = mkdtempSync(join(tmpdir(), 'thaw-trial-'))) {}

  get pid(): number {
    return this.child?.pid ?? 0
  }
  get address(): string {
    return this.origin
  }

  async start(more: Record<string, string> = {}): Promise<void> {
    const port = String(await freePort())
    // It stays while the server comes and goes, as one of another house does.
    this.site ??= await startCourseSite({ data: this.siteFolder, thaw: `http://localhost:${port}`, demo: true })
    const child = spawn(process.execPath, [entry], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: {
        ...process.env,
        PORT: port,
        NITRO_PORT: port,
        THAW_DATA: this.folder,
        THAW_AUTHOR_KEY: KEY,
        THAW_DEMO_FILES: '',
        NODE_ENV: 'production',
        ...this.site.settings,
        ...more,
      },
    })
    let said = ''
    child.stderr?.on('data', (text: Buffer) => (said = (said + text.toString()).slice(-4000)))
    await new Promise<void>((resolve, reject) => {
      child.stdout?.on('data', (text: Buffer) => text.toString().includes('Listening') && resolve())
      child.once('exit', (code) => reject(new Error(`the server ended with ${code}: ${said}`)))
    })
    this.child = child
    this.origin = `http://localhost:${port}`
    const answer = await fetch(`${this.origin}/api/author/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ key: KEY }),
    })
    this.cookie = answer.headers.getSetCookie()[0]?.split(';')[0] ?? ''
  }

  /** Ends it as a power cut would. */
  async kill(): Promise<void> {
    const { child } = this
    if (!child) return
    this.child = null
    child.removeAllListeners('exit')
    const gone = new Promise((resolve) => child.once('exit', resolve))
    child.kill('SIGKILL')
    await gone
  }

  async leave(): Promise<void> {
    await this.kill()
    this.site?.stop()
    rmSync(this.siteFolder, { recursive: true, force: true })
    rmSync(this.folder, { recursive: true, force: true })
  }

  /** Status 0 when the server went away meanwhile. */
  async ask(method: string, path: string, body?: unknown, token?: string): Promise<Answer> {
    const isBytes = body instanceof Uint8Array
    try {
      const answer = await fetch(this.origin + path, {
        method,
        headers: {
          ...(token ? { authorization: `Bearer ${token}` } : { cookie: this.cookie }),
          ...(body !== undefined && !isBytes && { 'content-type': 'application/json' }),
        },
        ...(body !== undefined && { body: (isBytes ? body : JSON.stringify(body)) as BodyInit }),
      })
      return { status: answer.status, body: await answer.json().catch(() => null) }
    } catch {
      return { status: 0, body: null }
    }
  }

  /** A request of the author whose answer is not waited for. */
  begin(path: string, body: Uint8Array): void {
    void fetch(this.origin + path, { method: 'POST', headers: { cookie: this.cookie }, body: body as BodyInit }).catch(
      () => undefined,
    )
  }

  /** A student's token for a place, as the course site launches one. */
  async student(placeId: string, id: string): Promise<string> {
    const launch = new SignJWT({ place: placeId, name: id })
      .setProtectedHeader({ alg: 'HS256' })
      .setJti(crypto.randomUUID())
      .setSubject(id)
      .setAudience('thaw')
      .setIssuedAt()
      .setExpirationTime('5m')
    const answer = await fetch(
      `${this.origin}/api/watch/launch?token=${await launch.sign(new TextEncoder().encode(this.site?.settings.THAW_LAUNCH_SECRET))}`,
      { redirect: 'manual' },
    )
    return new URLSearchParams((answer.headers.get('location') ?? '').split('#')[1]).get('token') ?? ''
  }

  async responses(placeId: string): Promise<PlaceResponses> {
    const { status, body } = await this.ask('GET', `/api/places/${placeId}/responses`)
    if (status !== 200) throw new Error(`responses of ${placeId}: ${status}`)
    return body as PlaceResponses
  }

  /** The bytes of a media address, hashed; empty when they cannot be had. */
  async mediaHash(url: string): Promise<string> {
    const answer = await fetch(this.origin + url)
    return answer.ok ? sha(new Uint8Array(await answer.arrayBuffer())) : ''
  }
}

export interface Film extends UploadStart {
  media: Uint8Array
  hash: string
}

/** Something to publish: media that no other has, and `questions` questions. */
export function film(id: string, title: string, questions = 10, size = PART_SIZE + 500): Film {
  const media = new Uint8Array(size)
  media.set(new TextEncoder().encode(title))
  const parts = Array.from({ length: Math.ceil(size / PART_SIZE) }, (_, i) =>
    sha(media.subarray(i * PART_SIZE, (i + 1) * PART_SIZE)),
  )
  const checkpoints = Array.from({ length: questions }, (_, i) => checkpoint(`cp${i}`, i, `q${i}`))
  return { media, hash: sha(media), ...publication(id, title, 1000, { size, parts }, checkpoints) }
}

/** Sends a film. @returns the upload's id; empty when something of it was not acknowledged */
export async function send(server: TrialServer, { media, manifest, captions, sets }: Film): Promise<string> {
  const base = `/api/publications/${manifest.id}/uploads`
  const opened = await server.ask('POST', base, { manifest, captions, sets })
  if (opened.status !== 200) return ''
  const { version: upload } = opened.body as PublishedVersions
  for (let i = 0; i * PART_SIZE < media.length; i++)
    if (
      (
        await server.ask(
          'PUT',
          `${base}/${upload}/parts/screen.mp4/${i}`,
          media.slice(i * PART_SIZE, (i + 1) * PART_SIZE),
        )
      ).status !== 200
    )
      return ''
  return upload
}
export const commit = (server: TrialServer, id: string, upload: string) =>
  server.ask('POST', `/api/publications/${id}/uploads/${upload}/commit`)
export const place = (server: TrialServer, id: string, publicationId: string, week = 1) =>
  server.ask(
    'PUT',
    `/api/places/${id}`,
    placeOf(id, publicationId, 'ps201', { week, from: '2026-01-01T00:00:00.000Z' }),
  )
export const answer = (id: string, questionId: string) => ({
  id,
  kind: 'answer',
  questionId,
  answer: { kind: 'one-right', choice: 'a' },
  at: '2026-11-23T10:00:00.000Z',
})

/** What a student is told of a lecture: its title, and where its first film is. */
export function watched(body: unknown): { title: string; media: string } {
  const { title, feeds } = body as WatchView
  return { title, media: feeds[0]?.url ?? '' }
}
