<script setup lang="ts">
import type { SoundTreatment } from '#core/schema/edit'
import { errorMessage } from '#core/text/error-message'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { db } from '~/db/database'
import { quieten } from '~/services/quieting'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'
import { injectStrict } from '~/utils/inject'

/** The sound of the whole lecture: what was measured, what is done to it, and how that sounds. */
const props = defineProps<{ found: ReturnType<typeof useSoundFound>; hasSound: boolean }>()
/** Usual loudness of speech on the web, LUFS. */
const TARGET = -16
const desk = useDesk()
const jobs = useJobs()
const media = injectStrict(scriptPlayerKey)
const { measures, clipping } = props.found
const decibels = (x: number) => (Number.isFinite(x) ? x.toFixed(1).replace('-', '−') : '−∞')
const treatment = computed(() => desk.edit?.sound)
const isTreated = computed(() => treatment.value?.noise === 'reduce' || (treatment.value?.loudness ?? null) !== null)
const problem = ref('')
const treat = (change: Partial<SoundTreatment>) =>
  treatment.value && desk.command({ do: 'sound', treatment: { ...treatment.value, ...change } })

const job = useLive(
  () =>
    db.jobs
      .where('lectureId')
      .equals(desk.lecture?.id ?? '')
      .and((j) => j.state === 'running' && j.kind === 'quiet')
      .first(),
  [() => desk.lecture?.id],
)
/** What is wanted to be heard is made once it is wanted; one that was stopped, when it is asked for again. */
const { lacks } = media.treated
const stopped = ref(false)
async function prepare(): Promise<void> {
  const { recording, lecture } = desk
  if (!recording || !lecture) return
  problem.value = ''
  stopped.value = false
  try {
    await quieten(recording, lecture.id, jobs)
  } catch (error) {
    stopped.value = true
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  }
}
watch([lacks, () => desk.lecture?.id], () => lacks.value && !stopped.value && prepare(), { immediate: true })
</script>

<template>
  <div>
    <LevelList v-if="hasSound" />
    <template v-if="measures.length">
      <dl v-for="m in measures" :key="m.take" class="facts">
        <div v-if="(desk.recording?.takes.length ?? 0) > 1">
          <dt>Take</dt>
          <dd>{{ m.take }}</dd>
        </div>
        <div>
          <dt>Loudness</dt>
          <dd class="mono">{{ decibels(m.loudness.integrated) }} LUFS</dd>
        </div>
        <div>
          <dt>True peak</dt>
          <dd class="mono">{{ decibels(m.loudness.truePeak) }} dBTP</dd>
        </div>
        <div>
          <dt>Noise floor</dt>
          <dd class="mono">{{ decibels(m.noiseFloor) }} dBFS</dd>
        </div>
      </dl>
      <p v-if="clipping.length" class="notice warn">
        The sound clips in {{ clipping.length === 1 ? 'one place' : `${clipping.length} places` }}, the first at
        {{ desk.sayTime(clipping[0]?.from ?? 0, 1) }}. What is distorted cannot be repaired.
      </p>
      <p>
        <el-checkbox
          :model-value="treatment?.noise === 'reduce'"
          @update:model-value="treat({ noise: $event ? 'reduce' : 'keep' })"
          >Take out steady noise</el-checkbox
        >
      </p>
      <p>
        <el-checkbox
          :model-value="treatment?.loudness !== null"
          @update:model-value="treat({ loudness: $event ? TARGET : null })"
          >Bring speech to {{ decibels(TARGET) }} LUFS</el-checkbox
        >
      </p>
      <div v-if="isTreated" class="hear">
        <el-radio-group v-model="desk.hearsTreated" aria-label="What is heard here">
          <el-radio-button :value="true">Hear it treated</el-radio-button
          ><el-radio-button :value="false">As recorded</el-radio-button>
        </el-radio-group>
        <div v-if="job" role="status">
          <el-progress :percentage="Math.round(100 * job.progress)" aria-label="Taking the noise out" />
          <span class="quiet">Until that is there, it is heard with its noise.</span>
        </div>
        <p v-else-if="lacks && stopped">
          <el-button size="small" @click="prepare">Take the noise out, to hear it</el-button>
        </p>
      </div>
      <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    </template>
    <p v-else class="quiet">{{ hasSound ? 'The sound is still being looked through.' : 'There is no sound.' }}</p>
  </div>
</template>

<style scoped>
.facts {
  display: flex;
  gap: 22px;
  margin: 4px 0 10px;
}
.facts dt {
  color: var(--quiet);
  font-size: 14px;
}
.facts dd {
  margin: 0;
}
.hear {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
</style>
