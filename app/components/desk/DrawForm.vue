<script setup lang="ts">
import { ArrowUpRight, Circle, Eraser, Highlighter, Minus, Pen, Square } from 'lucide-vue-next'
import { isAtOnce, retimed } from '#core/picture/strokes'
import type { Stroke } from '#core/schema/edit'
import { stageKey } from '~/composables/use-stage'
import { inks, widths } from '~/composables/use-strokes'
import { injectStrict } from '~/utils/inject'

/** What a drawing is drawn with, and whether it is there at once or as it was drawn. */
const props = defineProps<{ strokes: readonly Stroke[]; seconds: number }>()
const emit = defineEmits<{ change: [strokes: Stroke[]] }>()
const stage = injectStrict(stageKey)
const tools = [
  { key: 'pen', label: 'Pen', icon: Pen },
  { key: 'highlighter', label: 'Highlighter', icon: Highlighter },
  { key: 'line', label: 'Line', icon: Minus },
  { key: 'arrow', label: 'Arrow', icon: ArrowUpRight },
  { key: 'box', label: 'Box', icon: Square },
  { key: 'ellipse', label: 'Ellipse', icon: Circle },
  { key: 'eraser', label: 'Eraser', icon: Eraser },
] as const
const how = computed(() => (props.strokes.length > 0 && isAtOnce(props.strokes) ? 'at-once' : 'drawn'))
const aspect = computed(() => {
  const base = stage.drawing.value?.base
  return base ? base.width / base.height : 16 / 9
})
const retime = (to: 'at-once' | 'drawn') => emit('change', retimed(props.strokes, to, aspect.value, props.seconds))
</script>

<template>
  <div class="tools" role="toolbar" aria-label="Draw with">
    <button
      v-for="t in tools"
      :key="t.key"
      type="button"
      :class="{ on: stage.tool.value === t.key }"
      :aria-label="t.label"
      :title="t.label"
      :aria-pressed="stage.tool.value === t.key"
      @click="stage.tool.value = t.key"
    >
      <component :is="t.icon" :size="16" aria-hidden="true" />
    </button>
  </div>
  <div class="row">
    <span role="group" aria-label="Colour"
      ><button
        v-for="i in inks"
        :key="i.value"
        type="button"
        class="ink"
        :class="{ on: stage.ink.value === i.value }"
        :aria-label="i.name"
        :aria-pressed="stage.ink.value === i.value"
        :style="{ background: i.value }"
        @click="stage.ink.value = i.value"
    /></span>
    <el-select v-model="stage.width.value" size="small" class="width" aria-label="Thickness"
      ><el-option v-for="w in widths" :key="w.value" :value="w.value" :label="w.name"
    /></el-select>
    <el-button size="small" :disabled="strokes.length === 0" @click="emit('change', [])">Clear</el-button>
  </div>
  <el-radio-group :model-value="how" aria-label="When it is there" @update:model-value="retime($event as typeof how)">
    <el-radio value="drawn">As it is drawn</el-radio><el-radio value="at-once">All of it at once</el-radio>
  </el-radio-group>
  <p v-if="strokes.length === 0" class="small">Draw on the picture.</p>
</template>

<style scoped>
.tools,
.row,
.row span {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
}
.tools button {
  display: grid;
  place-items: center;
  width: 34px;
  height: 30px;
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  background: var(--paper);
  cursor: pointer;
}
.tools .on {
  background: var(--tarn);
  color: #fff;
}
.ink {
  width: 22px;
  height: 22px;
  border-radius: 50%;
  border: 1px solid var(--quiet);
  cursor: pointer;
}
.ink.on {
  outline: 2px solid var(--tarn);
  outline-offset: 2px;
}
.width {
  width: 104px;
}
.small {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
</style>
