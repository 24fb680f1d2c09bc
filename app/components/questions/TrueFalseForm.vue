<script setup lang="ts">
import type { KeyOf, OpenOf } from '#core/questions/kinds'
import type { FormChange } from '~/utils/question-forms'

defineProps<{ open: OpenOf<'true-false'>; answerKey: KeyOf<'true-false'> }>()
const emit = defineEmits<{ change: FormChange<'true-false'> }>()
</script>

<template>
  <el-radio-group
    :model-value="answerKey.right"
    aria-label="It is"
    @update:model-value="emit('change', {}, { right: Boolean($event) })"
    ><el-radio :value="true">It is true</el-radio><el-radio :value="false">It is false</el-radio></el-radio-group
  >
</template>
