<script setup lang="ts">
import { sayFeed } from '#core/record/recording'
import type { Timed } from '#core/documents/items'
import { sayStretch } from '#core/edit/edit'
import { ENOUGH } from '#core/picture/contrast'
import type { ShareBox, Stretch, StretchKind } from '#core/schema/edit'
import { boxOf, feedOf, stageKey } from '~/composables/use-stage'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Something laid over a picture: its words, colours, place and time. */
const props = defineProps<{ stretch: Stretch }>()
const desk = useDesk()
const chosen = useChosen()
const stage = injectStrict(stageKey)
const ref = computed(() => ({ kind: 'edit' as const, list: 'stretches', id: props.stretch.id }))
const what = computed(() => props.stretch.what)
const box = computed(() => boxOf(props.stretch))
type Heard = 'lecture' | 'video' | 'both'
const heard = computed<Heard>(() =>
  what.value.kind !== 'video' || !what.value.sound ? 'lecture' : what.value.under === undefined ? 'video' : 'both',
)
const hear = (to: Heard) => change({ sound: to !== 'lecture', under: to === 'both' ? -12 : undefined })
const isSeen = computed(() => stage.baseOf(feedOf(props.stretch)) !== null)

/** @param field what is being changed bit by bit */
async function change(changes: Partial<Record<string, unknown>>, field?: string): Promise<void> {
  const next = { ...what.value, ...changes } as StretchKind
  for (const key of Object.keys(changes)) if (changes[key] === undefined) delete (next as Record<string, unknown>)[key]
  const item = { ...props.stretch, what: next } as Timed
  await chosen.put([{ ref: ref.value, item }], `Changed “${sayStretch(next)}”`, field && `${field} ${props.stretch.id}`)
}
const place = (next: ShareBox) => change({ box: next }, 'box')

const orders = computed(() => (desk.edit?.stretches ?? []).map((s) => s.order ?? 0))
async function reorder(to: 'top' | 'bottom'): Promise<void> {
  const others = desk.edit?.stretches.filter((s) => s.id !== props.stretch.id) ?? []
  const all = to === 'top' ? [...others, props.stretch] : [props.stretch, ...others]
  await chosen.put(
    all.map((s, order) => ({ ref: ref.value, item: { ...s, order } as Timed })),
    `“${sayStretch(what.value)}” to the ${to}`,
  )
}

/** Text sizes as shares of the picture's height. */
const sizes = [
  { value: 0, label: 'As large as fits' },
  { value: 0.04, label: 'Small' },
  { value: 0.06, label: 'Medium' },
  { value: 0.09, label: 'Large' },
  { value: 0.14, label: 'Very large' },
] as const
const { ratio } = useContrast(() => (what.value.kind === 'text' ? props.stretch : null))
const needed = computed(() =>
  what.value.kind === 'text' && what.value.size !== undefined && what.value.size < 0.06 ? ENOUGH.text : ENOUGH.large,
)
</script>

