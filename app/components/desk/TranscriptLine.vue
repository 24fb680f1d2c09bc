<script setup lang="ts">
/** The words of one cue in the transcript. It is drawn anew only when something of its own has changed. */
import type { SpokenWord } from '#core/captions/spoken'
import { toResult } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { useDesk } from '~/stores/desk'

defineProps<{
  words: readonly SpokenWord[]
  /** Number of its first word in the whole transcript; all numbers below are such. */
  first: number
  /** The words that are chosen, from the first to the last (with it); −1 for none here. */
  chosenFrom: number
  chosenTo: number
  /** The word that keys act on, and the one that is said now; −1 when it is in another line. */
  active: number
  now: number
  /** Words that were searched for. */
  found: ReadonlySet<number>
}>()
const desk = useDesk()
const isStruck = ({ from, to }: SpokenWord) => toResult(desk.map, recorded((from + to) / 2)).kind === 'removed'
</script>

<template>
  <p role="group" :aria-label="desk.sayTime(words[0]?.from ?? 0)">
    <template v-for="(word, i) in words" :key="i"
      ><span
        :id="`word-${first + i}`"
        class="word"
        role="option"
        :data-word="first + i"
        :aria-selected="first + i >= chosenFrom && first + i <= chosenTo"
        :aria-label="isStruck(word) ? `${word.text}, struck` : undefined"
        :class="{
          struck: isStruck(word),
          now: now === first + i,
          found: found.has(first + i),
          active: active === first + i,
        }"
        >{{ word.text }}</span
      >{{ ' ' }}</template
    >
  </p>
</template>

<style scoped>
p {
  margin: 0;
  padding: 4px 6px;
}
.word {
  cursor: text;
  border-radius: 3px;
  padding: 1px;
}
.word:hover {
  background: var(--snow);
}
.found {
  box-shadow: inset 0 -2px var(--marigold);
}
.now {
  background: var(--marigold-wash);
}
.struck {
  text-decoration: line-through;
  color: #8e4a42;
}
.word[aria-selected='true'] {
  background: #cfe3e6;
}
:focus-visible > p > .active {
  outline: 2px solid var(--tarn);
}
</style>
