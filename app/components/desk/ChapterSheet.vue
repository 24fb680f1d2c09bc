<script setup lang="ts">
import { Plus } from 'lucide-vue-next'
import type { Timed } from '#core/documents/items'
import { proposeChapters, topicBetween, type ChapterProposal } from '#core/marks/propose-chapters'
import type { Chapter } from '#core/schema/marks'
import { sayCount } from '#core/text/words'
import { nextKept, toResult } from '#core/time/time-map'
import { recorded, type RecordedTime } from '#core/time/units'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { stopsKey } from '~/composables/use-stops'
import { newId } from '~/services/ids'
import { useChosen } from '~/stores/chosen'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'
import { itemLanes } from '~/utils/lanes'

/** Chapters: by hand, from the slides, or proposed from what is said; students jump by them. */
const desk = useDesk()
const chosen = useChosen()
const media = injectStrict(scriptPlayerKey)
const stops = injectStrict(stopsKey)
const CHAPTERS = { kind: 'chapters', list: 'chapters' } as const
const items = computed(() => itemLanes.find((l) => l.key === 'chapters')?.items(desk) ?? [])
const chapterOf = (item: Timed) => item as Timed & Chapter
/** A chapter this near, s, is the same. */
const NEAR = 2
const isNew = (at: number) => !items.value.some((i) => Math.abs(i.from - at) < NEAR)

const newChapter = (at: RecordedTime, title: string): Chapter => ({ id: newId(), at, title })
async function add(of: readonly { at: RecordedTime; title: string }[], says: string): Promise<void> {
  const added = of.map(({ at, title }) => ({ ref: CHAPTERS, item: newChapter(at, title) }))
  await chosen.put(added, says)
  const [only] = added
  if (only && added.length === 1) chosen.choose({ ...CHAPTERS, id: only.item.id })
}
const addHere = () => add([{ at: desk.recordedTime, title: '' }], `A chapter at ${desk.sayTime(desk.recordedTime, 1)}`)
/** Chapters that the slides would make: the first at the beginning, each named by its slide, or by what is said there. */
const slides = computed(() => {
  const start = nextKept(desk.map, recorded(0))
  const [first] = stops.slides.value
  const all =
    first && start !== null && first.at - start > NEAR
      ? [{ at: start, title: 'Beginning', numbered: true }, ...stops.slides.value]
      : stops.slides.value
  return all
    .map(({ at, title, numbered }, i) => {
      const topic = numbered && topicBetween(desk.spoken?.cues ?? [], at, all[i + 1]?.at ?? desk.map.duration)
      return { at: i === 0 && start !== null ? start : at, title: topic || title }
    })
    .filter((s) => isNew(s.at))
})
const addSlides = () => add(slides.value, `Chapters from ${sayCount(slides.value.length, 'slide', 'slides')}`)
async function rename({ id, at }: Chapter, title: string): Promise<void> {
  const item: Chapter = { id, at, title }
  await chosen.put([{ ref: CHAPTERS, item }], `Chapter “${title}”`, `title ${id}`)
}

const left = shallowRef<readonly ChapterProposal[]>([])
const proposals = computed(() =>
  proposeChapters(desk.spoken?.cues ?? [], stops.silences.value).filter(
    (p) => isNew(p.at) && !left.value.some((l) => l.at === p.at) && toResult(desk.map, p.at).kind === 'kept',
  ),
)
watch(
  () => desk.lecture?.id,
  () => {
    left.value = []
  },
)
</script>

<template>
  <div>
    <div class="row">
      <el-button type="primary" @click="addHere"
        ><Plus :size="15" aria-hidden="true" /> Chapter at the playhead</el-button
      >
      <el-button :disabled="slides.length === 0" @click="addSlides">{{
        slides.length ? `From ${sayCount(slides.length, 'slide', 'slides')}` : 'From slides'
      }}</el-button>
    </div>
    <ItemList
      :items="items"
      label="Chapters"
      empty="No chapters yet. Students jump by them, and can tell what is where."
    >
      <template #default="{ item }">
        <label class="title"
          >Title
          <el-input
            maxlength="300"
            :model-value="chapterOf(item.item).title"
            aria-label="Title of the chapter"
            @update:model-value="rename(chapterOf(item.item), $event)"
            @keydown.stop
        /></label>
        <RangeFields :ref-to="item.ref" :item="item.item" />
      </template>
    </ItemList>
    <section v-if="proposals.length" class="proposed" aria-label="Proposed chapters">
      <h2>Proposed from what is said</h2>
      <div class="row">
        <el-button
          size="small"
          @click="add(proposals, `${sayCount(proposals.length, 'chapter', 'chapters')} as proposed`)"
          >Take all</el-button
        >
      </div>
      <ul>
        <li v-for="p in proposals" :key="p.at">
          <button type="button" class="where" @click="media.seekRecorded(recorded(p.at))">
            <span class="mono">{{ desk.sayTime(p.at) }}</span> {{ p.title }}
            <small>{{ p.says }}</small>
          </button>
          <el-button size="small" :aria-label="`Take ${p.title}`" @click="add([p], `Chapter “${p.title}”`)"
            >Take</el-button
          >
          <el-button size="small" text :aria-label="`Leave ${p.title}`" @click="left = [...left, p]">Leave</el-button>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.row .el-button {
  margin: 0;
}
.title {
  display: grid;
  gap: 2px;
  font-size: 13px;
  color: var(--quiet);
}
.proposed {
  margin-top: 18px;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 4px;
  border-bottom: 1px solid var(--hairline);
}
li .el-button {
  margin: 0;
}
.where {
  flex: 1;
  text-align: left;
  border: 0;
  background: none;
  padding: 6px 4px;
  cursor: pointer;
}
small {
  display: block;
  color: var(--quiet);
}
</style>
