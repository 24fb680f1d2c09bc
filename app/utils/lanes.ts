/** The lanes of the time line that hold items, and what stands on each. */
import { rangeOf, type ItemRef, type Timed } from '#core/documents/items'
import { kinds, type Kind } from '#core/documents/kinds'
import type { useDesk } from '~/stores/desk'

export interface LaneItem {
  ref: ItemRef
  item: Timed
  from: number
  to: number
  /** In a few words. */
  says: string
}

/** Height of a row of items, px. */
export const ROW = 26
/** Rows of things over one another that are told apart; further ones lie on the last. */
export const ROWS = 4

export type LaneKey = 'compared' | 'level' | 'layout' | 'over' | 'chapters' | 'links' | 'captions' | 'questions'

export interface ItemLaneKind {
  key: LaneKey
  name: string
  /** What one item is called. */
  one: string
  /** Whether items are moved on the lane. */
  isMovable: boolean
  /** The step that works with it; empty for a lane that is there in each while it holds anything. */
  step: string
  items(desk: ReturnType<typeof useDesk>): LaneItem[]
}

const itemsOf = (kind: Kind, list: string, items: readonly Timed[] | undefined): LaneItem[] =>
  (items ?? []).map((item) => ({
    ref: { kind, list, id: item.id },
    item,
    ...rangeOf(item),
    says: kinds[kind].name(item),
  }))

export const itemLanes: readonly ItemLaneKind[] = [
  {
    key: 'compared',
    name: 'Changed',
    one: 'Change',
    isMovable: false,
    step: '',
    items: ({ compared }) =>
      (compared?.found ?? []).flatMap(({ kind, how, says, range }, i) => {
        if (!range) return []
        const id = `since ${i}`
        const item = range.from === range.to ? { id, at: range.from } : { id, ...range }
        return { ref: { kind, list: '', id }, item, ...range, says: `${how}: ${says}` }
      }),
  },
  {
    key: 'level',
    name: 'Level',
    one: 'Level',
    isMovable: true,
    step: 'tidied',
    items: ({ edit }) =>
      itemsOf(
        'edit',
        'stretches',
        edit?.stretches.filter((s) => s.what.kind === 'level'),
      ),
  },
  {
    key: 'layout',
    name: 'Layout',
    one: 'Layout',
    isMovable: true,
    step: 'tidied',
    items: ({ edit }) =>
      itemsOf(
        'edit',
        'stretches',
        edit?.stretches.filter((s) => s.what.kind === 'layout'),
      ),
  },
  {
    key: 'over',
    name: 'Laid over',
    one: 'Laid over',
    isMovable: true,
    step: 'tidied',
    items: ({ edit }) =>
      itemsOf(
        'edit',
        'stretches',
        edit?.stretches.filter((s) => s.what.kind !== 'layout' && s.what.kind !== 'level'),
      ),
  },
  {
    key: 'chapters',
    name: 'Chapters',
    one: 'Chapter',
    isMovable: true,
    step: 'tidied',
    items: ({ chapters }) => itemsOf('chapters', 'chapters', chapters?.chapters),
  },
  {
    key: 'links',
    name: 'Link cards',
    one: 'Link card',
    isMovable: true,
    step: 'tidied',
    items: ({ links }) => itemsOf('links', 'links', links?.links),
  },
  {
    key: 'captions',
    name: 'Captions',
    one: 'Caption',
    isMovable: true,
    step: 'captioned',
    items: ({ captions }) => itemsOf('captions', 'cues', captions?.cues),
  },
  {
    key: 'questions',
    name: 'Questions',
    one: 'Question',
    isMovable: true,
    step: 'asked',
    items: ({ questions }) => itemsOf('questions', 'checkpoints', questions?.checkpoints),
  },
]
