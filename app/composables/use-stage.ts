import { computed, ref, type InjectionKey } from 'vue'
import type { ItemRef, Timed } from '#core/documents/items'
import { layoutAt, sayStretch } from '#core/edit/edit'
import { arrange, toShares, type Box } from '#core/picture/layout'
import { aboveCaptions } from '#core/picture/placing'
import type { Shape } from '#core/picture/strokes'
import { pictureIds } from '#core/render/script'
import type { Layout, ShareBox, Stretch } from '#core/schema/edit'
import type { LinkCard } from '#core/schema/marks'
import { insertAt } from '#core/time/time-map'
import { sayFeed } from '#core/record/recording'
import type { ScriptPlayer } from '~/composables/use-script-player'
import { inks, widths } from '~/composables/use-strokes'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'

/** Something on the picture that can be placed. */
export interface StageBox {
  key: string
  label: string
  box: ShareBox
  /** The picture that the box is in shares of, px of the frame. */
  base: Box
  ref: ItemRef | null
  active: boolean
  put(box: ShareBox): Promise<void>
  drop(): Promise<void>
}

/** A stretch that lies in a box on a picture. */
export const boxOf = ({ what }: Stretch): ShareBox | null => ('box' in what ? what.box : null)
/** The picture that a stretch lies on. */
export const feedOf = ({ what }: Stretch): string => ('on' in what ? (what.on ?? 'screen') : 'screen')

