/**
 * Refuses what another site's page sends in the name of whoever is signed in here (OWASP, Cross-Site Request Forgery
 * Prevention): browsers say where a request comes from, by Fetch Metadata or at least by its origin. What is no browser
 * says neither, and has no cookies that it did not mean to send.
 */
export default defineEventHandler((event) => {
  if (['GET', 'HEAD', 'OPTIONS'].includes(event.method)) return
  const site = getRequestHeader(event, 'sec-fetch-site')
  const origin = getRequestHeader(event, 'origin')
  const isOwn = site
    ? site === 'same-origin' || site === 'none'
    : !origin || (URL.canParse(origin) && new URL(origin).host === getRequestHost(event, { xForwardedHost: true }))
  if (!isOwn) refuse(403, 'This was sent by another site’s page. Open Thaw itself and try again.')
})
