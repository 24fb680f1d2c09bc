<script setup lang="ts">
import { Plus } from 'lucide-vue-next'
import type { Timed } from '#core/documents/items'
import type { LinkCard } from '#core/schema/marks'
import { insertAt } from '#core/time/time-map'
import { recorded, result, type ResultTime } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { itemLanes } from '~/utils/lanes'

/** Link cards: what students can press on the picture, to a web page or a place in the same lecture. */
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const items = computed(() => itemLanes.find((l) => l.key === 'links')?.items(desk) ?? [])
/** How long a card is there unless a stretch is selected, s. */
const USUAL = 8
const cardOf = (item: Timed) => item as Timed & LinkCard

/** The next instant at which the recording is seen: cards are not, over what is put in between. */
function pastInserts(time: ResultTime): ResultTime {
  const between = insertAt(desk.map, time)
  return between ? pastInserts(result(between.insert.at + between.insert.length)) : time
}

async function add(): Promise<void> {
  const { duration } = desk.map
  if (!desk.selection && insertAt(desk.map, desk.time)) media.seek(pastInserts(desk.time))
  const from = desk.selection?.from ?? recorded(Math.min(desk.recordedTime, Math.max(0, duration - 1)))
  const card: LinkCard = {
    id: newId(),
    from,
    to: desk.selection?.to ?? recorded(Math.min(duration, from + USUAL)),
    words: 'Look at this again',
    target: { at: recorded(0) },
    box: { x: 0.06, y: 0.62, width: 0.34, height: 0.1 },
    ink: '#ffffff',
    ground: '#1b4b57',
    corner: 0.02,
  }
  await chosen.put([{ ref: { kind: 'links', list: 'links' }, item: card }], 'A link card')
  desk.selection = null
  chosen.choose({ kind: 'links', list: 'links', id: card.id })
}
</script>

<template>
  <div>
    <p class="quiet">Words on the picture that lead to a web page, or to a place in this lecture.</p>
    <p>
      <el-button type="primary" @click="add"
        ><Plus :size="15" aria-hidden="true" /> Link card at the playhead</el-button
      >
    </p>
    <ItemList :items="items" label="Link cards" empty="No link cards yet.">
      <template #default="{ item }"><LinkForm :key="item.ref.id" :card="cardOf(item.item)" /></template>
    </ItemList>
  </div>
</template>
