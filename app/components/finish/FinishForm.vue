<script setup lang="ts">
import { useObjectUrl } from '@vueuse/core'
import dayjs from 'dayjs'
import { Stamp } from 'lucide-vue-next'
import { fieldsOf, newFinish, type FieldValues } from '#core/edit/finish'
import type { Finish } from '#core/schema/finish'
import type { ShareBox } from '#core/schema/edit'
import { db, type AssetRow } from '~/db/database'
import { readFile } from '~/db/files'

/** What a finish does. Every change is given out as it is made. */
const finish = defineModel<Finish>({ required: true })
const set = (changes: Partial<Finish>) => {
  finish.value = { ...finish.value, ...changes }
}
const usual = newFinish('', '')
/** Usual loudness of speech on the web, LUFS. */
const TARGET = -16
const problem = ref('')

/** The fields are shown as they are of the latest lecture that is recorded. */
const example = useLive(async () => {
  const cards = (await db.cards.toArray()).filter((c) => c.duration !== null)
  const latest = cards.sort((a, b) => b.lecture.createdAt.localeCompare(a.lecture.createdAt))[0]
  const course = latest && (await db.courses.get(latest.courseId))
  return latest ? { lecture: latest.lecture, course: course ?? null } : null
})
const values = computed<FieldValues>(() => {
  const date = dayjs(example.value?.lecture.createdAt ?? Date.now()).format('D MMMM YYYY')
  const known = example.value && fieldsOf(example.value.lecture, example.value.course, date)
  return {
    title: known?.title || 'A lecture',
    course: known?.course || 'A course',
    week: known?.week || 'Week 1',
    lecturer: known?.lecturer || 'Its lecturer',
    date,
    rights: known?.rights || '© its owner',
  }
})

/** Corners of the picture, and how far from its edges a mark stands, as a share. */
const corners = { 'top left': [0, 0], 'top right': [1, 0], 'bottom left': [0, 1], 'bottom right': [1, 1] } as const
type Corner = keyof typeof corners
const EDGE = 0.03
const boxAt = (corner: Corner, size: number): ShareBox => {
  const [x, y] = corners[corner]
  return { x: EDGE + x * (1 - size - 2 * EDGE), y: EDGE + y * (1 - size - 2 * EDGE), width: size, height: size }
}
const cornerOf = ({ x, y, width, height }: ShareBox): Corner =>
  `${y + height / 2 > 0.5 ? 'bottom' : 'top'} ${x + width / 2 > 0.5 ? 'right' : 'left'}`
const mark = computed(() => finish.value.watermark)
const picture = useLive(() => readFile(mark.value?.file ?? ''), [() => mark.value?.file])
const url = useObjectUrl(() => picture.value ?? null)
function putMark([asset]: readonly AssetRow[]): void {
  if (asset)
    set({
      watermark: {
        file: asset.hash,
        box: mark.value?.box ?? boxAt('top right', 0.1),
        opacity: mark.value?.opacity ?? 0.6,
      },
    })
}
const setMark = (changes: Partial<NonNullable<Finish['watermark']>>) => {
  if (mark.value) set({ watermark: { ...mark.value, ...changes } })
}
const trims = [
  ['ends', 'Silence and false starts at both ends'],
  ['pauses', 'Long pauses, coughs and bumps'],
  ['words', 'Filled pauses, words said twice and starts begun again'],
] as const
</script>

<template>
  <div class="form">
    <label class="name"
      >Name
      <el-input
        :model-value="finish.name"
        maxlength="100"
        aria-label="Name of the finish"
        @update:model-value="set({ name: $event })"
    /></label>
    <FinishCardForm
      name="Opening"
      :usual="usual.opening!"
      :values="values"
      :model-value="finish.opening"
      @update:model-value="set({ opening: $event })"
    />
    <FinishCardForm
      name="Closing"
      :usual="usual.closing!"
      :values="values"
      :model-value="finish.closing"
      @update:model-value="set({ closing: $event })"
    />
    <section aria-label="Mark">
      <h3>Mark over the whole lecture</h3>
      <div class="row">
        <img v-if="mark && url" :src="url" alt="The mark" />
        <BringButton
          :label="mark ? 'Another picture …' : 'Choose a picture …'"
          field="Picture for the mark"
          :icon="Stamp"
          only="picture"
          :owner="finish.id"
          @bring="putMark"
          @problem="problem = $event"
        />
        <template v-if="mark">
          <el-select
            :model-value="cornerOf(mark.box)"
            aria-label="Corner of the mark"
            class="corner"
            @update:model-value="setMark({ box: boxAt($event, mark.box.width) })"
            ><el-option v-for="(_, c) in corners" :key="c" :value="c" :label="c"
          /></el-select>
          <label class="short"
            >Size %
            <el-input-number
              :model-value="Math.round(100 * mark.box.width)"
              :min="3"
              :max="40"
              aria-label="Size of the mark in per cent"
              @update:model-value="$event && setMark({ box: boxAt(cornerOf(mark.box), $event / 100) })"
          /></label>
          <label class="short"
            >Opacity %
            <el-input-number
              :model-value="Math.round(100 * mark.opacity)"
              :min="5"
              :max="100"
              :step="5"
              aria-label="Opacity of the mark in per cent"
              @update:model-value="$event && setMark({ opacity: $event / 100 })"
          /></label>
          <el-button text @click="set({ watermark: null })">No mark</el-button>
        </template>
      </div>
      <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    </section>
    <section aria-label="Take out">
      <h3>Take out what is proposed</h3>
      <p v-for="[key, says] in trims" :key="key">
        <el-checkbox
          :model-value="finish.trims[key]"
          @update:model-value="set({ trims: { ...finish.trims, [key]: !!$event } })"
          >{{ says }}</el-checkbox
        >
      </p>
    </section>
    <section aria-label="Sound">
      <h3>Sound</h3>
      <p>
        <el-checkbox
          :model-value="finish.sound !== null"
          @update:model-value="set({ sound: $event ? { noise: 'keep', loudness: TARGET, truePeak: -1 } : null })"
          >Treat the sound of each</el-checkbox
        >
      </p>
      <template v-if="finish.sound">
        <p>
          <el-checkbox
            :model-value="finish.sound.noise === 'reduce'"
            @update:model-value="finish.sound && set({ sound: { ...finish.sound, noise: $event ? 'reduce' : 'keep' } })"
            >Take out steady noise</el-checkbox
          >
        </p>
        <p>
          <el-checkbox
            :model-value="finish.sound.loudness !== null"
            @update:model-value="finish.sound && set({ sound: { ...finish.sound, loudness: $event ? TARGET : null } })"
            >Bring speech to −16 LUFS</el-checkbox
          >
        </p>
      </template>
    </section>
    <section aria-label="Chapters">
      <h3>Chapters</h3>
      <p>
        <el-checkbox :model-value="finish.chapters" @update:model-value="set({ chapters: !!$event })"
          >A chapter for each slide</el-checkbox
        >
      </p>
    </section>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
section {
  border-top: 1px solid var(--hairline);
  padding-top: 10px;
}
h3 {
  margin: 0 0 6px;
  font-size: 16px;
}
.form :deep(h3 .el-checkbox__label) {
  font-size: 16px;
  font-weight: 600;
}
p {
  margin: 0;
}
.name {
  display: grid;
  max-width: 420px;
  color: var(--quiet);
  font-size: 14px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
}
.row img {
  max-width: 64px;
  max-height: 40px;
}
.corner {
  width: 140px;
}
.short {
  display: grid;
  color: var(--quiet);
  font-size: 14px;
}
</style>
