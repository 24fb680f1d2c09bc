<script setup lang="ts">
import { Plus, Trash2 } from 'lucide-vue-next'
import { sayTrack } from '#core/captions/languages'
import type { CaptionState, TrackRole } from '#core/schema/captions'
import { errorMessage } from '#core/text/error-message'
import { addTrack, deleteTrack, followCaptions, setTrackState } from '~/services/caption-tracks'
import { fingerprints } from '~/services/fingerprint'
import { useDesk } from '~/stores/desk'

/** Which track is open, how far it is, and what students see of it, with what is to be done about that. */
const desk = useDesk()
const emit = defineEmits<{ problem: [says: string] }>()
const track = computed(() => desk.captions)
const adding = ref(false)
const role = ref<TrackRole>('translation')
const language = ref('')
const withTimes = ref(true)
const busy = ref(false)

const states: { state: CaptionState; label: string }[] = [
  { state: 'draft', label: 'Draft' },
  { state: 'checked', label: 'Checked' },
  { state: 'on', label: 'On for students' },
]
/** Whether students see what stands here, where something is published. */
const out = computed(() => {
  const { parts } = desk
  if (!parts?.release) return 'none'
  return parts.release.captions === fingerprints(parts).captions ? 'same' : 'other'
})
/** What students see, and the one thing to do about it. */
const seen = computed((): { good: boolean; says: string; press: 'on' | 'send' | null } => {
  const state = track.value?.state
  if (out.value === 'other')
    return { good: false, says: 'Of captions, students see an earlier state than what stands here.', press: 'send' }
  const isPublished = out.value === 'same'
  if (state === 'on')
    return {
      good: true,
      says: isPublished ? 'Students see these captions.' : 'Students see these captions once the lecture is published.',
      press: null,
    }
  const who = isPublished ? 'The lecture is published, and students do not see' : 'Students will not see'
  const why = state === 'checked' ? 'they are checked, but switched off' : 'they are a draft'
  return { good: false, says: `${who} these captions: ${why}.`, press: 'on' }
})

/** Does what may need the server; what is stored here stays, whatever it says. */
async function act(what: () => Promise<unknown>): Promise<void> {
  emit('problem', '')
  busy.value = true
  try {
    await desk.flush()
    await what()
  } catch (error) {
    emit('problem', errorMessage(error))
  } finally {
    busy.value = false
    await desk.refresh()
  }
}
const follow = (id: string) => followCaptions(id, () => askForAuthor('Students see it at once.'))
const statesElement = useTemplateRef<HTMLElement>('statesElement')
/** To the state that holds: the button that was pressed may be gone with what it was for. */
const focusState = () => focusIfLost(() => statesElement.value?.querySelector<HTMLElement>('[aria-checked=true]'))
async function setState(state: CaptionState): Promise<void> {
  // A button that cannot be pressed for a moment would let go of the focus.
  if (busy.value) return
  await changeState(state)
  await focusState()
}
const changeState = (state: CaptionState) =>
  act(async () => {
    const id = desk.lecture?.id ?? ''
    const before = track.value?.state
    const after = await setTrackState(id, desk.track, state)
    await desk.refresh()
    // A draft that is checked changes nothing for students.
    if (before === 'on' || after === 'on') await follow(id)
  })
defineExpose({ setState })
async function send(): Promise<void> {
  await act(() => follow(desk.lecture?.id ?? ''))
  await focusState()
}

const add = () =>
  act(async () => {
    const from = withTimes.value ? desk.spoken : null
    const name = await addTrack(desk.lecture?.id ?? '', role.value, language.value, from)
    await desk.refresh()
    desk.track = name
    adding.value = false
  })
