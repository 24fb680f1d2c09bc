/** How captions look, as a person chose it on this device. */
export const sizes = { small: 0.8, usual: 1, large: 1.4, largest: 1.9 } as const
export const grounds = { dark: 'rgb(12 20 23 / 86%)', solid: '#000', light: '#fff', none: 'transparent' } as const
export const places = ['as the lecture has it', 'foot', 'top'] as const

export interface Looks {
  size: keyof typeof sizes
  ground: keyof typeof grounds
  place: (typeof places)[number]
}
const USUAL: Looks = { size: 'usual', ground: 'dark', place: 'as the lecture has it' }
const KEY = 'thaw-caption-looks'

/** What is kept and not known is as usual. */
export function readLooks(storage: Pick<Storage, 'getItem'>): Looks {
  const [size, ground, place] = (storage.getItem(KEY) ?? '').split('|')
  return {
    size: size && Object.hasOwn(sizes, size) ? (size as Looks['size']) : USUAL.size,
    ground: ground && Object.hasOwn(grounds, ground) ? (ground as Looks['ground']) : USUAL.ground,
    place: places.find((p) => p === place) ?? USUAL.place,
  }
}
export const writeLooks = (storage: Pick<Storage, 'setItem'>, { size, ground, place }: Looks): void =>
  storage.setItem(KEY, [size, ground, place].join('|'))

/** As style of a caption; without a ground the words have an outline. */
export const styleOf = ({ size, ground }: Looks) => ({
  '--caption-size': sizes[size],
  '--caption-ground': grounds[ground],
  '--caption-ink': ground === 'light' ? '#000' : '#fff',
  '--caption-edge': ground === 'none' ? '0 0 3px #000, 0 0 3px #000, 0 0 5px #000' : 'none',
})
