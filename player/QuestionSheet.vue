<script setup lang="ts">
import { createFocusTrap, type FocusTrap } from 'focus-trap'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef } from 'vue'
import type { OutboxState } from './outbox'
import type { ShownCheckpoint } from './use-lecture'

const props = defineProps<{ checkpoint: ShownCheckpoint; chosen: string; answered: boolean; state: OutboxState }>()
const emit = defineEmits<{
  select: [questionId: string, choiceId: string]
  answer: [questionId: string, choiceId: string]
  goOn: []
}>()

const sheet = useTemplateRef<HTMLElement>('sheet')
const choice = ref(props.chosen)
const hintShown = ref(false)
const question = computed(() => props.checkpoint.question)
const report = computed(() => (props.checkpoint.report.kind === 'handed-in' ? props.checkpoint.report : null))
const rightText = computed(() => question.value.choices.find((c) => c.id === report.value?.rightChoiceId)?.text ?? '')

/** Keeps the keyboard inside the sheet while it covers the picture; a mouse may go on with the rest. */
let trap: FocusTrap | null = null
onMounted(() => {
  if (!sheet.value) return
  const options = { initialFocus: sheet.value, escapeDeactivates: false, allowOutsideClick: true }
  trap = createFocusTrap(sheet.value, options).activate()
})
onBeforeUnmount(() => trap?.deactivate({ returnFocus: false }))

function pick(id: string): void {
  choice.value = id
  emit('select', question.value.id, id)
}
</script>

<template>
  <div ref="sheet" class="sheet" role="dialog" aria-modal="true" aria-labelledby="prompt" tabindex="-1">
    <form @submit.prevent="choice && emit('answer', question.id, choice)">
      <p class="points">Question · {{ question.points }} {{ question.points === 1 ? 'point' : 'points' }}</p>
      <h2 id="prompt">{{ question.prompt }}</h2>
      <fieldset :disabled="answered">
        <legend class="unseen">Choose one</legend>
        <label
          v-for="c in question.choices"
          :key="c.id"
          class="choice"
          :class="{ right: report?.rightChoiceId === c.id, wrong: report && !report.right && report.choiceId === c.id }"
        >
          <input type="radio" name="choice" :value="c.id" :checked="choice === c.id" @change="pick(c.id)" />
          <span>{{ c.text }}</span>
          <span v-if="report?.rightChoiceId === c.id" class="verdict">right</span>
          <span v-else-if="report && report.choiceId === c.id" class="verdict">yours</span>
        </label>
      </fieldset>
      <p v-if="hintShown && !answered" class="hint">{{ question.hint }}</p>
      <div class="after" aria-live="polite">
        <template v-if="report">
          <p class="result" :class="{ right: report.right }">
            {{
              report.right
                ? `Right – ${report.points} of ${question.points}.`
                : `Not right. The right answer is: ${rightText}`
            }}
          </p>
          <p v-if="report.explanation">{{ report.explanation }}</p>
        </template>
        <p v-else-if="checkpoint.report.kind === 'taken'">Your answer is handed in.</p>
        <p v-else-if="answered">Handed in. {{ state.trouble || 'Waiting for the result …' }}</p>
        <p v-else-if="state.trouble">{{ state.trouble }}</p>
      </div>
      <div class="actions">
        <button v-if="!answered" type="submit" class="main" :disabled="!choice">Hand in answer</button>
        <button v-if="!answered && question.hint && !hintShown" type="button" @click="hintShown = true">
          Show a hint
        </button>
        <button type="button" :class="{ main: answered }" @click="emit('goOn')">
          {{ answered ? 'Go on watching' : 'Answer later' }}
        </button>
      </div>
    </form>
  </div>
</template>
