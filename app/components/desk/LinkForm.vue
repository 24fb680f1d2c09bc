<script setup lang="ts">
import { isWebAddress, type LinkCard } from '#core/schema/marks'
import type { ShareBox } from '#core/schema/edit'
import { contrast, ENOUGH, luminanceOf } from '#core/picture/contrast'
import { aboveCaptions, captionZone, overlaps } from '#core/picture/placing'
import { recorded } from '#core/time/units'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'

/** One link card: its words, where it leads, its place and its looks. */
const props = defineProps<{ card: LinkCard }>()
const desk = useDesk()
const chosen = useChosen()
const own = computed(() => ({ kind: 'links' as const, list: 'links', id: props.card.id }))
const moved = ref(false)

const change = (changes: Partial<LinkCard>, field?: string) =>
  chosen.put(
    [{ ref: own.value, item: { ...props.card, ...changes } }],
    `Changed link card “${changes.words ?? props.card.words}”`,
    field && `${field} ${props.card.id}`,
  )
async function place(box: ShareBox): Promise<void> {
  moved.value = overlaps(box, captionZone)
  await change({ box: aboveCaptions(box) }, 'box')
}

const leads = computed(() =>
  'url' in props.card.target ? 'web' : 'chapter' in props.card.target ? 'chapter' : 'place',
)
/** Where it is to lead, also while the address is not one yet. */
const wanted = ref(leads.value)
const address = ref('url' in props.card.target ? props.card.target.url : 'https://')
const bad = ref('')
watch(leads, (now) => {
  wanted.value = now
})
watch(
  () => props.card.target,
  (target) => {
    if ('url' in target) address.value = target.url
  },
)
const chapters = computed(() => desk.chapters?.chapters ?? [])
type Lead = 'web' | 'chapter' | 'place'
async function lead(to: Lead): Promise<void> {
  wanted.value = to
  bad.value = ''
  if (to === 'web') await setAddress()
  else if (to === 'place') await change({ target: { at: desk.recordedTime } })
  else if (chapters.value[0]) await change({ target: { chapter: chapters.value[0].id } })
}
async function setAddress(): Promise<void> {
  const typed = address.value.trim()
  if (typed === '' || typed === 'https://') return
  const whole = /^[a-z][a-z0-9+.-]*:/i.test(typed) ? typed : `https://${typed}`
  if (!isWebAddress(whole) || !URL.canParse(whole)) {
    bad.value = 'Write a web address that begins with https:// or http://.'
    return
  }
  bad.value = ''
  address.value = whole
  await change({ target: { url: whole } })
}
const ratio = computed(() => contrast(luminanceOf(props.card.ink), luminanceOf(props.card.ground)))
</script>

<template>
  <label class="field"
    >Words
    <el-input
      maxlength="200"
      :model-value="card.words"
      aria-label="Words on the card"
      @update:model-value="change({ words: $event }, 'words')"
      @keydown.stop
  /></label>
  <el-radio-group :model-value="wanted" aria-label="Where it leads" @update:model-value="lead($event as Lead)">
    <el-radio value="web">A web page</el-radio><el-radio value="place">An instant here</el-radio
    ><el-radio value="chapter" :disabled="chapters.length === 0">A chapter</el-radio>
  </el-radio-group>
  <label v-if="wanted === 'web'" class="field"
    >Web address
    <el-input v-model="address" aria-label="Web address" maxlength="2000" @change="setAddress" @keydown.stop />
    <small v-if="bad" role="alert">{{ bad }}</small>
  </label>
  <div v-else-if="wanted === 'place' && 'at' in card.target" class="row">
    <DeskTimeField
      :model-value="card.target.at"
      label="Leads to"
      @update:model-value="change({ target: { at: recorded($event) } })"
    />
    <el-button link @click="change({ target: { at: desk.recordedTime } })">To the playhead</el-button>
  </div>
  <el-select
    v-else-if="'chapter' in card.target"
    :model-value="card.target.chapter"
    aria-label="Chapter that it leads to"
    @update:model-value="change({ target: { chapter: $event } })"
    ><el-option
      v-for="c in chapters"
      :key="c.id"
      :value="c.id"
      :label="`${desk.sayTime(c.at)} ${c.title || 'Chapter'}`"
  /></el-select>
  <RangeFields :ref-to="own" :item="card" />
  <BoxFields :box="card.box" @put="place" />
  <p v-if="moved" class="small" role="status">Captions are shown at the foot; the card stands above them.</p>
  <div class="row">
    <ColourField label="Ink" :model-value="card.ink" @update:model-value="change({ ink: $event }, 'ink')" />
    <ColourField label="Ground" :model-value="card.ground" @update:model-value="change({ ground: $event }, 'ground')" />
    <label class="field corner"
      >Corners
      <el-slider
        :model-value="Math.round(card.corner * 1000)"
        :max="100"
        aria-label="Roundness of the corners"
        @update:model-value="change({ corner: Number($event) / 1000 }, 'corner')"
        @keydown.stop
    /></label>
  </div>
  <p class="small" :class="{ low: ratio < ENOUGH.text }">
    {{
      ratio < ENOUGH.text
        ? `Hard to read: contrast ${ratio.toFixed(1)} : 1, ${ENOUGH.text} : 1 is needed.`
        : `Contrast ${ratio.toFixed(1)} : 1`
    }}
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
  gap: 10px;
  align-items: end;
}
.corner {
  flex: 1;
  padding-right: 8px;
}
small,
.low {
  color: var(--ember);
}
.small {
  margin: 0;
  font-size: 14px;
}
.small:not(.low) {
  color: var(--quiet);
}
</style>
