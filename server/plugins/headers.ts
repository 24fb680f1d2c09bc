/**
 * What browsers are told to refuse (Content Security Policy Level 3). The application is never framed; the player is
 * meant to be, by the sites in THAW_FRAME_ANCESTORS, or by the course site where none are set.
 */
import { randomBytes } from 'node:crypto'
import { setHeaders } from 'h3'

const policy = (rules: Record<string, string>) =>
  Object.entries(rules)
    .map(([what, who]) => `${what} ${who}`)
    .join('; ')

/** The author tries the player on a page of Thaw itself. */
const framers = (): string => {
  const { THAW_FRAME_ANCESTORS: sites, THAW_COURSE_SITE: courseSite } = process.env
  return sites || `'self'${courseSite ? ` ${new URL(courseSite).origin}` : ''}`
}

const playerPolicy = policy({
  'default-src': "'none'",
  'script-src': "'self'",
  'style-src': "'self' 'unsafe-inline'",
  'img-src': "'self' data: blob:",
  'media-src': "'self' blob:",
  // Of formulas; small ones are built into the styles.
  'font-src': "'self' data:",
  'connect-src': "'self'",
  // hls.js takes media apart in a worker that it makes of a blob.
  'worker-src': "'self' blob:",
  'base-uri': "'none'",
  'form-action': "'none'",
  'frame-ancestors': framers(),
})

const appPolicy = (nonce: string) =>
  policy({
    'default-src': "'none'",
    // RNNoise, the AAC encoder and what finds a speaker's outline are WebAssembly.
    'script-src': `'self' 'nonce-${nonce}' 'wasm-unsafe-eval'`,
    'style-src': "'self' 'unsafe-inline'",
    'img-src': "'self' blob: data:",
    'media-src': "'self' blob:",
    // Small fonts are built into the styles.
    'font-src': "'self' data:",
    'connect-src': "'self' blob: data:",
    'worker-src': "'self' blob:",
    // The player, as its author tries it.
    'frame-src': "'self'",
    'base-uri': "'none'",
    'form-action': "'self'",
    'frame-ancestors': "'none'",
  })

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('request', (event) => {
    setHeaders(event, { 'x-content-type-options': 'nosniff', 'referrer-policy': 'no-referrer' })
    const nonce = randomBytes(16).toString('base64')
    event.context.nonce = nonce
    setHeaders(event, {
      'content-security-policy': event.path.startsWith('/player/') ? playerPolicy : appPolicy(nonce),
    })
  })
  nitro.hooks.hook('render:html', (html, { event }) => {
    const marked = (text: string) =>
      text.replace(/<script(?![^>]*\bnonce=)/g, `<script nonce="${String(event.context.nonce)}"`)
    html.head = html.head.map(marked)
    html.bodyAppend = html.bodyAppend.map(marked)
  })
  nitro.hooks.hook('beforeResponse', (event) => event.node.res.removeHeader('x-powered-by'))
})
