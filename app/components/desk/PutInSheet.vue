<script setup lang="ts">
import { Clapperboard, Copyright, Image, Plus, Type as TypeIcon } from 'lucide-vue-next'
import { insertLength } from '#core/edit/edit'
import { copyrightNotice, rightsProblem } from '#core/library/rights'
import type { InsertKind } from '#core/schema/edit'
import { formatTimecode, sayDuration } from '#core/time/timecode'
import { recorded, result } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import type { AssetRow } from '~/db/database'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** What is put in between two instants of the recording: cards, pictures, slides and videos. */
const desk = useDesk()
const say = useAssetNames()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const card = reactive({ title: '', text: '', seconds: 4 })
/** How long a picture is seen, s. */
const PICTURE = 5
const COLOURS = { ink: '#f6f7f3', ground: '#1b4b57' }
const problem = ref('')
const excerpting = ref(false)
const where = ref<'playhead' | 'start' | 'end'>('playhead')
const instant = computed(() =>
  where.value === 'start' ? recorded(0) : where.value === 'end' ? desk.map.duration : desk.recordedTime,
)

const placed = computed(() =>
  desk.map.inserts.flatMap(({ id, at, length }) => {
    const what = desk.edit?.inserts.find((i) => i.id === id)?.what
    const ref = { kind: 'edit' as const, list: 'inserts', id }
    return what ? [{ id, at, length, what, ref, on: chosen.has(ref) }] : []
  }),
)

/** Puts in one after the other at one instant. */
async function put(all: readonly InsertKind[], at = instant.value): Promise<void> {
  let first = ''
  for (const what of all) {
    const id = newId()
    if (!(await desk.command({ do: 'insert', id, at, what }))) return
    first ||= id
  }
  problem.value = ''
  const shown = desk.map.inserts.find((i) => i.id === first)
  if (shown) media.seek(shown.at)
}
async function putCard(): Promise<void> {
  await put([{ kind: 'card', ...card, title: card.title.trim(), text: card.text.trim(), ...COLOURS }])
  Object.assign(card, { title: '', text: '' })
}
const putTitle = () =>
  put(
    [
      {
        kind: 'card',
        title: desk.lecture?.title.slice(0, 200) ?? '',
        text: desk.course ? `${desk.course.code} ${desk.course.title}` : '',
        seconds: 4,
        ...COLOURS,
      },
    ],
    recorded(0),
  )
async function putClosing(): Promise<void> {
  const rights = desk.lecture?.rights
  problem.value = rightsProblem(rights)
  if (problem.value || !rights) return
  const text = copyrightNotice(rights).slice(0, 600)
  await put([{ kind: 'card', title: '', text, seconds: 5, ...COLOURS }], desk.map.duration)
}
const bring = (assets: readonly AssetRow[]) =>
  put(
    assets.map(({ kind, hash, duration }) =>
      kind === 'picture'
        ? { kind, file: hash, seconds: PICTURE }
        : { kind, file: hash, from: recorded(0), to: recorded(duration) },
    ),
  )
/** @param field what is being changed bit by bit */
async function change(id: string, changes: Partial<Record<string, unknown>>, field?: string): Promise<void> {
  const insert = desk.edit?.inserts.find((i) => i.id === id)
  if (!insert) return
  const what = { ...insert.what, ...changes } as InsertKind
  await desk.command({ do: 'insert', id, at: insert.at, what }, field && `${field} ${id}`)
}
function open({ ref: own, at, on }: (typeof placed.value)[number]): void {
  if (on) chosen.clear()
  else {
    chosen.choose(own)
    media.seek(result(at))
  }
}
</script>

