// Tells whoever started a build how far it is: the start command shows it, other ways of building have nobody to tell.

/** How many modules are told at once. */
const BY = 100

let modules = 0

/**
 * Counts the modules that the pages and their workers are made of.
 * @returns {import('vite').Plugin}
 */
export const moduleCounter = () => ({
  name: 'thaw:module-counter',
  transform() {
    modules += 1
    if (modules % BY === 0) process.send?.({ modules })
    return null
  },
})

/**
 * Tells that the pages are built and the server is next, which copies what stands in `public/`, and waits until it is told to
 * go on: the player is built into that folder beside the pages.
 */
export const beforeServer = () =>
  process.send &&
  new Promise((resolve) => {
    process.once('message', resolve)
    process.send({ server: true })
  })
