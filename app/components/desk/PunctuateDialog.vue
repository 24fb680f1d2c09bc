<script setup lang="ts">
import { replaceIn } from '#core/captions/replace'
import { proposeSentences } from '#core/captions/sentences'
import type { CaptionTrack } from '#core/schema/captions'
import { sayCount } from '#core/text/words'
import { sayInstant } from '#core/time/time-map'
import { wordsOf } from '~/services/words'
import { useDesk } from '~/stores/desk'

/** Capitals and full stops for words that were recognised without, proposed by pauses and the word list. */
const props = defineProps<{ track: CaptionTrack }>()
const emit = defineEmits<{
  close: []
  /** @param says what is done, for the list of what was done */
  change: [next: (track: CaptionTrack) => CaptionTrack, says: string]
}>()
const desk = useDesk()
const terms = useLive(async () => (await wordsOf(desk.lecture?.courseId ?? '')).map((w) => w.text))
const proposed = computed(() => (terms.value ? proposeSentences(props.track, terms.value) : null))
const left = ref(new Set<string>())
const chosen = computed(() => (proposed.value ?? []).filter((p) => !left.value.has(p.cueId)))
function toggle(key: string): void {
  const next = new Set(left.value)
  if (!next.delete(key)) next.add(key)
  left.value = next
}
function take(): void {
  const ids = new Set(chosen.value.map((p) => p.cueId))
  emit(
    'change',
    (t) =>
      replaceIn(
        t,
        proposeSentences(t, terms.value ?? []).filter((p) => ids.has(p.cueId)),
      ),
    `Set capitals and full stops in ${sayCount(ids.size, 'cue', 'cues')}`,
  )
  emit('close')
}
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Capitals and full stops"
    width="min(680px, 94vw)"
    top="6vh"
    @close="emit('close')"
  >
    <p>
      A sentence ends where somebody pauses and goes on with another; words of the course’s list are written as they
      stand there. What a person wrote or confirmed stays as it is.
    </p>
    <p v-if="proposed" role="status">
      {{
        proposed.length
          ? `Proposed in ${sayCount(proposed.length, 'cue', 'cues')}.`
          : 'There is nothing to propose: every word has been written or confirmed by a person, or stands right.'
      }}
    </p>
    <CueChanges
      :changes="(proposed ?? []).map((p) => ({ ...p, key: p.cueId, at: sayInstant(desk.map, p.from), where: '' }))"
      :left="left"
      does="Change it"
      @toggle="toggle"
    />
    <template #footer>
      <el-button @click="emit('close')">Close</el-button>
      <el-button type="primary" :disabled="chosen.length === 0" @click="take"
        >Change {{ sayCount(chosen.length, 'cue', 'cues') }}</el-button
      >
    </template>
  </el-dialog>
</template>
