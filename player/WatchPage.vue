<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import type { LiveView, WatchView } from '#core/packages/watch-view'
import { sayTrouble, type Gateway } from './gateway'
import type { OutboxPorts } from './outbox'
import LecturePlayer from './LecturePlayer.vue'
import LivePlayer from './LivePlayer.vue'

/** What is at a place: a lecture while it is held, and then its recording. */
const props = defineProps<{ gateway: Gateway; storage: OutboxPorts['storage'] }>()
const view = shallowRef<WatchView | LiveView | null>(null)
const trouble = ref('')
/** Whether it could be asked how it stands. */
const connected = ref(true)
/** How often it is asked how a lecture stands that is held, ms. */
const EVERY = 3000
let timer: ReturnType<typeof setTimeout> | undefined

async function load(): Promise<void> {
  trouble.value = ''
  try {
    view.value = await props.gateway.load()
    document.title = view.value.title
    connected.value = true
  } catch (error) {
    // What is being watched goes on; it is asked again.
    if (view.value?.kind === 'live') connected.value = false
    else trouble.value = sayTrouble(error)
  }
  if (view.value?.kind === 'live') timer = setTimeout(() => void load(), EVERY)
}
onMounted(load)
onBeforeUnmount(() => clearTimeout(timer))
</script>

<template>
  <main v-if="trouble" class="notice" role="alert">
    <p>{{ trouble }}</p>
    <button type="button" @click="load">Try again</button>
  </main>
  <main v-else-if="!view" class="notice" aria-live="polite">Opening the lecture …</main>
  <LivePlayer v-else-if="view.kind === 'live'" :view="view" :connected="connected" />
  <LecturePlayer v-else :gateway="gateway" :storage="storage" :loaded="view" />
</template>
