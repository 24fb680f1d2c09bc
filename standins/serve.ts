/** Serves a stand-in on this machine alone: whoever comes to it is believed, so that nobody else may come. */
import { createServer } from 'node:http'
import { createApp, toNodeListener, type App } from 'h3'

/** Names of this machine; under any other a page of another site could have sent the request (DNS rebinding). */
const isOwnName = (host: string) => /^(localhost|127\.0\.0\.1)(:\d+)?$/i.test(host)

/** An application whose refusals are JSON with a sentence, `{ "message": … }`. */
export const standInApp = (): App =>
  createApp({
    onError(error, event) {
      if (error.statusCode >= 500) console.error(error)
      const message = error.statusCode < 500 ? error.message : 'Something went wrong here. Try again in a moment.'
      event.node.res.statusCode = error.statusCode
      event.node.res.setHeader('content-type', 'application/json').end(JSON.stringify({ message }))
    },
  })

/** Listens on the loopback interface, and says so on a line of standard output. @param name what it is called there */
export function serveHere(app: App, port: number, name: string): void {
  // Whoever started it is gone, however that came: it does not stay behind.
  process.once('disconnect', () => process.exit())
  const listener = toNodeListener(app)
  createServer((request, response) => {
    if (isOwnName(request.headers.host ?? '')) return listener(request, response)
    response.statusCode = 421
    response.setHeader('content-type', 'application/json')
    response.end(JSON.stringify({ message: 'This is only for programs on this machine.' }))
  }).listen(port, '127.0.0.1', () => console.log(`${name} on http://localhost:${port}/`))
}
