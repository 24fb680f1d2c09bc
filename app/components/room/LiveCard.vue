<script setup lang="ts">
import dayjs from 'dayjs'
import type { Course, Lecture } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import type { BroadcastRow } from '~/db/database'
import { announceLive, withdrawLive } from '~/services/broadcast'
import type { SendingState } from '~/services/sending'

/**
 * Whether students can watch while it is recorded: announced before it begins, so that the link is on the course page
 * by then.
 */
const props = defineProps<{
  lecture: Lecture
  course: Course
  announced: BroadcastRow | null
  pictures: readonly string[]
  live: boolean
  locked: boolean
  state: SendingState
}>()
/** Label of the picture that students see; empty for the usual one. */
const shown = defineModel<string>('shown', { required: true })
const opened = ref(false)
const startsAt = ref(new Date())
const busy = ref(false)
const problem = ref('')

const picture = computed({
  get: () => (props.pictures.includes(shown.value) ? shown.value : (props.pictures[0] ?? '')),
  set: (label) => {
    shown.value = label
  },
})
/** What stands on the course page is not what stands here any more. */
const outdated = computed(
  () =>
    props.announced &&
    (props.announced.title !== props.lecture.title ||
      props.announced.place.courseId !== props.lecture.courseId ||
      props.announced.place.week !== props.lecture.week),
)
const sending = computed(() => {
  const { watching, sent, waiting } = props.state
  return [
    watching === 1 ? '1 student watches' : `${watching} students watch`,
    `${(sent / 1e6).toFixed(1)} MB sent`,
    ...(waiting > 3 ? [`${Math.round(waiting)} s wait to be sent`] : []),
  ].join(', ')
})

/** Lectures begin on a multiple of this, ms. */
const STEP = 5 * 60 * 1000

function open(): void {
  startsAt.value = props.announced ? new Date(props.announced.startsAt) : new Date(Math.ceil(Date.now() / STEP) * STEP)
  opened.value = true
}
async function tell(act: () => Promise<void>, says: string): Promise<void> {
  problem.value = ''
  if (!(await askForAuthor())) return
  busy.value = true
  try {
    await act()
    opened.value = false
    ElMessage.success(says)
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
const announce = () =>
  tell(
    () => announceLive(props.lecture, startsAt.value.toISOString()),
    `It stands on the course page of ${props.course.code}, week ${props.lecture.week}.`,
  )
const withdraw = () =>
  tell(async () => {
    if (props.announced) await withdrawLive(props.announced)
  }, 'It is not on the course page any more.')
</script>

<template>
  <section class="surface" aria-label="Watching live">
    <div class="line">
      <span
        >Students watch live<br /><small class="quiet">{{
          !announced
            ? 'not announced'
            : live
              ? sending
              : `announced for ${dayjs(announced.startsAt).format('ddd D MMM, HH:mm')}`
        }}</small></span
      >
      <el-button v-if="!live && !opened" size="small" :disabled="locked" @click="open">{{
        announced ? 'Change …' : 'Announce …'
      }}</el-button>
    </div>
    <form v-if="opened && !live" class="form" @submit.prevent="announce">
      <label for="live-at">Begins</label
      ><el-date-picker
        id="live-at"
        v-model="startsAt"
        type="datetime"
        format="D MMM YYYY HH:mm"
        :clearable="false"
        aria-label="Begins"
      />
      <p class="quiet">
        The link stands on the course page of {{ course.code }}, week {{ lecture.week }}, from now on. The same link
        shows the recording once it is published.
      </p>
      <div class="row">
        <el-button native-type="submit" type="primary" size="small" :loading="busy">{{
          announced ? 'Announce again' : 'Announce it'
        }}</el-button>
        <el-button v-if="announced" size="small" :loading="busy" @click="withdraw">Take it back</el-button>
        <el-button size="small" text @click="opened = false">Leave it</el-button>
      </div>
    </form>
    <template v-if="announced">
      <div v-if="pictures.length > 1" class="pick">
        <label for="live-picture">Students see</label
        ><el-select id="live-picture" v-model="picture" size="small" aria-label="Students see"
          ><el-option v-for="p in pictures" :key="p" :value="p" :label="p"
        /></el-select>
      </div>
      <p v-if="outdated && !opened && !live" class="notice">
        The particulars have changed since it was announced.
        <el-button link @click="announce">Announce them again</el-button>
      </p>
      <p v-if="live && state.trouble" class="notice bad" role="alert">{{ state.trouble }}</p>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
section {
  padding: 6px 12px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  flex: none;
}
section p {
  margin: 0;
}
.line,
.pick {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  line-height: 1.25;
}
.form {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 6px 10px;
  align-items: center;
  font-size: 14px;
}
.form p,
.form .row {
  grid-column: 1 / -1;
}
.form :deep(.el-date-editor) {
  width: 100%;
}
.pick label {
  color: var(--quiet);
  font-size: 14px;
  white-space: nowrap;
}
.pick .el-select {
  max-width: 190px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.row .el-button {
  margin: 0;
}
</style>
