<script setup lang="ts">
import { min } from 'd3-array'
import { ArrowDown, ArrowUp } from 'lucide-vue-next'
import { readyLayouts } from '#core/picture/layout'
import { sayFeed } from '#core/record/recording'
import { sayStretch } from '#core/edit/edit'
import type { Timed } from '#core/documents/items'
import type { Layout, Slot, Stretch } from '#core/schema/edit'
import { recorded } from '#core/time/units'
import equal from 'fast-deep-equal'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { stageKey } from '~/composables/use-stage'
import { stopsKey } from '~/composables/use-stops'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { itemLanes } from '~/utils/lanes'

/** How the pictures share the frame, and where that changes. */
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const stage = injectStrict(stageKey)
const stops = injectStrict(stopsKey)
const items = computed(() => itemLanes.find((l) => l.key === 'layout')?.items(desk) ?? [])
const ready = computed(() => readyLayouts(stage.pictures.value))
const slots = computed(() => (typeof stage.layout.value === 'string' ? null : stage.layout.value))
const chosenReady = computed(() => ready.value.findIndex((r) => equal(r.layout, stage.layout.value)))
async function chooseReady(index: number): Promise<void> {
  const chosenLayout = ready.value[index]
  if (chosenLayout) await stage.setLayout(chosenLayout.layout)
}
const say = (layout: Layout) => sayStretch({ kind: 'layout', layout })

/** Over which stretch the layout at the playhead holds. */
const holds = computed(() => {
  const stretch = stage.layoutStretch.value
  return stretch
    ? `From ${desk.sayTime(stretch.from, 1)} to ${desk.sayTime(stretch.to, 1)}`
    : items.value.length > 0
      ? 'Where no change holds'
      : 'Throughout the lecture'
})
/** The layout is another one from an instant on, until the next change or the end. */
async function changeFrom(at: number): Promise<void> {
  const from = recorded(at)
  const here = desk.edit?.stretches.findLast((s) => s.what.kind === 'layout' && s.from <= at && at < s.to)
  const starts = items.value.map((i) => i.from).filter((t) => t > at + 1e-6)
  const to = recorded(Math.min(here?.to ?? desk.map.duration, min(starts) ?? desk.map.duration, desk.map.duration))
  const id = newId()
  if (!(await desk.command({ do: 'stretch', id, from, to, what: { kind: 'layout', layout: stage.layout.value } })))
    return
  chosen.choose({ kind: 'edit', list: 'stretches', id })
  // It begins on a frame.
  const made = desk.edit?.stretches.find((s) => s.id === id)
  if (made) media.seekRecorded(recorded(made.from))
}
const nextSlide = computed(() => stops.slides.value.find((s) => s.at > desk.recordedTime + 0.01)?.at ?? null)

async function setSlot(at: number, change: Partial<Slot>): Promise<void> {
  if (slots.value) await stage.setLayout(slots.value.map((s, i) => (i === at ? { ...s, ...change } : s)))
}
async function move(at: number, by: number): Promise<void> {
  const next = [...(slots.value ?? [])]
  const [slot] = next.splice(at, 1)
  if (slot) next.splice(at + by, 0, slot)
  await stage.setLayout(next)
}
/** Pictures that the layout does not show. */
const hidden = computed(() => stage.pictures.value.filter((id) => !slots.value?.some((s) => s.feed === id)))
const show = (feed: string) =>
  stage.setLayout([
    ...(slots.value ?? []),
    { feed, box: { x: 0.65, y: 0.05, width: 0.3, height: 0.3 }, fit: 'contain' },
  ])
const stretchOf = (item: Timed) => (item as Timed & Stretch).what
</script>

<template>
  <div>
    <p v-if="stage.pictures.value.length < 2" class="quiet">
      There is one picture in this recording, which has the whole frame.
    </p>
    <template v-else>
      <h2>At the playhead</h2>
      <p class="quiet">{{ holds }}.</p>
      <el-radio-group
        class="ready"
        :model-value="chosenReady"
        aria-label="Layout at the playhead"
        @update:model-value="chooseReady(Number($event))"
      >
        <el-radio v-for="(r, i) in ready" :key="r.name" :value="i">{{ r.name }}</el-radio>
      </el-radio-group>
      <p v-if="!slots">
        <el-button @click="stage.byHand()">Place them by hand</el-button>
      </p>
      <ul v-else class="slots" aria-label="Pictures, the bottom-most first">
        <li v-for="(s, i) in slots" :key="s.feed" :class="{ on: stage.activeSlot.value === s.feed }">
          <div class="row">
            <button type="button" class="name" @click="stage.activeSlot.value = s.feed">{{ sayFeed(s.feed) }}</button>
            <el-select
              size="small"
              class="fit"
              :model-value="s.fit"
              :aria-label="`${sayFeed(s.feed)} in its place`"
              @update:model-value="setSlot(i, { fit: $event })"
              ><el-option value="contain" label="Whole" /><el-option value="cover" label="Fills its place"
            /></el-select>
            <el-button
              text
              size="small"
              :disabled="i === 0"
              :aria-label="`${sayFeed(s.feed)} further down`"
              @click="move(i, -1)"
              ><ArrowDown :size="15" /></el-button
            ><el-button
              text
              size="small"
              :disabled="i === slots.length - 1"
              :aria-label="`${sayFeed(s.feed)} further up`"
              @click="move(i, 1)"
              ><ArrowUp :size="15" /></el-button
            ><el-button
              text
              size="small"
              :disabled="slots.length < 2"
              :aria-label="`Hide ${sayFeed(s.feed)}`"
              @click="stage.setLayout(slots.filter((_, at) => at !== i))"
              >Hide</el-button
            >
          </div>
          <BoxFields :box="s.box" @put="setSlot(i, { box: $event })" />
        </li>
      </ul>
      <p v-if="slots && hidden.length" class="row">
        <el-button v-for="id in hidden" :key="id" size="small" @click="show(id)">Show {{ sayFeed(id) }}</el-button>
      </p>
      <h2>Changes</h2>
      <div class="row">
        <el-button @click="changeFrom(desk.recordedTime)">Change from the playhead on</el-button>
        <el-button :disabled="nextSlide === null" @click="nextSlide !== null && changeFrom(nextSlide)"
          >Change from the next slide on</el-button
        >
      </div>
      <p v-if="desk.problem" class="notice bad" role="alert">{{ desk.problem }}</p>
      <ItemList :items="items" label="Where the layout changes" empty="The layout is the same throughout.">
        <template #default="{ item }">
          <RangeFields :ref-to="item.ref" :item="item.item" />
          <p v-if="stretchOf(item.item).kind === 'layout'" class="quiet">
            {{ say((stretchOf(item.item) as { layout: Layout }).layout) }}. It is changed above.
          </p>
        </template>
      </ItemList>
    </template>
    <BackgroundForm />
  </div>
</template>

<style scoped>
.ready {
  display: grid;
  grid-template-columns: 1fr 1fr;
  justify-items: start;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  margin: 4px 0;
}
.row .el-button {
  margin: 0;
}
.slots {
  list-style: none;
  margin: 8px 0;
  padding: 0;
}
.slots li {
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  padding: 4px 8px 8px;
  margin-bottom: 6px;
}
.slots li.on {
  border-color: var(--tarn);
}
.name {
  flex: 1;
  text-align: left;
  border: 0;
  background: none;
  padding: 4px 2px;
  cursor: pointer;
  font-weight: 600;
}
.fit {
  width: 118px;
}
h2 {
  margin-top: 12px;
}
</style>
