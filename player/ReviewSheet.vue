<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { lineOf } from '#core/text/rich-text'
import { formatTimecode } from '#core/time/timecode'
import type { WatchView } from '#core/packages/watch-view'
import type { OutboxState } from './outbox'
import { sayInstant } from './say-instant'
import { useFocusInside } from './use-focus-inside'
import type { ShownCheckpoint, ShownQuestion, ShownSet } from './use-lecture'

/** What was answered, put off and left open in each set; handing in; how it came out, and further attempts. */
const props = defineProps<{
  view: WatchView
  isAnswered: (question: ShownQuestion) => boolean
  /** Whether something was done about a set that the server has not confirmed. */
  isEnding: (version: string) => boolean
  /** Checkpoints that were put off. */
  putOff: ReadonlySet<string>
  /** The farthest instant that may be jumped to, s. */
  most: number
  state: OutboxState
}>()
const emit = defineEmits<{
  close: []
  go: [checkpoint: ShownCheckpoint, questionId: string]
  look: [seconds: number]
  handIn: [set: ShownSet]
  begin: [set: ShownSet]
}>()

interface Row {
  checkpoint: ShownCheckpoint
  question: ShownQuestion
  prompt: string
  says: string
  /** Where to look again, s; null where there is nothing to mend. */
  look: number | null
}
function sayReport(question: ShownQuestion, checkpoint: ShownCheckpoint): string {
  const { report, open } = question
  const given = report.kind === 'selected' ? null : report.score
  if (given?.excused) return 'does not count for you'
  if (report.kind === 'unanswered' && given) return `${given.points ?? 0} of ${open.points}`
  if (!props.isAnswered(question)) return props.putOff.has(checkpoint.id) ? 'put off' : 'open'
  if (report.kind !== 'answered') return 'answered'
  const { feedback, score } = report
  const points = score && score.points !== null ? `${score.points} of ${open.points}` : ''
  const share = feedback?.share
  const word =
    share === undefined || share === null
      ? 'answered'
      : share === 1
        ? 'right'
        : share === 0
          ? 'not right'
          : 'partly right'
  return points ? `${word}, ${points}` : word
}
const rowsOf = ({ version }: ShownSet): Row[] =>
  props.view.checkpoints
    .filter((c) => c.set === version)
    .flatMap((checkpoint) =>
      checkpoint.questions
        .filter(({ open }) => open.kind !== 'note')
        .map((question) => {
          const { report } = question
          const feedback = report.kind === 'answered' ? report.feedback : null
          const excused = report.kind === 'answered' && report.score?.excused
          const wrong = !excused && feedback?.share != null && feedback.share < 1
          return {
            checkpoint,
            question,
            prompt: lineOf(question.open.prompt),
            says: sayReport(question, checkpoint),
            look: wrong ? (feedback.lookAt ?? Math.max(0, checkpoint.at - 30)) : null,
          }
        }),
    )
const sets = computed(() =>
  props.view.sets
    .map((set) => ({ set, rows: rowsOf(set), last: set.attempts.at(-1) }))
    .filter(({ rows }) => rows.length > 0)
    .map((one) => ({
      ...one,
      open: one.rows.filter((row) => !props.isAnswered(row.question)).length,
      earlier: one.set.attempts.filter((a) => a.points !== null),
    })),
)
/** Version of the set that is about to be handed in with open questions. */
const asked = ref('')
function handIn(set: ShownSet, open: number): void {
  if (open > 0 && asked.value !== set.version) asked.value = set.version
  else {
    asked.value = ''
    emit('handIn', set)
  }
}
const sayOpen = (open: number) => (open === 1 ? 'One question is open.' : `${open} questions are open.`)

const sheet = useTemplateRef<HTMLElement>('sheet')
useFocusInside(sheet)
</script>

<template>
  <div
    ref="sheet"
    class="sheet"
    role="dialog"
    aria-modal="true"
    aria-labelledby="review"
    tabindex="-1"
    @keydown.esc="emit('close')"
  >
    <div class="page">
      <h2 id="review">Your answers</h2>
      <section v-for="{ set, rows, open, last, earlier } in sets" :key="set.version">
        <h3 v-if="sets.length > 1">{{ set.title }}</h3>
        <p v-if="last?.handedInAt" role="status">
          Handed in {{ sayInstant(last.handedInAt) }}.
          <template v-if="last.points !== null">{{ last.points }} of {{ set.possible }} points.</template>
          <template v-else>Your points are not told yet, or not here.</template>
        </p>
        <p v-else role="status">
          {{ set.attempts.length > 1 ? `Attempt ${set.attempts.length}. ` : ''
          }}{{ open ? sayOpen(open) : 'All questions are answered.' }}
        </p>
        <p v-if="earlier.length > 1 && set.counted !== null">
          {{ earlier.map((a) => `Attempt ${a.number}: ${a.points}`).join(', ') }}. What counts: {{ set.counted }} of
          {{ set.possible }}.
        </p>
        <ul class="answers">
          <li v-for="row in rows" :key="row.question.open.id">
            <button
              type="button"
              :disabled="row.checkpoint.at > most"
              @click="emit('go', row.checkpoint, row.question.open.id)"
            >
              <span class="time">{{ formatTimecode(row.checkpoint.at) }}</span>
              <span class="prompt">{{ row.prompt }}</span>
              <span class="says" :class="{ open: row.says === 'open' || row.says === 'put off' }">{{ row.says }}</span>
            </button>
            <button v-if="row.look !== null" type="button" class="look" @click="emit('look', row.look)">
              Look again, {{ formatTimecode(row.look) }}
            </button>
          </li>
        </ul>
        <p v-if="isEnding(set.version)" role="status">{{ state.trouble || 'On its way …' }}</p>
        <div v-else class="actions">
          <template v-if="!last?.handedInAt">
            <p v-if="asked === set.version" class="sure" role="alert">
              {{ sayOpen(open) }} What is handed in cannot be changed.
            </p>
            <button type="button" :class="{ main: open === 0 }" @click="handIn(set, open)">
              {{ asked === set.version ? 'Hand in all the same' : 'Hand in' }}
            </button>
          </template>
          <button v-if="set.canBegin" type="button" @click="emit('begin', set)">
            Begin attempt {{ set.attempts.length + 1
            }}{{ set.policy.attempts.most ? ` of ${set.policy.attempts.most}` : '' }}
          </button>
        </div>
      </section>
      <div class="actions">
        <button type="button" class="main" @click="emit('close')">Back to the lecture</button>
      </div>
    </div>
  </div>
</template>
