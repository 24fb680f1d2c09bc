<script setup lang="ts">
import { Eraser, Highlighter, Pen, Undo2 } from 'lucide-vue-next'
import { inks, widths, type Strokes } from '~/composables/use-strokes'

/** Tools for drawing over the screen while it is recorded. */
const props = defineProps<{ strokes: Strokes }>()
const { tool, ink, width } = props.strokes
const tools = [
  { key: 'pen', label: 'Draw', icon: Pen },
  { key: 'highlighter', label: 'Highlight', icon: Highlighter },
  { key: 'eraser', label: 'Erase', icon: Eraser },
] as const
</script>

<template>
  <section class="bar surface" role="toolbar" aria-label="Draw over the screen">
    <el-button
      v-for="t in tools"
      :key="t.key"
      size="small"
      :type="tool === t.key ? 'primary' : 'default'"
      :aria-pressed="tool === t.key"
      @click="tool = tool === t.key ? null : t.key"
      ><component :is="t.icon" :size="15" aria-hidden="true" /> {{ t.label }}</el-button
    >
    <span class="group" role="group" aria-label="Colour"
      ><button
        v-for="i in inks"
        :key="i.value"
        type="button"
        class="ink"
        :class="{ on: ink === i.value }"
        :aria-label="i.name"
        :aria-pressed="ink === i.value"
        :style="{ background: i.value }"
        @click="ink = i.value"
    /></span>
    <span class="group" role="group" aria-label="Thickness"
      ><button
        v-for="w in widths"
        :key="w.value"
        type="button"
        class="width"
        :class="{ on: width === w.value }"
        :aria-label="w.name"
        :aria-pressed="width === w.value"
        @click="width = w.value"
      >
        <span :style="{ height: `${900 * w.value}px` }" /></button
    ></span>
    <el-button size="small" text @click="strokes.undo()"><Undo2 :size="15" aria-hidden="true" /> Undo</el-button>
    <el-button size="small" text @click="strokes.clear()">Clear</el-button>
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  padding: 6px 12px;
}
.bar .el-button {
  margin: 0;
}
.group {
  display: flex;
  gap: 5px;
}
.ink {
  width: 22px;
  height: 22px;
  border-radius: 50%;
  border: 1px solid var(--quiet);
  cursor: pointer;
}
.on {
  outline: 2px solid var(--tarn);
  outline-offset: 2px;
}
.width {
  width: 30px;
  height: 22px;
  border: 1px solid var(--hairline);
  background: var(--paper);
  border-radius: 6px;
  display: grid;
  align-items: center;
  padding: 0 5px;
  cursor: pointer;
}
.width span {
  background: var(--ink);
  border-radius: 9px;
}
</style>
