<script setup lang="ts">
import { Image } from 'lucide-vue-next'
import { sayFeed } from '#core/record/recording'
import type { Background } from '#core/schema/edit'
import { errorMessage } from '#core/text/error-message'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { db, type AssetRow } from '~/db/database'
import { replaceBackgrounds } from '~/services/backdrops'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { injectStrict } from '~/utils/inject'

/** What is seen behind the speaker on a camera’s picture. */
const desk = useDesk()
const jobs = useJobs()
const media = injectStrict(scriptPlayerKey)
/** The cameras; where there is none, the one picture may be a film of the speaker. */
const cameras = computed(() => {
  const pictures = desk.recording?.feeds.filter((f) => f.kind !== 'sound') ?? []
  const filmed = pictures.filter((f) => f.kind === 'camera')
  return [...new Set((filmed.length > 0 ? filmed : pictures).map((f) => f.id))]
})
const background = computed(() => desk.edit?.background ?? null)
const on = computed(() => background.value?.on ?? cameras.value[0] ?? 'camera')
const kind = computed(() => background.value?.how.kind ?? 'none')
const colour = ref('#dfe6e4')
const problem = ref('')
const set = (how: Background['how'] | null, of = on.value, field?: string) =>
  desk.command({ do: 'background', background: how && { on: of, how } }, field)
async function choose(next: string): Promise<void> {
  problem.value = ''
  if (next === 'none') await set(null)
  else if (next === 'blur') await set({ kind: 'blur' })
  else if (next === 'colour') await set({ kind: 'colour', colour: colour.value })
}
const putPicture = async ([asset]: readonly AssetRow[]) => {
  if (asset) await set({ kind: 'picture', file: asset.hash })
}
const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'backdrop')
      .first(),
  [() => desk.lecture?.id],
)
const { lacks } = media.backdrops
async function make(): Promise<void> {
  const { edit, recording, lecture } = desk
  if (!edit || !recording || !lecture) return
  problem.value = ''
  try {
    await replaceBackgrounds(edit, recording, lecture.id, jobs)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  }
}
</script>

<template>
  <section v-if="cameras.length" aria-label="Behind the speaker">
    <h2>Behind the speaker</h2>
    <el-select
      v-if="cameras.length > 1 && background"
      :model-value="on"
      aria-label="Camera whose background is replaced"
      @update:model-value="background && set(background.how, $event)"
      ><el-option v-for="c in cameras" :key="c" :value="c" :label="sayFeed(c)"
    /></el-select>
    <el-radio-group :model-value="kind" aria-label="Behind the speaker" @update:model-value="choose(String($event))">
      <el-radio value="none">As recorded</el-radio><el-radio value="blur">Blurred</el-radio
      ><el-radio value="colour">A colour</el-radio
      ><el-radio v-if="kind === 'picture'" value="picture">A picture</el-radio>
    </el-radio-group>
    <div class="row">
      <ColourField
        v-if="background?.how.kind === 'colour'"
        label="Colour behind"
        :model-value="background.how.colour"
        @update:model-value="((colour = $event), set({ kind: 'colour', colour: $event }, on, 'background'))"
      />
      <BringButton
        :label="kind === 'picture' ? 'Another picture …' : 'A picture …'"
        field="Picture behind the speaker"
        :icon="Image"
        only="picture"
        @bring="putPicture"
        @problem="problem = $event"
      />
    </div>
    <div v-if="job" role="status" class="job">
      <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Replacing the background" />
      <el-button size="small" @click="jobs.cancel(job.id)">Cancel</el-button>
    </div>
    <template v-else-if="lacks">
      <p class="quiet">
        It is seen once it is made, which takes about as long as the recording, or longer; publishing and saving make it
        otherwise. It is made once.
      </p>
      <el-button type="primary" @click="make">Replace the background</el-button>
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--hairline);
  margin-top: 16px;
  padding-top: 12px;
}
.row {
  display: flex;
  align-items: end;
  gap: 10px;
  margin: 6px 0;
}
.job {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: center;
}
</style>
