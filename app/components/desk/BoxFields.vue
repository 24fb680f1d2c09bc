<script setup lang="ts">
import { LEAST } from '#core/picture/placing'
import type { ShareBox } from '#core/schema/edit'

/** A box on a picture by numbers, in per cent of its width and height. */
const props = defineProps<{ box: ShareBox }>()
const emit = defineEmits<{ put: [box: ShareBox] }>()
const fields = [
  { key: 'x', label: 'Left' },
  { key: 'y', label: 'Top' },
  { key: 'width', label: 'Width' },
  { key: 'height', label: 'Height' },
] as const
const shown = (share: number) => Math.round(1000 * share) / 10
/** What is typed holds; what then reaches out of the picture gives way. */
function change(key: keyof ShareBox, percent: number | undefined): void {
  if (percent === undefined) return
  const next = { ...props.box, [key]: percent / 100 }
  if (key === 'x') next.width = Math.min(next.width, 1 - next.x)
  if (key === 'width') next.x = Math.min(next.x, 1 - next.width)
  if (key === 'y') next.height = Math.min(next.height, 1 - next.y)
  if (key === 'height') next.y = Math.min(next.y, 1 - next.height)
  emit('put', next)
}
</script>

<template>
  <div class="fields" role="group" aria-label="Place on the picture, in per cent">
    <label v-for="f in fields" :key="f.key"
      >{{ f.label }} %
      <el-input-number
        size="small"
        :controls="false"
        :model-value="shown(box[f.key])"
        :min="f.key === 'x' || f.key === 'y' ? 0 : 100 * LEAST"
        :max="f.key === 'x' || f.key === 'y' ? 100 - 100 * LEAST : 100"
        :precision="1"
        @change="change(f.key, $event)"
    /></label>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 6px;
}
label {
  font-size: 13px;
  color: var(--quiet);
}
.fields :deep(.el-input-number) {
  width: 100%;
}
</style>
