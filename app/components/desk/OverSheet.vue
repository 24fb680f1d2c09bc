<script setup lang="ts">
import { EyeOff, Image, Pencil, Square, Stamp, Type as TypeIcon } from 'lucide-vue-next'
import type { Timed } from '#core/documents/items'
import { sayFeed } from '#core/record/recording'
import type { ShareBox, Stretch, StretchKind, Watermark } from '#core/schema/edit'
import { insertAt } from '#core/time/time-map'
import { sayDuration } from '#core/time/timecode'
import { recorded } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { stageKey } from '~/composables/use-stage'
import type { AssetRow } from '~/db/database'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { itemLanes } from '~/utils/lanes'

/** What is laid over a picture for a stretch of time: text, pictures, videos, hidden areas, drawing, and a mark over all. */
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const stage = injectStrict(stageKey)
/** How long something is there unless a stretch is selected, s. */
const USUAL = 5
const problem = ref('')
const items = computed(() => itemLanes.find((l) => l.key === 'over')?.items(desk) ?? [])
const mark = computed(() => desk.edit?.watermark)
const stretchOf = (item: Timed) => item as Timed & Stretch

/** The picture that something new lies on: the bottom-most that is seen now. */
const target = ref('')
const on = computed(() => {
  const seen = media.pictures.value.map((p) => p.feed)
  return seen.includes(target.value) ? target.value : (seen[0] ?? 'screen')
})

async function lay(what: StretchKind): Promise<void> {
  const { duration } = desk.map
  const from = desk.selection?.from ?? recorded(Math.min(desk.recordedTime, Math.max(0, duration - 1)))
  const to = desk.selection?.to ?? recorded(Math.min(duration, from + USUAL))
  const id = newId()
  if (!(await desk.command({ do: 'stretch', id, from, to, what }))) return
  desk.selection = null
  problem.value = ''
  chosen.choose({ kind: 'edit', list: 'stretches', id })
  // It begins and ends on frames, and is not seen in what is put in between.
  const made = desk.edit?.stretches.find((s) => s.id === id)
  const isSeen = made && desk.recordedTime >= made.from && desk.recordedTime < made.to
  if (made && (!isSeen || insertAt(desk.map, desk.time))) media.seekRecorded(recorded(made.from))
}
const box = (x: number, y: number, width: number, height: number): ShareBox => ({ x, y, width, height })
const layText = () =>
  lay({
    ...{ kind: 'text', on: on.value, box: box(0.1, 0.1, 0.5, 0.14) },
    ...{ text: 'Text', ink: '#f6f7f3', ground: '#1b4b57' },
  })
const hide = (how: 'blur' | 'solid') => lay({ kind: 'mask', on: on.value, box: box(0.35, 0.3, 0.3, 0.3), how })

async function layFiles(assets: readonly AssetRow[]): Promise<void> {
  // Several slides follow one another.
  for (const { hash, kind } of assets) {
    await lay(
      kind === 'picture'
        ? { kind, on: on.value, box: box(0.56, 0.08, 0.38, 0.38), file: hash, opacity: 1 }
        : { kind, on: on.value, box: box(0.5, 0.1, 0.45, 0.45), file: hash, sound: false },
    )
    const laid = chosen.one?.item
    if (assets.length > 1 && laid && 'to' in laid) media.seekRecorded(recorded(laid.to))
  }
}
function withBurnt({ burnt: _, ...mark }: Watermark, burnt: boolean): Watermark {
  return burnt ? { ...mark, burnt: true } : mark
}
async function putMark([asset]: readonly AssetRow[]): Promise<void> {
  if (!asset) return
  await desk.command({ do: 'watermark', watermark: { file: asset.hash, box: box(0.86, 0.04, 0.1, 0.1), opacity: 0.6 } })
  stage.activeSlot.value = 'mark'
}
</script>

<template>
  <div>
    <p class="quiet">
      {{ desk.selection ? 'Over the stretch that is selected.' : `From the playhead, for ${USUAL} seconds.` }} It stays
      on its picture in every layout.
    </p>
    <div class="row">
      <el-button @click="layText"><TypeIcon :size="15" aria-hidden="true" /> Text</el-button>
      <BringButton
        label="Picture, slides or video …"
        field="Picture, slides or video to lay over"
        :icon="Image"
        action="Lay over"
        @bring="layFiles"
        @problem="problem = $event"
      />
      <el-button @click="lay({ kind: 'strokes', on, strokes: [] })"
        ><Pencil :size="15" aria-hidden="true" /> Draw</el-button
      >
      <el-button @click="hide('blur')"><EyeOff :size="15" aria-hidden="true" /> Blur</el-button>
      <el-button @click="hide('solid')"><Square :size="15" aria-hidden="true" /> Black out</el-button>
    </div>
    <label v-if="media.pictures.value.length > 1" class="on"
      >On
      <el-select :model-value="on" aria-label="Lay over which picture" @update:model-value="target = $event"
        ><el-option
          v-for="p in media.pictures.value"
          :key="p.feed"
          :value="p.feed"
          :label="sayFeed(p.feed)" /></el-select
    ></label>
    <p v-if="problem || desk.problem" class="notice bad" role="alert">{{ problem || desk.problem }}</p>
    <ItemList :items="items" label="What is laid over" empty="Nothing is laid over yet.">
      <template #default="{ item }"><StretchForm :key="item.ref.id" :stretch="stretchOf(item.item)" /></template>
    </ItemList>
    <section class="mark">
      <h2>Mark over the whole lecture</h2>
      <p v-if="!mark" class="quiet">A small picture, such as a crest.</p>
      <template v-else>
        <BoxFields
          :box="mark.box"
          @put="desk.command({ do: 'watermark', watermark: { ...mark, box: $event } }, 'watermark')"
        />
        <el-slider
          :model-value="Math.round(100 * mark.opacity)"
          :min="5"
          aria-label="Opacity of the mark in per cent"
          @update:model-value="
            desk.command({ do: 'watermark', watermark: { ...mark, opacity: Number($event) / 100 } }, 'watermark')
          "
          @keydown.stop
        />
        <el-checkbox
          :model-value="mark.burnt ?? false"
          @update:model-value="
            desk.command({ do: 'watermark', watermark: withBurnt(mark, Boolean($event)) }, 'watermark-burnt')
          "
          >Put it into the film itself</el-checkbox
        >
        <p class="quiet">
          {{
            mark.burnt
              ? `All of the picture is encoded anew each time it is published: some ${sayDuration(desk.map.length / 2)}.`
              : 'The player shows it over the film, and publishing takes no longer. Students who may save the film get it without the mark; what you save yourself has it.'
          }}
        </p>
      </template>
      <div class="row">
        <BringButton
          :label="mark ? 'Another mark …' : 'Put a mark …'"
          field="Picture for the mark"
          :icon="Stamp"
          only="picture"
          @bring="putMark"
          @problem="problem = $event"
        />
        <el-button v-if="mark" @click="desk.command({ do: 'watermark', watermark: null })">Take it off</el-button>
      </div>
    </section>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0;
}
.row :deep(.el-button) {
  margin: 0;
  padding: 8px 11px;
}
.on {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 14px;
}
.on .el-select {
  width: 150px;
}
.mark {
  margin-top: 20px;
}
</style>
