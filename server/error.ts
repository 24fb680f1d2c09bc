/** What a client is told when something goes wrong: a sentence, and nothing of how the server is made. */
import { getRequestHeader, send, setResponseHeader, setResponseStatus } from 'h3'
import { defineNitroErrorHandler } from 'nitropack/runtime'
import { FULL, isFull } from './utils/full'

const FAULT =
  'Something went wrong on the server; what was kept before is still there. Try again, and tell whoever runs it if it stays.'

export default defineNitroErrorHandler(async (error, event) => {
  if (event.node.res.headersSent) return
  const { req } = event.node
  // Whoever sent it has hung up: nobody is to be told, and nothing is broken here.
  if (req.destroyed && !req.complete) {
    event.node.res.end()
    return
  }
  const foreseen = !error.unhandled && error.statusCode < 500
  const full = isFull(error.cause)
  const status = full ? 507 : error.statusCode
  const message = full ? FULL : foreseen || status === 503 ? error.message : FAULT
  if (!foreseen && status !== 503) console.error(`${event.method} ${event.path.split('?')[0]}`, error.cause ?? error)
  setResponseStatus(event, status)
  setResponseHeader(event, 'cache-control', 'no-store')
  if ((getRequestHeader(event, 'accept') ?? '').includes('text/html')) {
    setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
    const text = message.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`)
    return send(
      event,
      `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${status}</title><body style="font:18px/1.5 sans-serif;margin:15vh auto;max-width:34em;padding:0 20px"><p>${text}</p></body></html>`,
    )
  }
  setResponseHeader(event, 'content-type', 'application/json')
  return send(event, JSON.stringify({ statusCode: status, message }))
})
