<script setup lang="ts">
import type { Size } from '#core/picture/layout'
import { captionZone } from '#core/picture/placing'
import { insertAt } from '#core/time/time-map'
import { stageKey } from '~/composables/use-stage'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Over the desk's picture: link cards as students see them, and the frames of what is placed by hand. */
defineProps<{ frame: Size; editable: boolean }>()
const desk = useDesk()
const chosen = useChosen()
const stage = injectStrict(stageKey)
/** As students do not see them over what is put in between. */
const links = computed(() =>
  desk.peek === null && !insertAt(desk.map, desk.time)
    ? (desk.links?.links ?? []).filter((l) => desk.recordedTime >= l.from && desk.recordedTime < l.to)
    : [],
)
const percent = (share: number) => `${100 * share}%`
const inset = (box: { x: number; y: number; width: number; height: number }) => ({
  left: percent(box.x),
  top: percent(box.y),
  width: percent(box.width),
  height: percent(box.height),
})
const othersOf = (key: string) => stage.boxes.value.filter((b) => b.key !== key).map((b) => b.box)
function choose({ ref, key }: { ref: (typeof stage.boxes.value)[number]['ref']; key: string }): void {
  if (ref) {
    if (!chosen.has(ref)) chosen.choose(ref)
  } else stage.activeSlot.value = key.replace(/^slot /, '')
}
</script>

<template>
  <span
    v-for="l in links"
    :key="l.id"
    class="link"
    :style="{ ...inset(l.box), color: l.ink, background: l.ground, borderRadius: `calc(${l.corner} * 100cqh)` }"
    >{{ l.words }}</span
  >
  <template v-if="editable">
    <span v-if="desk.tab === 'links' && links.length" class="zone" :style="inset(captionZone)"><b>Captions</b></span>
    <BoxEditor
      v-for="b in stage.boxes.value"
      :key="b.key"
      :box="b.box"
      :base="b.base"
      :frame="frame"
      :label="b.label"
      :active="b.active"
      :others="othersOf(b.key)"
      @choose="choose(b)"
      @put="b.put"
      @done="desk.flush()"
      @drop="b.drop"
    />
    <DrawLayer v-if="stage.drawing.value" v-bind="stage.drawing.value" :frame="frame" />
  </template>
</template>

<style scoped>
.link {
  position: absolute;
  z-index: 30;
  display: grid;
  place-items: center;
  padding: 2px 6px;
  font-weight: 700;
  text-align: center;
  text-decoration: underline;
  overflow: hidden;
  font-size: clamp(11px, 2.2cqw, 20px);
  pointer-events: none;
}
.zone {
  position: absolute;
  z-index: 20;
  display: grid;
  place-items: center;
  background: repeating-linear-gradient(135deg, rgb(178 58 46 / 18%) 0 6px, rgb(255 255 255 / 30%) 6px 12px);
  border-top: 1px dashed var(--ember);
  font-size: 13px;
  pointer-events: none;
}
.zone b {
  padding: 0 8px;
  border-radius: 4px;
  background: var(--paper);
  color: #7d261d;
}
</style>
