<script setup lang="ts">
import { computed, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import { kindOfQuestion } from '#core/questions/kinds'
import { isGraded } from '#core/questions/grade'
import { isEmpty } from '#core/text/rich-text'
import type { Answer, OpenQuestion } from '#core/schema/questions'
import { formatTimecode } from '#core/time/timecode'
import type { OutboxState } from './outbox'
import { fields } from './questions'
import { RichText } from './RichText'
import { useFocusInside } from './use-focus-inside'
import type { Manner, ShownCheckpoint, ShownQuestion } from './use-lecture'

const props = defineProps<{
  checkpoint: ShownCheckpoint
  /** What is answered already, also what is not handed in. */
  answerOf: (question: ShownQuestion) => Answer | null
  isAnswered: (question: ShownQuestion) => boolean
  /** Whether it cannot be changed any more. */
  isFinal: (question: ShownQuestion) => boolean
  /** Whether answers may be changed until the set is handed in. */
  canChange: boolean
  /** Whether watching may go on before everything is answered. */
  canPutOff: boolean
  /** The question to begin with; the first that is not answered otherwise. */
  first: string | null
  state: OutboxState
}>()
const emit = defineEmits<{
  select: [questionId: string, answer: Answer]
  answer: [questionId: string, answer: Answer, manner: Manner]
  goOn: []
  /** At an instant of the lecture, s. */
  look: [seconds: number]
}>()

const sheet = useTemplateRef<HTMLElement>('sheet')
const questions = computed(() => props.checkpoint.questions)
const at = ref(
  Math.max(
    0,
    questions.value.findIndex((q) => (props.first === null ? !props.isAnswered(q) : q.open.id === props.first)),
  ),
)
const shown = computed(() => questions.value[at.value] as ShownQuestion)
const open = computed(() => shown.value.open)
const kind = computed(() => kindOfQuestion(open.value))
const answered = computed(() => props.isAnswered(shown.value))
const final = computed(() => props.isFinal(shown.value))
const answer = ref<Answer | null>(null)
const hintShown = ref(false)
/** Whether the answer was changed since it was given. */
const changed = ref(false)
/** Whether it can be given now: for the first time, or another one. */
const canGive = computed(() => !final.value && (!answered.value || changed.value))
const gives = computed(() =>
  open.value.kind === 'note' ? 'Go on' : props.canChange ? 'Keep this answer' : 'Hand in answer',
)
let since = Date.now()
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
    hintShown.value = changed.value = false
    since = Date.now()
  },
  { immediate: true },
)
const report = computed(() => (shown.value.report.kind === 'answered' ? shown.value.report : null))
const solution = computed(() => report.value?.solution ?? null)
const feedback = computed(() => report.value?.feedback ?? null)
const canHandIn = computed(() => answer.value !== null && kind.value.answerProblem(open.value, answer.value) === null)
/** The one to go to, when this one is answered. */
const next = computed(() => {
  const later = questions.value.findIndex((q, i) => i > at.value && !props.isAnswered(q))
  return later >= 0 ? later : questions.value.findIndex((q) => !props.isAnswered(q))
})

/** What is told of the answer, in one line; empty while nothing is. */
const verdict = computed(() => {
  const { feedback: told = null, score = null } = report.value ?? {}
  const share = told?.share
  const of = open.value.points
  if (score?.excused) return 'This does not count for you.'
  const isMarked = isGraded(open.value) && (share === null || score?.points === null)
  const points = score && score.points !== null ? `${score.points} of ${of}` : ''
  const says = !told
    ? ''
    : share === null
      ? isMarked
        ? 'Handed in. A person marks it.'
        : 'Kept.'
      : share === 1
        ? 'Right'
        : share === 0
          ? 'Not right'
          : 'Partly right'
  const right = solution.value && share !== 1 ? kind.value.sayKey(open.value, solution.value) : ''
  const first = [says, share === 0 ? '' : points].filter(Boolean).join(' – ')
  return [first && (first.endsWith('.') ? first : `${first}.`), right && `The right answer is: ${right}`]
    .filter(Boolean)
    .join(' ')
})

useFocusInside(sheet)

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
  changed.value = true
  if (!to) return
  // What was given stands until another is.
  if (answered.value) return
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
  const took = Math.min(86_400, Math.round((Date.now() - since) / 100) / 10)
  emit('answer', open.value.id, answer.value, { took, ...(hintShown.value && { hinted: true }) })
  changed.value = false
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
      <fieldset v-if="fields[open.kind]" :disabled="final">
        <legend class="unseen">{{ kind.asks }}</legend>
        <component
          :is="fields[open.kind]"
          :key="open.id"
          :open="open"
          :answer="answer"
          :told="solution"
          :disabled="final"
          @answer="change"
        />
      </fieldset>
      <div v-if="hintShown && !final" class="hint"><RichText :text="open.hint" /></div>
      <div class="after" aria-live="polite">
        <template v-if="report && verdict">
          <p class="result" :class="{ right: feedback?.share === 1, told: feedback?.share == null }">{{ verdict }}</p>
          <p v-if="feedback?.comment" class="comment">{{ feedback.comment }}</p>
          <RichText v-if="feedback && !isEmpty(feedback.explanation)" :text="feedback.explanation" />
          <button
            v-if="feedback && feedback.lookAt !== null"
            type="button"
            @click="emit('look', feedback?.lookAt ?? 0)"
          >
            Look at it again, {{ formatTimecode(feedback.lookAt) }}
          </button>
        </template>
        <p v-else-if="report">
          {{ final ? 'Your answer is handed in.' : 'Your answer is kept. You can change it until you hand in.' }}
        </p>
        <p v-else-if="answered && !final">Kept. {{ state.trouble }}</p>
        <p v-else-if="answered">Handed in. {{ state.trouble || 'Waiting for the result …' }}</p>
        <p v-else-if="state.trouble">{{ state.trouble }}</p>
      </div>
      <div class="actions">
        <button v-if="canGive" type="submit" class="main" :disabled="!canHandIn">{{ gives }}</button>
        <button v-if="!answered && !isEmpty(open.hint) && !hintShown" type="button" @click="hintShown = true">
          Show a hint
        </button>
        <button v-if="answered && next >= 0" type="button" :class="{ main: !canGive }" @click="goOn">
          Next question
        </button>
        <button
          v-if="(open.kind !== 'note' || answered) && (canPutOff || (answered && next < 0))"
          type="button"
          :class="{ main: answered && next < 0 && !canGive }"
          @click="emit('goOn')"
        >
          {{ answered && next < 0 ? 'Go on watching' : 'Answer later' }}
        </button>
      </div>
    </form>
  </div>
</template>
