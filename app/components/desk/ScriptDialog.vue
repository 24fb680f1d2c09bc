<script setup lang="ts">
import { alignedWords, type Alignment, type Departure } from '#core/captions/align'
import { encodingOf } from '#core/captions/encoding'
import { scriptWords } from '#core/captions/plain-text'
import { reflow } from '#core/captions/reflow'
import { newTrack } from '#core/captions/track'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { recorded } from '#core/time/units'
import { layScript } from '~/services/captioning'
import { newId } from '~/services/ids'
import { languageOf } from '~/services/lectures'
import { useDesk } from '~/stores/desk'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { injectStrict } from '~/utils/inject'

/** Makes captions of the lecturer's own script: laid along what the recogniser heard, departures decided by a person. */
const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const text = ref('')
const problem = ref('')
const busy = ref(false)
const laid = shallowRef<{ script: string[]; alignment: Alignment } | null>(null)
const kept = ref(new Set<number>())
const heard = computed(() => (desk.spoken?.cues ?? []).flatMap((c) => c.words ?? []))
const found = computed(() => laid.value?.alignment.times.filter((t) => t !== null).length ?? 0)
/** Words of a departure, as many as tell it from others. */
const MOST_SHOWN = 24

async function choose(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  input.value = ''
  if (!file) return
  problem.value = file.size > 4 << 20 ? 'This is larger than any script.' : ''
  if (problem.value) return
  const bytes = new Uint8Array(await file.arrayBuffer())
  text.value = new TextDecoder(encodingOf(bytes)).decode(bytes)
}
async function lay(): Promise<void> {
  const script = scriptWords(text.value)
  busy.value = true
  problem.value = ''
  try {
    kept.value = new Set()
    laid.value = { script, alignment: await layScript(script, heard.value) }
    if (found.value === 0)
      problem.value = 'None of these words are found in what was heard. Is it the script of another lecture?'
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
const wordsOf = (d: Departure) =>
  d.kind === 'besides' ? d.words.map((w) => w.text) : (laid.value?.script.slice(d.from, d.to) ?? [])
function sayWords(d: Departure): string {
  const words = wordsOf(d)
  return words.length > MOST_SHOWN
    ? `${words.slice(0, MOST_SHOWN).join(' ')} … (${words.length} words)`
    : words.join(' ')
}
const startOf = (d: Departure) => (d.kind === 'besides' ? (d.words[0]?.from ?? 0) : d.at)
function listen(d: Departure): void {
  media.seekRecorded(recorded(Math.max(0, startOf(d) - 1)))
  media.play()
}
function toggle(n: number): void {
  const next = new Set(kept.value)
  if (!next.delete(n)) next.add(n)
  kept.value = next
}
async function take(): Promise<void> {
  const { lecture } = desk
  if (!laid.value || !lecture) return
  const cues = reflow(alignedWords(laid.value.script, laid.value.alignment, kept.value), newId)
  const language = desk.spoken?.language ?? (await languageOf(lecture))
  desk.track = 'captions'
  await desk.changeCaptions(newTrack({ cues }, 'person', language), { says: 'Laid the script along what is said' })
  ElMessage.success(`${sayCount(cues.length, 'cue', 'cues')} of the script.`)
  emit('close')
}
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Captions from the script"
    width="min(680px, 94vw)"
    top="6vh"
    @close="emit('close')"
  >
    <p v-if="heard.length === 0" class="notice">
      The script is laid along what the recogniser hears. Draft the captions from the speech first.
    </p>
    <template v-if="!laid">
      <el-input
        v-model="text"
        type="textarea"
        :rows="10"
        aria-label="Script"
        placeholder="Paste what was read or written down"
      />
      <p>
        <label class="file el-button"
          ><input type="file" class="unseen" accept=".txt,text/plain" @change="choose" />From a text file</label
        >
      </p>
    </template>
    <template v-else>
      <p role="status">
        {{ found }} of {{ sayCount(laid.script.length, 'word', 'words') }} are found in what is said.
        {{
          laid.alignment.departures.length
            ? `In ${sayCount(laid.alignment.departures.length, 'place', 'places')} script and speech part:`
            : 'Script and speech go together throughout.'
        }}
      </p>
      <ol v-if="laid.alignment.departures.length" class="departures" aria-label="Where script and speech part">
        <li v-for="(d, n) in laid.alignment.departures" :key="n">
          <button
            type="button"
            class="time mono"
            :aria-label="`Listen at ${desk.sayTime(startOf(d))}`"
            @click="listen(d)"
          >
            {{ desk.sayTime(startOf(d)) }}
          </button>
          <div>
            <span class="quiet">{{ d.kind === 'unsaid' ? 'In the script, not said' : 'Said, not in the script' }}</span>
            <q :class="{ out: !kept.has(n) }">{{ sayWords(d) }}</q>
            <el-checkbox :model-value="kept.has(n)" @update:model-value="toggle(n)">{{
              d.kind === 'unsaid' ? 'Leave it in the captions' : 'Put it into the captions'
            }}</el-checkbox>
          </div>
        </li>
      </ol>
      <p class="quiet">
        What was heard by the recogniser alone has its mistakes. The captions are a draft then; what stands there now
        can be brought back by Undo.
      </p>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <template #footer>
      <el-button v-if="laid" @click="laid = null">Back to the text</el-button>
      <el-button v-else @click="emit('close')">Close</el-button>
      <el-button v-if="laid" type="primary" :disabled="found === 0" @click="take">Take the script</el-button>
      <el-button v-else type="primary" :loading="busy" :disabled="!text.trim() || heard.length === 0" @click="lay"
        >Lay it along what is said</el-button
      >
    </template>
  </el-dialog>
</template>

<style scoped>
.departures {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 46vh;
  overflow: auto;
}
.departures li {
  display: grid;
  grid-template-columns: 64px 1fr;
  padding: 8px 0;
  border-top: 1px solid var(--hairline);
}
.departures li > div {
  display: flex;
  flex-direction: column;
}
.time {
  border: 0;
  background: none;
  color: var(--quiet);
  cursor: pointer;
  align-self: start;
  text-align: left;
}
q.out {
  color: var(--quiet);
}
.file:focus-within {
  outline: 3px solid var(--marigold);
  outline-offset: 2px;
}
</style>
