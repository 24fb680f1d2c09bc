/**
 * Stands in for the maker of schemas in what is built for students: documents are checked by whoever keeps them, and the
 * code of schemas that nothing looks at would be a quarter of the player.
 */
export const Type = new Proxy({}, { get: () => () => ({}) })
