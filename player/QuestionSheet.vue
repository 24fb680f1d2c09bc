<script setup lang="ts">
import { createFocusTrap, type FocusTrap } from 'focus-trap'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { kindOfQuestion } from '#core/questions/kinds'
import { isGraded } from '#core/questions/grade'
import { isEmpty } from '#core/text/rich-text'
import type { Answer, OpenQuestion } from '#core/schema/questions'
import { formatTimecode } from '#core/time/timecode'
import type { OutboxState } from './outbox'
import { fields } from './questions'
import { RichText } from './RichText'
import type { ShownCheckpoint, ShownQuestion } from './use-lecture'

const props = defineProps<{
  checkpoint: ShownCheckpoint
  /** What is answered already, also what is not handed in. */
  answerOf: (question: ShownQuestion) => Answer | null
  isAnswered: (question: ShownQuestion) => boolean
  state: OutboxState
}>()
const emit = defineEmits<{
  select: [questionId: string, answer: Answer]
  answer: [questionId: string, answer: Answer]
  goOn: []
  /** At an instant of the lecture, s. */
  look: [seconds: number]
}>()

const sheet = useTemplateRef<HTMLElement>('sheet')
const questions = computed(() => props.checkpoint.questions)
/** Begins with the first that is not answered. */
const at = ref(
  Math.max(
    0,
    questions.value.findIndex((q) => !props.isAnswered(q)),
  ),
)
const shown = computed(() => questions.value[at.value] as ShownQuestion)
const open = computed(() => shown.value.open)
const kind = computed(() => kindOfQuestion(open.value))
const answered = computed(() => props.isAnswered(shown.value))
const answer = ref<Answer | null>(null)
const hintShown = ref(false)
/** What may be handed in before anything is touched: a note is read by going on, and an order may be right as it is. */
const untouched = (question: OpenQuestion): Answer | null =>
  question.kind === 'note'
    ? { kind: 'note' }
    : question.kind === 'order'
      ? { kind: 'order', order: question.choices.map((c) => c.id) }
      : null
watch(
  open,
  (now, before) => {
    if (now.id === before?.id) return
    answer.value = props.answerOf(shown.value) ?? untouched(now)
    hintShown.value = false
  },
  { immediate: true },
)
const report = computed(() => (shown.value.report.kind === 'handed-in' ? shown.value.report : null))
const canHandIn = computed(() => answer.value !== null && kind.value.answerProblem(open.value, answer.value) === null)
/** The one to go to, when this one is answered. */
const next = computed(() => {
  const later = questions.value.findIndex((q, i) => i > at.value && !props.isAnswered(q))
  return later >= 0 ? later : questions.value.findIndex((q) => !props.isAnswered(q))
})

const verdict = computed(() => {
  if (!report.value) return ''
  const { share, points, key } = report.value
  const of = open.value.points
  const right = kind.value.sayKey(open.value, key)
  if (share === null) return isGraded(open.value) ? 'Handed in. A person marks it.' : 'Kept.'
  if (share === 1) return `Right – ${points} of ${of}.`
  return `${share > 0 ? `Partly right – ${points} of ${of}.` : 'Not right.'} The right answer is: ${right}`
})

/** Keeps the keyboard inside the sheet while it covers the picture; a mouse may go on with the rest. */
let trap: FocusTrap | null = null
onMounted(() => {
  if (!sheet.value) return
  const options = { initialFocus: sheet.value, escapeDeactivates: false, allowOutsideClick: true }
  trap = createFocusTrap(sheet.value, options).activate()
})
onBeforeUnmount(() => trap?.deactivate({ returnFocus: false }))

/** How long somebody may pause in writing before it is kept, ms: not every letter is sent. */
const PAUSE = 1000
let begun: { question: string; answer: Answer } | null = null
let keeping: ReturnType<typeof setTimeout> | undefined
function keepBegun(): void {
  clearTimeout(keeping)
  if (begun) emit('select', begun.question, begun.answer)
  begun = null
}
onBeforeUnmount(keepBegun)
function change(to: Answer | null): void {
  answer.value = to
  if (!to) return
  begun = { question: open.value.id, answer: to }
  clearTimeout(keeping)
  if ('text' in to) keeping = setTimeout(keepBegun, PAUSE)
  else keepBegun()
}
function handIn(): void {
  if (!answer.value || !canHandIn.value) return
  clearTimeout(keeping)
  begun = null
  const isNote = open.value.kind === 'note'
  emit('answer', open.value.id, answer.value)
  if (isNote) goOn()
}
function goOn(): void {
  const isOver = next.value < 0 || (next.value === at.value && !answered.value)
  if (isOver) emit('goOn')
  else {
    at.value = next.value
    sheet.value?.focus()
  }
}
</script>

<template>
  <div ref="sheet" class="sheet" role="dialog" aria-modal="true" aria-labelledby="prompt" tabindex="-1">
    <form @submit.prevent="handIn">
      <p class="points">
        {{ open.kind === 'note' ? 'Note' : 'Question'
        }}{{ questions.length > 1 ? ` ${at + 1} of ${questions.length}` : ''
        }}{{ open.points ? ` · ${open.points} ${open.points === 1 ? 'point' : 'points'}` : '' }}
      </p>
      <div id="prompt" role="heading" aria-level="2" class="prompt"><RichText :text="open.prompt" /></div>
      <fieldset v-if="fields[open.kind]" :disabled="answered">
        <legend class="unseen">{{ kind.asks }}</legend>
        <component
          :is="fields[open.kind]"
          :key="open.id"
          :open="open"
          :answer="answer"
          :told="report?.key ?? null"
          :disabled="answered"
          @answer="change"
        />
      </fieldset>
      <div v-if="hintShown && !answered" class="hint"><RichText :text="open.hint" /></div>
      <div class="after" aria-live="polite">
        <template v-if="report">
          <p class="result" :class="{ right: report.share === 1, told: report.share === null }">{{ verdict }}</p>
          <RichText v-if="!isEmpty(report.key.explanation)" :text="report.key.explanation" />
          <button v-if="report.key.lookAt !== null" type="button" @click="emit('look', report.key.lookAt)">
            Look at it again, {{ formatTimecode(report.key.lookAt) }}
          </button>
        </template>
        <p v-else-if="shown.report.kind === 'taken'">Your answer is handed in.</p>
        <p v-else-if="answered">Handed in. {{ state.trouble || 'Waiting for the result …' }}</p>
        <p v-else-if="state.trouble">{{ state.trouble }}</p>
      </div>
      <div class="actions">
        <button v-if="!answered" type="submit" class="main" :disabled="!canHandIn">
          {{ open.kind === 'note' ? 'Go on' : 'Hand in answer' }}
        </button>
        <button v-if="!answered && !isEmpty(open.hint) && !hintShown" type="button" @click="hintShown = true">
          Show a hint
        </button>
        <button v-if="answered && next >= 0" type="button" class="main" @click="goOn">Next question</button>
        <button
          v-if="open.kind !== 'note' || answered"
          type="button"
          :class="{ main: answered && next < 0 }"
          @click="emit('goOn')"
        >
          {{ answered && next < 0 ? 'Go on watching' : 'Answer later' }}
        </button>
      </div>
    </form>
  </div>
</template>
