<script setup lang="ts">
import { X } from 'lucide-vue-next'
import type { Correction } from '#core/captions/word-list'
import { errorMessage } from '#core/text/error-message'
import { findIn, sayFound } from '~/services/replacing'
import { keepWord, wordsOf } from '~/services/words'
import { useDesk } from '~/stores/desk'

/** Offers what was corrected once for the rest of the course, and for its word list. */
const props = defineProps<{ correction: Correction }>()
const emit = defineEmits<{ close: []; replace: [] }>()
const desk = useDesk()
const courseId = computed(() => desk.lecture?.courseId ?? '')
const problem = ref('')
const elsewhere = useLive(
  (signal) =>
    findIn(
      { courseId: courseId.value },
      { find: props.correction.heard, replace: props.correction.said, wholeWords: true, matchCase: false },
      signal,
    ),
  [courseId],
)
const isKept = useLive(
  async () =>
    (await wordsOf(courseId.value)).some(
      (w) => w.text === props.correction.said && w.heard.includes(props.correction.heard),
    ),
  [courseId],
)
async function keep(): Promise<void> {
  try {
    await keepWord(courseId.value, props.correction.said, [props.correction.heard])
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
defineExpose({ keep })
</script>

<template>
  <div class="offer" role="status">
    <span
      >“{{ correction.heard }}” is “{{ correction.said }}”<template v-if="elsewhere?.length"
        >; wrong {{ sayFound(elsewhere) }} more</template
      >.</span
    >
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
    <span class="acts">
      <el-button v-if="elsewhere?.length" size="small" type="primary" title="Alt R" @click="emit('replace')"
        >See and replace</el-button
      >
      <el-button v-if="isKept === false && courseId" size="small" title="Alt K" @click="keep"
        >Keep in the word list</el-button
      >
      <span v-else-if="isKept" class="quiet">In the word list</span>
      <el-button size="small" text aria-label="Put this offer away" @click="emit('close')"
        ><X :size="15" aria-hidden="true"
      /></el-button>
    </span>
  </div>
</template>

<style scoped>
.offer {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  justify-content: space-between;
  padding: 6px 10px;
  border-radius: var(--control-radius);
  background: var(--tarn-wash);
}
.acts {
  display: flex;
  gap: 6px;
  align-items: center;
}
.acts .el-button {
  margin: 0;
}
.bad {
  color: var(--ember);
}
</style>
