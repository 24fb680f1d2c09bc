<script setup lang="ts">
import { FileVideo } from 'lucide-vue-next'
import type { Take } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import { bringIn } from '~/services/importing'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** A file that was not copied whole is brought in again, and what was done to it goes on. */
const props = defineProps<{ take: Take & { source: NonNullable<Take['source']> } }>()
const jobs = useJobs()
const file = useTemplateRef<HTMLInputElement>('file')
const problem = ref('')

async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [chosen] = input.files ?? []
  if (!chosen) return
  const { name, size } = props.take.source
  try {
    if (chosen.name !== name || chosen.size !== size)
      throw new Error(`This is another file. “${name}” of ${(size / 1e6).toFixed(1)} MB is waited for.`)
    problem.value = ''
    await bringIn(chosen, props.take.lectureId, jobs)
  } catch (error) {
    if (!(error instanceof JobCancelled)) problem.value = errorMessage(error)
  } finally {
    input.value = ''
  }
}
</script>

<template>
  <div class="again">
    <p role="status">{{ take.note }}</p>
    <el-button @click="file?.click()"
      ><FileVideo :size="15" aria-hidden="true" /> Bring “{{ take.source.name }}” in again …</el-button
    >
    <input ref="file" type="file" hidden aria-label="The file again" @change="bring" />
    <p v-if="problem" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.again {
  display: grid;
  gap: 10px;
  justify-items: center;
  max-width: 60ch;
  padding: 0 20px;
  color: #dfe7e6;
  text-align: center;
}
p {
  margin: 0;
}
</style>