<template>
  <div>
    <label class="at"
      >Put in
      <el-select v-model="where" aria-label="Where it is put in"
        ><el-option value="playhead" label="at the playhead" /><el-option
          value="start"
          label="at the start" /><el-option value="end" label="at the end" /></el-select
    ></label>
    <div class="row">
      <el-button @click="putTitle"><TypeIcon :size="15" aria-hidden="true" /> Title card</el-button>
      <el-button @click="putClosing"><Copyright :size="15" aria-hidden="true" /> Closing card with rights</el-button>
      <BringButton
        label="Picture, slides or video …"
        field="Picture, slides or video"
        :icon="Image"
        action="Put in"
        @bring="bring"
        @problem="problem = $event"
      />
      <el-button @click="excerpting = true"
        ><Clapperboard :size="15" aria-hidden="true" /> Of another lecture …</el-button
      >
      <LazyExcerptDialog v-if="excerpting" @close="excerpting = false" @take="bring" />
    </div>
    <form class="card" @submit.prevent="putCard">
      <label>Title on the card <el-input v-model="card.title" maxlength="200" /></label>
      <label>Text on the card <el-input v-model="card.text" type="textarea" :rows="2" maxlength="600" /></label>
      <div class="row">
        <label class="short">Seconds <el-input-number v-model="card.seconds" :min="0.5" :max="60" :step="0.5" /></label>
        <el-button type="primary" native-type="submit" :disabled="!card.title.trim() && !card.text.trim()"
          ><Plus :size="15" aria-hidden="true" /> Put in a card</el-button
        >
      </div>
    </form>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <p v-if="placed.length === 0" class="quiet">Nothing is put in yet.</p>
    <ul v-else aria-label="What is put in">
      <li v-for="p in placed" :key="p.id" :class="{ on: p.on }">
        <div class="line">
          <button type="button" class="where" :aria-expanded="p.on" @click="open(p)">
            <span class="mono">{{ formatTimecode(p.at, 1) }}</span> {{ say(p.what) }}
            <span v-if="p.what.kind === 'video'" class="quiet">{{ sayDuration(p.length) }}</span>
          </button>
          <el-input-number
            v-if="p.what.kind !== 'video'"
            size="small"
            :aria-label="`Seconds of “${say(p.what)}”`"
            :model-value="insertLength(p.what)"
            :min="0.5"
            :max="60"
            :step="0.5"
            @change="$event && change(p.id, { seconds: $event })"
          />
          <el-button
            size="small"
            text
            :aria-label="`Drop “${say(p.what)}”`"
            @click="desk.command({ do: 'drop', id: p.id })"
            >Drop</el-button
          >
        </div>
        <div v-if="p.on && p.what.kind === 'card'" class="form">
          <label
            >Title
            <el-input
              maxlength="200"
              :model-value="p.what.title"
              aria-label="Title of this card"
              @update:model-value="change(p.id, { title: $event }, 'title')"
              @keydown.stop
          /></label>
          <label
            >Text
            <el-input
              type="textarea"
              :rows="3"
              maxlength="600"
              :model-value="p.what.text"
              aria-label="Text of this card"
              @update:model-value="change(p.id, { text: $event }, 'text')"
              @keydown.stop
          /></label>
          <div class="row">
            <ColourField
              label="Ink"
              :model-value="p.what.ink"
              @update:model-value="change(p.id, { ink: $event }, 'ink')"
            /><ColourField
              label="Ground"
              :model-value="p.what.ground"
              @update:model-value="change(p.id, { ground: $event }, 'ground')"
            />
          </div>
        </div>
        <div v-else-if="p.on && p.what.kind === 'video'" class="form row">
          <TimeField
            :model-value="p.what.from"
            label="From, in the video"
            :max="p.what.to"
            @update:model-value="change(p.id, { from: $event })"
          /><TimeField
            :model-value="p.what.to"
            label="To"
            :max="media.lengthOf(p.what.file)"
            @update:model-value="change(p.id, { to: $event })"
          />
        </div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.at {
  display: flex;
  align-items: center;
  gap: 8px;
  margin-bottom: 8px;
}
.at .el-select {
  width: 160px;
}
.card,
.form {
  display: grid;
  gap: 8px;
}
.card {
  margin: 12px 0 14px;
}
.form {
  padding: 4px 8px 10px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 14px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: end;
}
.row :deep(.el-button) {
  margin: 0;
  padding: 8px 11px;
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
  border-bottom: 1px solid var(--hairline);
}
li.on {
  border: 1px solid var(--tarn);
  border-radius: var(--control-radius);
}
.line {
  display: flex;
  align-items: center;
  gap: 6px;
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