async function remove(): Promise<void> {
  const says = track.value ? sayTrack(track.value) : ''
  const sure = await ElMessageBox.confirm(
    `All its cues go, with what was done to them. Revisions that were kept still have them.`,
    `Delete ${says}?`,
    { confirmButtonText: 'Delete them', cancelButtonText: 'Leave them' },
  ).catch(() => null)
  if (!sure) return
  await act(async () => {
    const id = desk.lecture?.id ?? ''
    await deleteTrack(id, desk.track)
    desk.track = 'captions'
    await follow(id)
  })
}
</script>

<template>
  <div class="tracks">
    <div v-if="desk.tracks.length" class="which">
      <el-select v-if="desk.tracks.length > 1" v-model="desk.track" aria-label="Track">
        <el-option
          v-for="t in desk.tracks"
          :key="t.name"
          :value="t.name"
          :label="`${sayTrack(t.document)} · ${states.find((s) => s.state === t.document.state)?.label}`"
        />
      </el-select>
      <strong v-else-if="track">{{ sayTrack(track) }}</strong>
      <el-button size="small" :aria-expanded="adding" @click="adding = !adding"
        ><Plus :size="14" aria-hidden="true" /> Another track</el-button
      >
      <el-button v-if="track" size="small" text aria-label="Delete this track" :disabled="busy" @click="remove"
        ><Trash2 :size="15" aria-hidden="true"
      /></el-button>
    </div>
    <form v-if="adding" class="adding" aria-label="Another track" @submit.prevent="add">
      <el-radio-group v-model="role" aria-label="What it is">
        <el-radio value="translation">A translation</el-radio>
        <el-radio value="captions">Captions of what is said</el-radio>
      </el-radio-group>
      <LanguageField v-model="language" label="Language of the track" none="Its language" />
      <el-checkbox v-if="desk.spoken" v-model="withTimes"
        >Begin with the times and words of the first track</el-checkbox
      >
      <div>
        <el-button native-type="submit" type="primary" size="small" :disabled="!language || busy">Begin it</el-button
        ><el-button size="small" @click="adding = false">Cancel</el-button>
      </div>
    </form>
    <template v-if="track">
      <div ref="statesElement" class="states" role="radiogroup" aria-label="State of the captions">
        <button
          v-for="s in states"
          :key="s.state"
          type="button"
          role="radio"
          :aria-checked="track.state === s.state"
          :class="[s.state, { is: track.state === s.state }]"
          :aria-disabled="busy"
          @click="setState(s.state)"
        >
          {{ s.label }}
        </button>
      </div>
      <div class="notice seen" :class="{ good: seen.good }" role="status">
        <span>{{ seen.says }}</span>
        <el-button v-if="seen.press === 'on'" size="small" type="primary" :loading="busy" @click="setState('on')"
          >Switch them on</el-button
        ><el-button v-else-if="seen.press" size="small" type="primary" :loading="busy" @click="send"
          >Show students what stands here</el-button
        >
      </div>
    </template>
  </div>
</template>

<style scoped>
.tracks {
  display: flex;
  flex-direction: column;
  gap: 8px;
  flex: none;
}
.which {
  display: flex;
  gap: 8px;
  align-items: center;
}
.which .el-select {
  flex: 1;
}
.which strong {
  flex: 1;
}
.which .el-button {
  margin: 0;
}
.adding {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px 10px;
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
}
.states {
  display: grid;
  grid-template-columns: 1fr 1fr 1.3fr;
  border: 1px solid #b9c3c0;
  border-radius: var(--control-radius);
  overflow: hidden;
}
.states button {
  border: 0;
  background: var(--paper);
  padding: 4px;
  cursor: pointer;
  border-left: 1px solid var(--hairline);
}
.states .is {
  color: #fff;
  background: var(--marigold-ink);
  font-weight: 600;
}
.states .on.is {
  background: var(--moss-ink);
}
.states :focus-visible {
  outline-offset: -3px;
}
.seen {
  margin: 0;
  padding: 6px 10px;
  font-size: 14px;
  line-height: 1.35;
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
}
</style>
