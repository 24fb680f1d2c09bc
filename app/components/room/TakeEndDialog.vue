<script setup lang="ts">
import type { Lecture, Take } from '#core/schema/lecture'
import { sayDuration } from '#core/time/timecode'
import { describeLecture } from '~/services/lectures'

/**
 * What becomes of a recording that has just ended: kept, or discarded after being asked twice; described, and copied as
 * files.
 */
defineProps<{ lecture: Lecture; takes: readonly Take[]; seconds: number; says: string }>()
const emit = defineEmits<{ keep: []; discard: [] }>()

async function discard(): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'For a day it can be brought back here; then it is deleted for good.',
    'Really discard it?',
    {
      confirmButtonText: 'Discard it',
      cancelButtonText: 'Do not discard',
      confirmButtonClass: 'el-button--danger',
      type: 'warning',
    },
  ).then(
    () => true,
    () => false,
  )
  if (sure) emit('discard')
}
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Keep this recording?"
    width="560px"
    :close-on-click-modal="false"
    :close-on-press-escape="false"
    :show-close="false"
  >
    <p v-if="says" class="notice bad" role="alert">{{ says }}</p>
    <p>
      {{ sayDuration(seconds) }} were recorded{{ takes.length > 1 ? `, in ${takes.length} takes end to end` : '' }}.
    </p>
    <p v-for="t in takes.filter((x) => x.note)" :key="t.id" class="notice">{{ t.note }}</p>
    <ParticularsForm :lecture="lecture" @change="describeLecture(lecture, $event)" />
    <FeedFiles :title="lecture.title" :takes="takes" class="files" />
    <template #footer
      ><el-button @click="discard">Discard and start over</el-button
      ><el-button type="primary" @click="emit('keep')">Keep it</el-button></template
    >
  </el-dialog>
</template>

<style scoped>
p {
  margin: 0 0 10px;
}
.files {
  margin-top: 14px;
}
</style>
