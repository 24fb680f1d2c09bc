/**
 * Stands in for the maker of schemas in what is built for browsers: the player leaves checking to whoever keeps the
 * documents, and the application has checks that were made when it was built. The code of schemas that nothing looks at
 * would be a quarter of the player.
 */
const nothing = new Proxy(() => nothing, {
  // One schema is made of parts of another.
  get: (_, name) => (typeof name === 'symbol' ? undefined : nothing),
  ownKeys: () => [],
})
export const Type = nothing
