<script setup lang="ts">
import { Image, Plus } from 'lucide-vue-next'
import { insertLength, sayInsert } from '#core/edit/edit'
import type { InsertKind } from '#core/schema/edit'
import { errorMessage } from '#core/text/error-message'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded, result } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { addAsset } from '~/services/assets'
import { newId } from '~/services/ids'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { injectStrict } from '~/utils/inject'

/** What is put in between two instants of the recording: cards, pictures and videos. */
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const jobs = useJobs()
const card = reactive({ title: '', text: '', seconds: 4 })
const file = useTemplateRef<HTMLInputElement>('file')
/** How long a picture is seen, s. */
const PICTURE = 5
const COLOURS = { ink: '#f6f7f3', ground: '#1b4b57' }
const problem = ref('')

const placed = computed(() =>
  desk.map.inserts.flatMap(({ id, at, length }) => {
    const what = desk.edit?.inserts.find((i) => i.id === id)?.what
    return what ? [{ id, at, length, what }] : []
  }),
)

async function put(what: InsertKind): Promise<void> {
  const id = newId()
  if (!(await desk.command({ do: 'insert', id, at: desk.recordedTime, what }))) return
  problem.value = ''
  const shown = desk.map.inserts.find((i) => i.id === id)
  if (shown) media.seek(shown.at)
}
async function putCard(): Promise<void> {
  await put({ kind: 'card', ...card, title: card.title.trim(), text: card.text.trim(), ...COLOURS })
  Object.assign(card, { title: '', text: '' })
}
async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [chosen] = input.files ?? []
  const { lecture } = desk
  if (!chosen || !lecture) return
  try {
    const { hash, kind, duration } = await addAsset(chosen, lecture.id, jobs)
    await put(
      kind === 'picture'
        ? { kind, file: hash, seconds: PICTURE }
        : { kind, file: hash, from: recorded(0), to: recorded(duration) },
    )
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    input.value = ''
  }
}
function lengthen(id: string, what: InsertKind, seconds: number | undefined): void {
  const insert = desk.edit?.inserts.find((i) => i.id === id)
  if (!insert || what.kind === 'video' || !seconds) return
  void desk.command({ do: 'insert', id, at: insert.at, what: { ...what, seconds } })
}
</script>

<template>
  <div>
    <p class="quiet">It is put in at the playhead; what was recorded goes on after it.</p>
    <form class="card" @submit.prevent="putCard">
      <label>Title on the card <el-input v-model="card.title" maxlength="200" /></label>
      <label>Text on the card <el-input v-model="card.text" type="textarea" :rows="2" maxlength="600" /></label>
      <div class="row">
        <label class="short">Seconds <el-input-number v-model="card.seconds" :min="0.5" :max="60" :step="0.5" /></label>
        <el-button type="primary" native-type="submit" :disabled="!card.title.trim() && !card.text.trim()"
          ><Plus :size="15" aria-hidden="true" /> Put in a card</el-button
        >
        <el-button @click="file?.click()"
          ><Image :size="15" aria-hidden="true" /> Put in a picture or video …</el-button
        >
      </div>
      <input ref="file" type="file" accept="image/*,video/*" hidden aria-label="Picture or video" @change="bring" />
    </form>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="placed.length === 0" class="quiet">Nothing is put in yet.</p>
    <ul v-else aria-label="What is put in">
      <li v-for="{ id, at, length, what } in placed" :key="id">
        <button type="button" class="where" @click="media.seek(result(at))">
          <span class="mono">{{ formatTimecode(at, 1) }}</span> {{ sayInsert(what) }}
          <span v-if="what.kind === 'video'" class="quiet">{{ sayDuration(length) }}</span>
        </button>
        <el-input-number
          v-if="what.kind !== 'video'"
          size="small"
          :aria-label="`Seconds of “${sayInsert(what)}”`"
          :model-value="insertLength(what)"
          :min="0.5"
          :max="60"
          :step="0.5"
          @change="lengthen(id, what, $event)"
        />
        <el-button size="small" text :aria-label="`Drop “${sayInsert(what)}”`" @click="desk.command({ do: 'drop', id })"
          >Drop</el-button
        >
      </li>
    </ul>
  </div>
</template>

<style scoped>
.card {
  display: grid;
  gap: 8px;
  margin: 8px 0 14px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: end;
}
.row .el-button {
  margin: 0;
}
.short {
  width: 154px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 6px;
  border-bottom: 1px solid var(--hairline);
  padding: 4px 0;
}
.where {
  flex: 1;
  min-width: 0;
  text-align: left;
  border: 0;
  background: none;
  padding: 2px 4px;
  cursor: pointer;
  border-radius: 5px;
}
.where:hover {
  background: var(--snow);
}
</style>
