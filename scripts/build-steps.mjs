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

/** Tells that the server is being built. */
export const tellServer = () => void process.send?.({ server: true })
