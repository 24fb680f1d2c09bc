<script setup lang="ts">
import { errorMessage } from '#core/text/error-message'
import { db } from '~/db/database'
import { connectCourse, siteStanding, type SiteStanding } from '~/services/course-site'

/** Says that a course is not on the course site, before something is published to it, and puts it there. */
const props = defineProps<{ courseId: string }>()
const course = useLive(() => db.courses.get(props.courseId), [() => props.courseId])
const standing = shallowRef<SiteStanding | null>(null)
const problem = ref('')
const busy = ref(false)

async function look(): Promise<void> {
  problem.value = ''
  standing.value = null
  try {
    // Nobody is asked for the author key who only looks.
    if (!(await authorProblem())) standing.value = await siteStanding(props.courseId)
  } catch (error) {
    problem.value = errorMessage(error)
  }
}
watch([() => props.courseId, signedIn], look, { immediate: true })
const isMissing = computed(() => standing.value?.address && !standing.value.roster)

async function connect(): Promise<void> {
  if (!course.value || !standing.value) return
  busy.value = true
  try {
    await connectCourse(course.value, standing.value.people)
    await look()
  } catch (error) {
    problem.value = errorMessage(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
  <p v-else-if="standing && !standing.address" class="notice">
    No course site is connected to this server: students cannot find the lecture yet. Whoever runs the server can
    connect one in its settings.
  </p>
  <div v-else-if="isMissing && course" class="notice missing">
    <span>Students do not find {{ course.code }} on the course site yet.</span>
    <el-button :loading="busy" @click="connect">Add {{ course.code }} to the course site</el-button>
  </div>
</template>

<style scoped>
.missing {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
  flex-wrap: wrap;
}
</style>
