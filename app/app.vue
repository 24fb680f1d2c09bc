<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { errorMessage } from '#core/text/error-message'
import { useJobs } from '~/stores/jobs'
import { here, leaveWhenRemoved, openLibrary } from '~/db/libraries'

const jobs = useJobs()
const ready = ref(false)
const library = openLibrary(here())
leaveWhenRemoved()
/** Nothing was begun in this browser yet. */
const isNew = ref(false)
const trouble = ref('')

// What a page needs later is fetched then: a dialog, a worker.
useNuxtApp().hook('app:chunkError', () => {
  ElMessage({
    type: 'error',
    duration: 0,
    showClose: true,
    message: 'Part of Thaw could not be loaded. Check that Thaw is running, then load this page anew; nothing is lost.',
  })
})
// Whoever goes to another page goes on there, and not at the top of the window.
const route = useRoute()
let shownPath = route.path
useNuxtApp().hook('page:finish', async () => {
  if (route.path === shownPath) return
  shownPath = route.path
  await focusIfLost(() => document.querySelector<HTMLElement>('#content'))
})
onMounted(async () => {
  try {
    await takeKeyFromAddress()
    if (!library) {
      const { adoptEarlier } = await import('~/services/libraries')
      if (await adoptEarlier()) location.reload()
      else isNew.value = true
      return
    }
    const demo = library === 'demo' ? await import('~/services/demo') : null
    await demo?.seedDemo()
    await demo?.addDemoQuestions()
    watch(signedIn, async () => {
      await demo?.addDemoQuestions()
      const { draftArrivals } = await import('~/services/captioning')
      await draftArrivals(jobs)
    })
    ready.value = true
    const { resumeWork } = await import('~/services/resuming')
    await resumeWork(jobs, {
      fail: (message) => ElMessage({ type: 'error', message }),
      notRestarted: tellNotRestarted,
      recovered: tellRecovered,
    })
  } catch (error) {
    if (ready.value)
      ElMessage({
        type: 'error',
        duration: 0,
        showClose: true,
        message: errorMessage(error),
      })
    else trouble.value = errorMessage(error)
  }
})

/** One line for all work that was cut off and cannot go on, however much of it there is. */
const notRestarted = new Set<string>()
let line: ReturnType<typeof ElMessage> | undefined
function tellNotRestarted(why: string): void {
  notRestarted.add(why)
  line?.close()
  const message = `What was cut off when the page was closed cannot go on. ${[...notRestarted].join(' ')}`
  line = ElMessage({ type: 'error', duration: 0, showClose: true, message })
}
let isRecoveryTold = false
function tellRecovered(): void {
  if (isRecoveryTold) return
  isRecoveryTold = true
  ElMessage({
    type: 'warning',
    duration: 8000,
    showClose: true,
    offset: 64,
    message: 'A recording was cut off when its page was closed. What was recorded is being made ready now.',
  })
}

// Whoever opens the printed address where Thaw is open already stays on the page.
useEventListener('hashchange', () => void takeKeyFromAddress())
/** The address that the start command prints carries the author key behind `#`, which no server log sees. */
async function takeKeyFromAddress(): Promise<void> {
  const key = /^#key=(.+)$/.exec(location.hash)?.[1]
  if (!key) return
  history.replaceState(history.state, '', location.pathname + location.search)
  const problem = await signIn(decodeURIComponent(key))
  if (problem) ElMessage({ type: 'warning', duration: 8000, showClose: true, message: problem })
}
</script>

<template>
  <!-- Messages stand over the header, where nothing is pressed that they are about. -->
  <ElConfigProvider :message="{ offset: 4 }">
    <div v-if="trouble" class="notice bad start-trouble" role="alert">
      <h1>Thaw could not start</h1>
      <p>{{ trouble }}</p>
      <p>Nothing that was kept before is lost.</p>
    </div>
    <LazyWelcomePage v-else-if="isNew" />
    <div v-else-if="!ready" class="starting" aria-live="polite">
      {{ library === 'demo' ? 'Setting up the demo …' : 'Opening your lectures …' }}
    </div>
    <NuxtLayout v-else><NuxtPage /></NuxtLayout>
    <LazyAuthorDialog v-if="(ready || isNew) && authorAsked" />
  </ElConfigProvider>
</template>

<style scoped>
.starting {
  display: grid;
  place-items: center;
  height: 100%;
  color: var(--quiet);
  font-family: var(--title);
  font-size: 22px;
}
.start-trouble {
  max-width: 40em;
  margin: 15vh auto;
}
</style>
