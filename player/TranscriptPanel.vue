<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { cueAt } from '#core/captions/lookup'
import type { Cue } from '#core/schema/captions'
import { formatTimecode } from '#core/time/timecode'
import { sayCount } from '#core/text/words'
import { findStops, type Stop } from './finding'

const props = defineProps<{
  cues: Cue[]
  /** All that can be found, in the order of time. */
  stops: Stop[]
  time: number
}>()
const emit = defineEmits<{ seek: [seconds: number]; question: [id: string] }>()

const query = ref('')
const list = useTemplateRef<HTMLElement>('list')
const shown = computed(() => findStops(props.stops, query.value))
const now = computed(() => cueAt(props.cues, props.time)?.id)
const names = { cue: '', chapter: 'Chapter', link: 'Link', question: 'Question' }

const go = ({ kind, id, at }: Stop) => (kind === 'question' ? emit('question', id) : emit('seek', at))

// The present line is kept in view inside the list only; the page itself never jumps.
watch(now, async () => {
  await nextTick()
  const line = list.value?.querySelector<HTMLElement>('[aria-current]')
  if (line && list.value && query.value === '')
    list.value.scrollTo({ top: line.offsetTop - list.value.clientHeight / 3 })
})
</script>

<template>
  <aside class="transcript" aria-label="Transcript">
    <label class="search">Search <input v-model="query" type="search" placeholder="words in the lecture" /></label>
    <p class="found" role="status">{{ query ? sayCount(shown.length, 'place', 'places') : '' }}</p>
    <ol ref="list">
      <li v-for="stop in shown" :key="`${stop.kind} ${stop.id}`" :class="stop.kind">
        <button
          type="button"
          :aria-current="stop.kind === 'cue' && stop.id === now ? 'true' : undefined"
          @click="go(stop)"
        >
          <span class="time">{{ formatTimecode(stop.at) }}</span>
          <span v-if="names[stop.kind]" class="kind">{{ `${names[stop.kind]}: ` }}</span><b v-if="stop.speaker"
            >{{ stop.speaker }}: </b
          >{{ stop.text }}
        </button>
      </li>
    </ol>
  </aside>
</template>