<template>
  <RangeFields :ref-to="ref" :item="stretch" />
  <template v-if="what.kind === 'text'">
    <label class="field"
      >Text
      <el-input
        type="textarea"
        :rows="2"
        maxlength="500"
        :model-value="what.text"
        @update:model-value="change({ text: $event }, 'text')"
        @keydown.stop
    /></label>
    <div class="row">
      <label class="field"
        >Size
        <el-select
          :model-value="what.size ?? 0"
          aria-label="Size of the text"
          @update:model-value="change({ size: $event || undefined })"
          ><el-option v-for="s in sizes" :key="s.value" v-bind="s" /></el-select
      ></label>
      <label class="field"
        >Typeface
        <el-select
          :model-value="what.font ?? 'text'"
          aria-label="Typeface"
          @update:model-value="change({ font: $event === 'title' ? 'title' : undefined })"
          ><el-option value="text" label="Text" /><el-option value="title" label="Title" /></el-select
      ></label>
      <label class="field"
        >Alignment
        <el-select
          :model-value="what.align ?? 'center'"
          aria-label="Alignment"
          @update:model-value="change({ align: $event === 'center' ? undefined : $event })"
          ><el-option value="left" label="Left" /><el-option value="center" label="Middle" /><el-option
            value="right"
            label="Right" /></el-select
      ></label>
    </div>
    <div class="row colours">
      <ColourField label="Ink" :model-value="what.ink" @update:model-value="change({ ink: $event }, 'ink')" />
      <ColourField
        v-if="what.ground"
        label="Ground"
        :model-value="what.ground"
        @update:model-value="change({ ground: $event }, 'ground')"
      />
      <el-checkbox
        :model-value="what.ground !== null"
        @update:model-value="change({ ground: $event ? '#1b4b57' : null })"
        >With a ground</el-checkbox
      >
    </div>
    <p v-if="ratio !== null" class="small" :class="{ low: ratio < needed }" role="status">
      {{
        ratio < needed
          ? `Hard to read: contrast ${ratio.toFixed(1)} : 1 to what is beneath, ${needed} : 1 is needed.`
          : `Contrast ${ratio.toFixed(1)} : 1`
      }}
    </p>
  </template>
  <DrawForm
    v-if="what.kind === 'strokes'"
    :strokes="what.strokes"
    :seconds="stretch.to - stretch.from"
    @change="change({ strokes: $event })"
  />
  <el-radio-group
    v-if="what.kind === 'mask'"
    :model-value="what.how"
    aria-label="How it is hidden"
    @update:model-value="change({ how: $event })"
  >
    <el-radio value="blur">Blurred</el-radio><el-radio value="solid">Blacked out</el-radio>
  </el-radio-group>
  <label v-if="what.kind === 'picture'" class="field"
    >Opacity %
    <el-slider
      :model-value="Math.round(100 * what.opacity)"
      :min="5"
      aria-label="Opacity in per cent"
      @update:model-value="change({ opacity: Number($event) / 100 }, 'opacity')"
      @keydown.stop
  /></label>
  <template v-if="what.kind === 'video'">
    <el-radio-group :model-value="heard" aria-label="What is heard" @update:model-value="hear($event as Heard)">
      <el-radio value="lecture">The lecture’s sound</el-radio><el-radio value="video">The video’s</el-radio
      ><el-radio value="both">Both</el-radio>
    </el-radio-group>
    <label v-if="what.under !== undefined" class="field"
      >The lecture’s sound lower by, dB
      <el-input-number
        size="small"
        :model-value="-what.under"
        :min="0"
        :max="60"
        aria-label="The lecture’s sound lower by, dB"
        @change="$event !== undefined && change({ under: -$event })"
    /></label>
  </template>
  <label v-if="stage.pictures.value.length > 1 && what.kind !== 'layout' && what.kind !== 'level'" class="field"
    >On
    <el-select :model-value="feedOf(stretch)" aria-label="On which picture" @update:model-value="change({ on: $event })"
      ><el-option v-for="id in stage.pictures.value" :key="id" :value="id" :label="sayFeed(id)" /></el-select
  ></label>
  <BoxFields v-if="box" :box="box" @put="place" />
  <p v-if="!isSeen" class="small">At the playhead the layout does not show the picture that this lies on.</p>
  <p v-if="orders.length > 1" class="row">
    <el-button size="small" @click="reorder('top')">To the top</el-button>
    <el-button size="small" @click="reorder('bottom')">To the bottom</el-button>
  </p>
</template>

<style scoped>
.field {
  display: grid;
  gap: 2px;
  font-size: 13px;
  color: var(--quiet);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 0;
}
.row .field {
  flex: 1 1 96px;
}
.row.colours {
  align-items: end;
}
.row .el-button {
  margin: 0;
}
.small {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
.low {
  color: var(--ember);
  font-weight: 600;
}
</style>
