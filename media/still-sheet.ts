/** Stills along a result, composed of its films as the player composes them, in one JPEG. */
import { max } from 'd3-array'
import { arrange, arrangementAt, type Box, type Sizes } from '#core/picture/layout'
import { sheetSize, stillAt, stillStretches, type StillGrid } from '#core/picture/still-sheet'
import type { PublishedArrangement } from '#core/schema/publication'
import { canShow, smallPicturesAt } from './analyse/picture'

/** A film of the result, with its size, px. */
export interface StillFeed {
  id: string
  blob: Blob
  width: number
  height: number
}

const QUALITY = 0.72

/**
 * @param duration of the result, s
 * @returns null when this browser cannot decode one of the films, as where a recording was copied that it cannot play
 */
export async function stillSheet(
  feeds: readonly StillFeed[],
  layout: readonly PublishedArrangement[],
  duration: number,
  grid: StillGrid,
): Promise<Blob | null> {
  for (const { blob } of feeds) if (!(await canShow(blob))) return null
  const size = sheetSize(grid, duration)
  const g = new OffscreenCanvas(size.width, size.height).getContext('2d')
  if (!g) throw new Error('This browser cannot draw in a worker.')
  g.fillRect(0, 0, size.width, size.height)
  const sizes: Sizes = new Map(feeds.map((f) => [f.id, f]))
  // Where nothing is arranged the first film is seen alone, as in the player.
  const alone: PublishedArrangement['slots'] = feeds
    .slice(0, 1)
    .map(({ id }) => ({ feed: id, box: { x: 0, y: 0, width: 1, height: 1 } }))
  const stills = stillStretches(duration, grid).map(({ from, at }) => {
    const laidOut = arrangementAt(layout, at)?.slots ?? []
    const slots = (laidOut.length > 0 ? laidOut : alone).map((s) => ({ fit: 'contain' as const, ...s }))
    return { from, at, corner: stillAt(grid, duration, at), placed: arrange(slots, sizes, grid) }
  })
  // All films side by side, as what lies over which changes on the way.
  const readers = new Map(
    feeds.map(({ id, blob }) => {
      const shown = stills.flatMap(({ from, at, placed }) =>
        placed.filter((p) => p.feed === id).map(({ box }) => ({ from, at, width: box.width })),
      )
      return [id, smallPicturesAt(blob, shown, Math.max(2, max(shown, (s) => s.width) ?? 2))]
    }),
  )
  const draw = (picture: OffscreenCanvas, { x, y }: Pick<Box, 'x' | 'y'>, box: Box, clip: Box) => {
    g.save()
    g.beginPath()
    g.rect(x + clip.x, y + clip.y, clip.width, clip.height)
    g.clip()
    g.drawImage(picture, x + box.x, y + box.y, box.width, box.height)
    g.restore()
  }
  try {
    for (const { corner, placed } of stills)
      for (const { feed, box, clip } of placed) {
        const next = await readers.get(feed)?.next()
        if (next?.value) draw(next.value, corner, box, clip ?? box)
      }
  } finally {
    for (const reader of readers.values()) await reader.return()
  }
  return g.canvas.convertToBlob({ type: 'image/jpeg', quality: QUALITY })
}
