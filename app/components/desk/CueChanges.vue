<script setup lang="ts">
import { formatTimecode } from '#core/time/timecode'

/** What would change in captions, one by one, each to be taken or left. */
export interface CueChange {
  key: string
  /** s of the recording */
  from: number
  /** The lecture and track, where there are several. */
  where: string
  before: string
  after: string
}
defineProps<{
  changes: readonly CueChange[]
  /** Keys of those that are left as they are. */
  left: ReadonlySet<string>
  /** What taking one does, as its box says it (“Replace”). */
  does: string
}>()
const emit = defineEmits<{ toggle: [key: string] }>()
/** How many are listed; the others are made all the same, and counted. */
const LISTED = 300
</script>

<template>
  <div>
    <ul v-if="changes.length" class="found" aria-label="What would change">
      <li v-for="c in changes.slice(0, LISTED)" :key="c.key">
        <el-checkbox
          :model-value="!left.has(c.key)"
          :aria-label="`${does} at ${formatTimecode(c.from)}${c.where && ` in ${c.where}`}`"
          @update:model-value="emit('toggle', c.key)"
        />
        <div>
          <span class="quiet"
            ><span class="mono">{{ formatTimecode(c.from) }}</span
            ><template v-if="c.where"> {{ c.where }}</template></span
          >
          <span class="before">{{ c.before }}</span>
          <span>{{ c.after }}</span>
        </div>
      </li>
    </ul>
    <p v-if="changes.length > LISTED" class="quiet">and {{ changes.length - LISTED }} more cues.</p>
  </div>
</template>

<style scoped>
.found {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 40vh;
  overflow: auto;
}
.found li {
  display: grid;
  grid-template-columns: 28px 1fr;
  padding: 5px 0;
  border-top: 1px solid var(--hairline);
}
.found li > div {
  display: flex;
  flex-direction: column;
}
.mono {
  margin-right: 8px;
}
.before {
  text-decoration: line-through;
  color: var(--quiet);
}
</style>
