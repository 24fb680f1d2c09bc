<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { cueAt, findCues } from '#core/captions/lookup'
import { speakerOf } from '#core/captions/markup'
import { plainText } from '#core/captions/text'
import type { Cue } from '#core/schema/captions'
import { formatTimecode } from '#core/time/timecode'

const props = defineProps<{ cues: Cue[]; time: number }>()
const emit = defineEmits<{ seek: [seconds: number] }>()

const query = ref('')
const list = useTemplateRef<HTMLElement>('list')
const shown = computed(() => findCues(props.cues, query.value))
const now = computed(() => cueAt(props.cues, props.time)?.id)

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
    <label class="search">Search <input v-model="query" type="search" placeholder="a word that was said" /></label>
    <p class="found" role="status">{{ query ? `${shown.length} ${shown.length === 1 ? 'place' : 'places'}` : '' }}</p>
    <ol ref="list">
      <li v-for="cue in shown" :key="cue.id">
        <button type="button" :aria-current="cue.id === now ? 'true' : undefined" @click="emit('seek', cue.from)">
          <span class="time">{{ formatTimecode(cue.from) }}</span>
          <b v-if="speakerOf(cue.text)">{{ speakerOf(cue.text) }}: </b>{{ plainText(cue.text).replaceAll('\n', ' ') }}
        </button>
      </li>
    </ol>
  </aside>
</template>
