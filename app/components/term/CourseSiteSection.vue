<script setup lang="ts">
import { personKey, sayStudent } from '#core/course/people'
import type { Course } from '#core/schema/lecture'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { connectCourse, disconnectCourse, enrol, siteStanding, type SiteStanding } from '~/services/course-site'

/** Whether students find a course on the course site, and who of the site’s people attends it. */
const props = defineProps<{ course: Course }>()
const standing = shallowRef<SiteStanding | null>(null)
const problem = ref('')
const busy = ref(false)
const isSignedIn = ref(true)

async function doing(act: () => Promise<void>): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await act()
    standing.value = await siteStanding(props.course.id)
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
/** Nobody is asked for the author key who only looks at the settings. */
async function look(): Promise<void> {
  isSignedIn.value = !(await authorProblem())
  if (isSignedIn.value) await doing(async () => undefined)
}
async function signIn(): Promise<void> {
  if (await askForAuthor('Whether this course is on the course site is asked by way of the server.')) await look()
}
watch(() => props.course.id, look, { immediate: true })

const attending = computed(() => new Set(standing.value?.roster?.map(personKey)))
const connect = () => doing(() => connectCourse(props.course, standing.value?.people ?? []))
const attend = (keys: readonly string[]) =>
  doing(() => enrol(props.course.id, standing.value?.people.filter((s) => keys.includes(personKey(s))) ?? []))
async function disconnect(): Promise<void> {
  const sure = await ElMessageBox.confirm(
    'Students do not find the course and its lectures there any more. The lectures and what students sent back stay here.',
    `Take ${props.course.code} off the course site?`,
    { confirmButtonText: 'Take it off', cancelButtonText: 'Leave it' },
  ).catch(() => null)
  if (sure) await doing(() => disconnectCourse(props.course.id))
}
</script>

<template>
  <section class="site" aria-labelledby="course-site-heading">
    <h3 id="course-site-heading">Course site</h3>
    <template v-if="!isSignedIn">
      <p class="quiet">Sign in as the author to see whether students find this course on the course site.</p>
      <el-button @click="signIn">Sign in</el-button>
    </template>
    <p v-else-if="!standing && !problem" class="quiet">Asking the course site …</p>
    <p v-else-if="standing && !standing.address" class="quiet">
      No course site is connected to this server, so students cannot find lectures yet. Whoever runs the server can
      connect one in its settings.
    </p>
    <template v-else-if="standing && !standing.roster">
      <p class="quiet">Students do not find this course on the course site yet.</p>
      <el-button type="primary" :loading="busy" @click="connect">Add to the course site</el-button>
    </template>
    <template v-else-if="standing">
      <p>
        <a :href="`${standing.address}/`" target="_blank" rel="noopener">On the course site</a>, with
        {{ sayCount(standing.roster?.length ?? 0, 'student', 'students') }}.
      </p>
      <el-select
        v-if="standing.people.length"
        :model-value="[...attending]"
        multiple
        collapse-tags
        :max-collapse-tags="3"
        :disabled="busy"
        aria-label="Students who attend"
        placeholder="Nobody attends yet"
        @update:model-value="attend"
      >
        <el-option v-for="s in standing.people" :key="personKey(s)" :value="personKey(s)" :label="sayStudent(s)" />
      </el-select>
      <p class="off">
        <el-button size="small" :disabled="busy" @click="disconnect">Take off the course site</el-button>
      </p>
    </template>
    <p v-if="problem" class="notice bad" role="alert">
      {{ problem }} <el-button text size="small" @click="look">Try again</el-button>
    </p>
  </section>
</template>

<style scoped>
.site {
  margin-top: 18px;
}
h3 {
  margin: 0 0 8px;
  font-size: 16px;
}
p {
  margin: 2px 0 8px;
}
.off {
  margin-top: 10px;
}
.site :deep(.el-tag) {
  color: var(--ink);
}
</style>
