/**
 * Workers of the media engine. All are ended when the page is left, before the browser does it: Chromium (seen in 156)
 * may end its renderer, and with it the page that comes next, when a page is left whose worker encodes a picture or
 * writes a file at that moment. `test/trials/leaving.trial.ts` tries it.
 */
import { releaseProxy, wrap, type Remote } from 'comlink'
import type { Engine } from '#media/worker'

export interface MediaWorker {
  engine: Remote<Engine>
  /** Rejects when the worker cannot be started, or fails. */
  failed: Promise<never>
  end(): void
}

const running = new Set<Worker>()

let isWatching = false

/** From the first worker on. */
function watchLeaving(): void {
  if (isWatching) return
  isWatching = true
  addEventListener('pagehide', () => {
    for (const worker of running) worker.terminate()
  })
  addEventListener('pageshow', (event: PageTransitionEvent) => {
    // A page that comes back as it was would wait for workers that have gone.
    if (event.persisted && running.size > 0) location.reload()
  })
}

export function startMediaWorker(): MediaWorker {
  watchLeaving()
  const worker = new Worker(new URL('../../media/worker.ts', import.meta.url), { type: 'module' })
  running.add(worker)
  const engine = wrap<Engine>(worker)
  const failed = new Promise<never>((_, reject) =>
    worker.addEventListener('error', (e) => reject(new Error(e.message || 'The media worker could not be started.'))),
  )
  failed.catch(() => undefined)
  return {
    engine,
    failed,
    end() {
      engine[releaseProxy]()
      worker.terminate()
      running.delete(worker)
    },
  }
}
