<script setup lang="ts">
import {
  checkCues,
  MEASURES,
  mendAll,
  problemKinds,
  sayKind,
  type MeasuresName,
  type ProblemKind,
} from '#core/captions/checks'
import type { CaptionTrack, Cue } from '#core/schema/captions'
import { sayCount } from '#core/text/words'
import { newId } from '~/services/ids'

/** What makes a track hard to read, by kind: where, and a mend for all of a kind. */
const props = defineProps<{ track: CaptionTrack; opened: string | null; covering: ReadonlySet<string> }>()
const emit = defineEmits<{
  open: [cue: Cue]
  /** @param says what is done, for the list of what was done */
  change: [next: (track: CaptionTrack) => CaptionTrack, says: string]
}>()
const { name, measures, choose } = useMeasures()
const problems = computed(() => checkCues(props.track.cues, measures.value, props.covering))
const kinds = computed(() =>
  problemKinds.flatMap((kind) => {
    const of = problems.value.filter((p) => p.kind === kind)
    return of.length > 0 ? [{ kind, found: of }] : []
  }),
)
/** One thing at the foot may be covered by many cues. */
const countOf = (kind: ProblemKind, n: number) =>
  kind === 'covers' ? sayCount(n, 'place', 'places') : sayCount(n, 'cue', 'cues')
const names = Object.keys(MEASURES) as MeasuresName[]
const told = ref('')

/** Goes to the next cue with a problem, of one kind or any. */
function next(kind: ProblemKind | null): void {
  const { cues } = props.track
  const at = cues.findIndex((c) => c.id === props.opened)
  const ids = new Set(problems.value.filter((p) => kind === null || p.kind === kind).map((p) => p.cueId))
  const cue = cues.find((c, i) => i > at && ids.has(c.id)) ?? cues.find((c) => ids.has(c.id))
  if (cue) emit('open', cue)
}
function mend(kind: ProblemKind, count: number): void {
  const { left } = mendAll(props.track, kind, measures.value, newId, props.covering)
  emit('change', (t) => mendAll(t, kind, measures.value, newId, props.covering).track, `Mended all: ${sayKind[kind]}`)
  told.value =
    left === 0
      ? `${countOf(kind, count)} mended.`
      : `${count - Math.min(count, left)} mended; ${sayCount(left, 'needs', 'need')} a look: there is no room.`
}
defineExpose({ next })
</script>

<template>
  <details v-if="track.cues.length" class="problems">
    <summary>
      {{ problems.length === 0 ? 'Nothing is hard to read' : sayCount(problems.length, 'problem', 'problems') }}
      <span class="quiet">for {{ name }}</span>
    </summary>
    <div class="for">
      <span>Measures for</span>
      <el-select :model-value="name" size="small" aria-label="Measures for" @update:model-value="choose">
        <el-option v-for="n in names" :key="n" :value="n" :label="n"
          >{{ n }}
          <span class="quiet"
            >{{ MEASURES[n].lineLength }} a line, {{ MEASURES[n].speed }} a second, {{ MEASURES[n].shortest }}–{{
              MEASURES[n].longest
            }}
            s</span
          ></el-option
        >
      </el-select>
    </div>
    <ul aria-label="Problems by kind">
      <li v-for="{ kind, found } in kinds" :key="kind">
        <button type="button" class="go" @click="next(kind)">
          {{ countOf(kind, found.length) }}: {{ sayKind[kind] }}
        </button>
        <el-button size="small" :aria-label="`Mend all: ${sayKind[kind]}`" @click="mend(kind, found.length)"
          >Mend all</el-button
        >
      </li>
    </ul>
    <p v-if="told" class="quiet" role="status">{{ told }}</p>
  </details>
</template>

<style scoped>
.problems {
  flex: none;
}
summary {
  cursor: pointer;
}
.for {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 6px 0;
}
.for .el-select {
  width: 200px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 3px 0;
  border-top: 1px solid var(--hairline);
}
.go {
  border: 0;
  background: none;
  padding: 2px 0;
  cursor: pointer;
  text-align: left;
  color: var(--marigold-ink);
}
.go:hover {
  text-decoration: underline;
}
p {
  margin: 4px 0 0;
}
</style>
