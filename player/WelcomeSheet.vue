<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { kindOfQuestion } from '#core/questions/kinds'
import { sayRules } from '#core/questions/say-rules'
import { isEmpty } from '#core/text/rich-text'
import { formatTimecode } from '#core/time/timecode'
import type { WatchView } from '#core/packages/watch-view'
import { RichText } from './RichText'
import { sayInstant } from './say-instant'
import { useFocusInside } from './use-focus-inside'
import type { ShownSet } from './use-lecture'

/** What is to be known of the questions before one begins; they may be read and printed where that is allowed. */
const props = defineProps<{ view: WatchView }>()
const emit = defineEmits<{ close: [] }>()

const reading = ref(false)
const sets = computed(() =>
  props.view.sets.map((set) => ({
    set,
    rules: sayRules(set.policy, sayInstant),
    questions: set.policy.readBefore ? questionsOf(set) : [],
  })),
)
const questionsOf = ({ version }: ShownSet) =>
  props.view.checkpoints
    .filter((c) => c.set === version)
    .flatMap((c) => c.questions.map(({ open }) => ({ at: c.at, open })))
    .filter(({ open }) => open.kind !== 'note')
const canRead = computed(() => sets.value.some(({ questions }) => questions.length > 0))
const print = () => window.print()

const sheet = useTemplateRef<HTMLElement>('sheet')
useFocusInside(sheet)
</script>

<template>
  <div
    ref="sheet"
    class="sheet printed"
    role="dialog"
    aria-modal="true"
    aria-labelledby="welcome"
    tabindex="-1"
    @keydown.esc="emit('close')"
  >
    <div class="page">
      <h2 id="welcome">{{ view.title }}</h2>
      <section v-for="{ set, rules, questions } in sets" :key="set.version">
        <h3 v-if="sets.length > 1">{{ set.title }}</h3>
        <RichText v-if="!isEmpty(set.policy.welcome)" :text="set.policy.welcome" />
        <ul v-if="rules.length" class="rules">
          <li v-for="rule in rules" :key="rule">{{ rule }}</li>
        </ul>
        <ol v-if="reading && questions.length" class="questions">
          <li v-for="{ at, open } in questions" :key="open.id">
            <p class="points">
              At {{ formatTimecode(at)
              }}{{ open.points ? ` · ${open.points} ${open.points === 1 ? 'point' : 'points'}` : '' }}
            </p>
            <RichText :text="open.prompt" />
            <p class="points">{{ kindOfQuestion(open).asks }}</p>
            <ul v-if="'choices' in open">
              <li v-for="c in open.choices" :key="c.id"><RichText :text="c.text" flat /></li>
            </ul>
          </li>
        </ol>
      </section>
      <div class="actions unprinted">
        <button type="button" class="main" @click="emit('close')">To the lecture</button>
        <button v-if="canRead && !reading" type="button" @click="reading = true">Read the questions</button>
        <button v-if="reading" type="button" @click="print">Print</button>
      </div>
    </div>
  </div>
</template>
