<script setup lang="ts">
import type { RichText } from '#core/schema/rich-text'
import { plainOf, richOf } from '#core/text/rich-text'

/** A field for text of a question. */
withDefaults(defineProps<{ text: RichText; label: string; rows?: number; maxlength?: number }>(), {
  rows: 2,
  maxlength: 5000,
})
const emit = defineEmits<{ change: [text: RichText] }>()
</script>

<template>
  <el-input
    :model-value="plainOf(text)"
    type="textarea"
    :autosize="{ minRows: rows, maxRows: 12 }"
    :maxlength="maxlength"
    :aria-label="label"
    @update:model-value="emit('change', richOf($event))"
  />
</template>
