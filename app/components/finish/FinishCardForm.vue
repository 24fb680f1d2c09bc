<script setup lang="ts">
import { fillFields, finishFields, type FieldValues, type FinishField } from '#core/edit/finish'
import type { FinishCard } from '#core/schema/finish'

/** A card of a finish: its words, with fields, how long and in what colours; and what it looks like. */
const props = defineProps<{
  name: string
  /** What a new one says. */
  usual: FinishCard
  /** What the fields say of the lecture it is shown for. */
  values: FieldValues
}>()
const card = defineModel<FinishCard | null>({ required: true })
const set = (changes: Partial<FinishCard>) => {
  if (card.value) card.value = { ...card.value, ...changes }
}
const filled = computed(() =>
  card.value ? [fillFields(card.value.title, props.values), fillFields(card.value.text, props.values)] : [],
)
const unknown = computed(() => [...new Set(filled.value.flatMap((f) => f.unknown))])
const still = computed(() => ({
  kind: 'card' as const,
  title: filled.value[0]?.text ?? '',
  text: filled.value[1]?.text ?? '',
  ink: card.value?.ink ?? '',
  ground: card.value?.ground ?? '',
  seconds: card.value?.seconds ?? 0,
}))
/** px */
const SHOWN = { width: 480, height: 270 }
function insert(field: FinishField): void {
  const text = card.value?.text ?? ''
  set({ text: `${text}${/\S$/.test(text) ? ' ' : ''}{${field}}`.slice(0, 600) })
}
</script>

<template>
  <section :aria-label="`${name} card`">
    <h3>
      <el-checkbox :model-value="card !== null" @update:model-value="card = $event ? { ...usual } : null"
        >{{ name }} card</el-checkbox
      >
    </h3>
    <div v-if="card" class="both">
      <div class="words">
        <label
          >Title
          <el-input
            :model-value="card.title"
            maxlength="200"
            :aria-label="`Title of the ${name.toLowerCase()} card`"
            @update:model-value="set({ title: $event })"
        /></label>
        <label
          >Text
          <el-input
            :model-value="card.text"
            type="textarea"
            :rows="3"
            maxlength="600"
            :aria-label="`Text of the ${name.toLowerCase()} card`"
            @update:model-value="set({ text: $event })"
        /></label>
        <p class="fields">
          Put in
          <button
            v-for="(says, field) in finishFields"
            :key="field"
            type="button"
            :aria-label="`{${field}}: put ${says} into the ${name.toLowerCase()} card`"
            @click="insert(field)"
          >
            {{ `{${field}\}` }}
          </button>
        </p>
        <div class="row">
          <label class="short"
            >Seconds
            <el-input-number
              :model-value="card.seconds"
              :min="0.5"
              :max="60"
              :step="0.5"
              :aria-label="`Seconds of the ${name.toLowerCase()} card`"
              @update:model-value="$event && set({ seconds: $event })"
          /></label>
          <ColourField label="Letters" :model-value="card.ink" @update:model-value="set({ ink: $event })" />
          <ColourField label="Ground" :model-value="card.ground" @update:model-value="set({ ground: $event })" />
        </div>
        <p v-if="unknown.length" class="notice">
          There is no field {{ unknown.map((u) => `“{${u}\}”`).join(' or ') }}; it is shown as it stands.
        </p>
      </div>
      <div class="shown"><StillCanvas :still="still" :box="SHOWN" /></div>
    </div>
  </section>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 18px;
  align-items: start;
}
.words {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
label {
  color: var(--quiet);
  font-size: 14px;
}
.fields {
  margin: 0;
  font-size: 14px;
  color: var(--quiet);
}
.fields button {
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  background: var(--snow);
  color: var(--ink);
  font: 13px var(--mono);
  padding: 2px 6px;
  margin: 0 3px 3px 0;
  cursor: pointer;
}
.row {
  display: flex;
  gap: 14px;
  align-items: end;
}
.short {
  display: grid;
}
.notice {
  margin: 0;
}
.shown {
  aspect-ratio: 16 / 9;
  border-radius: 6px;
  overflow: hidden;
}
@media (max-width: 1100px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
  .shown {
    max-width: 300px;
  }
}
</style>