/** What stands on the picture at the playhead and can be placed there by hand. */
export function useStage(media: ScriptPlayer) {
  const desk = useDesk()
  const chosen = useChosen()
  const frame = computed(() => media.script.value?.frame ?? null)
  const whole = computed<Box | null>(() => frame.value && { x: 0, y: 0, ...frame.value })
  /** Pictures of the recording, and where each that is seen now stands in the frame. */
  const pictures = computed(() => pictureIds(desk.recording?.feeds ?? []))
  const seen = computed(() => new Map(media.pictures.value.map((p) => [p.feed, p.box])))
  /** Where a picture stands; what lies on one that was not recorded lies on the whole frame. */
  const baseOf = (feed: string): Box | null =>
    seen.value.get(feed) ?? (pictures.value.includes(feed) ? null : whole.value)
  const isNow = (range: { from: number; to: number }) =>
    desk.recordedTime >= range.from - 1e-6 && desk.recordedTime < range.to
  /** Nothing that lies over the recording is seen over what is put in between. */
  const isSeen = (range: { from: number; to: number }) =>
    isNow(range) && !(desk.peek === null && insertAt(desk.map, desk.time))

  const stretchBoxes = computed<StageBox[]>(() =>
    (desk.edit?.stretches ?? []).flatMap((stretch) => {
      const box = boxOf(stretch)
      const base = box && isSeen(stretch) ? baseOf(feedOf(stretch)) : null
      if (!box || !base) return []
      const ref: ItemRef = { kind: 'edit', list: 'stretches', id: stretch.id }
      const name = sayStretch(stretch.what)
      const put = (next: ShareBox) =>
        chosen.put(
          [{ ref, item: { ...stretch, what: { ...stretch.what, box: next } } as Timed }],
          `Placed “${name}”`,
          `box ${stretch.id}`,
        )
      const drop = () => chosen.drop([{ ref, item: stretch }])
      return [{ key: stretch.id, label: name, box, base, ref, active: chosen.has(ref), put, drop }]
    }),
  )
  const linkBoxes = computed<StageBox[]>(() =>
    (desk.links?.links ?? []).flatMap((link: LinkCard) => {
      const base = isSeen(link) ? whole.value : null
      if (!base) return []
      const ref: ItemRef = { kind: 'links', list: 'links', id: link.id }
      const put = (next: ShareBox) =>
        chosen.put(
          [{ ref, item: { ...link, box: aboveCaptions(next) } as Timed }],
          `Placed “${link.words || 'Link card'}”`,
          `box ${link.id}`,
        )
      const drop = () => chosen.drop([{ ref, item: link }])
      return [
        {
          key: link.id,
          label: link.words || 'Link card',
          box: link.box,
          base,
          ref,
          active: chosen.has(ref),
          put,
          drop,
        },
      ]
    }),
  )
  /** The layout stretch that holds at the playhead; null where the one of the whole lecture does. */
  const layoutStretch = computed(
    () => desk.edit?.stretches.findLast((s) => s.what.kind === 'layout' && isNow(s)) ?? null,
  )
  const layout = computed<Layout>(() => (desk.edit ? layoutAt(desk.edit, desk.recordedTime) : 'inset'))
  async function setLayout(next: Layout, field?: string): Promise<void> {
    const stretch = layoutStretch.value
    if (!stretch) {
      await desk.command({ do: 'layout', layout: next }, field)
      return
    }
    await chosen.put(
      [
        {
          ref: { kind: 'edit', list: 'stretches' },
          item: { ...stretch, what: { kind: 'layout', layout: next } } as Timed,
        },
      ],
      sayStretch({ kind: 'layout', layout: next }),
      field,
    )
  }
  const activeSlot = ref<string | null>(null)
  const slotBoxes = computed<StageBox[]>(() => {
    const slots = layout.value
    const base = whole.value
    if (!base || typeof slots === 'string') return []
    return slots.map((slot, i) => ({
      key: `slot ${slot.feed}`,
      label: sayFeed(slot.feed),
      box: slot.box,
      base,
      ref: null,
      active: activeSlot.value === slot.feed,
      put: (box: ShareBox) =>
        setLayout(
          slots.map((s, at) => (at === i ? { ...s, box } : s)),
          `layout ${layoutStretch.value?.id ?? ''}`,
        ),
      drop: () => (slots.length > 1 ? setLayout(slots.filter((_, at) => at !== i)) : Promise.resolve()),
    }))
  })
  /** The present layout with each picture in a slot of its own, to be placed by hand. */
  async function byHand(): Promise<void> {
    const size = frame.value
    if (!size || typeof layout.value !== 'string') return
    const sizes = new Map(
      pictures.value.flatMap((id) => {
        const feed = desk.recording?.feeds.find((f) => f.id === id)
        return feed ? [[id, feed] as const] : []
      }),
    )
    const slots = arrange(layout.value, sizes, size).map(({ feed, box }) => ({
      feed,
      box: toShares(box, size),
      fit: 'contain' as const,
    }))
    await setLayout(slots)
    activeSlot.value = slots.at(-1)?.feed ?? null
  }
  const markBox = computed<StageBox[]>(() => {
    const mark = desk.edit?.watermark
    const base = media.pictures.value[0]?.box
    if (!mark || !base) return []
    return [
      {
        key: 'mark',
        label: 'Mark',
        box: mark.box,
        base,
        ref: null,
        active: activeSlot.value === 'mark',
        put: async (box: ShareBox) =>
          void (await desk.command({ do: 'watermark', watermark: { ...mark, box } }, 'watermark')),
        drop: async () => void (await desk.command({ do: 'watermark', watermark: null })),
      },
    ]
  })

  /** What is drawn with, while something is. */
  const tool = ref<Shape | 'eraser' | null>('pen')
  const ink = ref<string>(inks[0].value)
  const width = ref<number>(widths[1].value)
  /** The drawing that is chosen, where its picture is seen now. */
  const drawing = computed(() => {
    const item = chosen.one?.ref.list === 'stretches' ? (chosen.one.item as Timed & Stretch) : null
    if (item?.what.kind !== 'strokes' || !isNow(item) || desk.tab !== 'over') return null
    const base = baseOf(feedOf(item))
    return base && { stretch: item as Stretch & { what: { kind: 'strokes' } }, base }
  })

  return {
    tool,
    ink,
    width,
    drawing,
    frame,
    pictures,
    seen,
    baseOf,
    layout,
    layoutStretch,
    setLayout,
    byHand,
    activeSlot,
    /** What is placed on the picture while a part of the tidying sheet is open. */
    boxes: computed<StageBox[]>(() => {
      if (desk.tab === 'layout') return slotBoxes.value
      if (desk.tab === 'links') return linkBoxes.value
      return desk.tab === 'over' ? [...markBox.value, ...stretchBoxes.value] : []
    }),
  }
}
export type Stage = ReturnType<typeof useStage>
export const stageKey = Symbol('stage') as InjectionKey<Stage>
