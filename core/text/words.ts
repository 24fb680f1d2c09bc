/** So many of something, in words: “1 cut”, “3 cuts”. */
export const sayCount = (count: number, one: string, several: string): string =>
  `${count} ${count === 1 ? one : several}`
