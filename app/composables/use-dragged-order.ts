/** Things that are dragged into another order, by a handle; whoever has them puts them there. */
import { useSortable } from '@vueuse/integrations/useSortable'
import type { SortableEvent } from 'sortablejs'
import type { Ref } from 'vue'

export function useDraggedOrder(
  list: Readonly<Ref<HTMLElement | null>>,
  { handle, moved }: { handle: string; moved(from: number, to: number): void },
): void {
  useSortable(list as Ref<HTMLElement | null>, [], {
    handle,
    animation: 120,
    onUpdate({ from, item, oldIndex, newIndex }: SortableEvent) {
      if (oldIndex === undefined || newIndex === undefined) return
      // Back where it was: Vue moves it, once it stands elsewhere in the list.
      item.remove()
      from.insertBefore(item, from.children[oldIndex] ?? null)
      moved(oldIndex, newIndex)
    },
  })
}
