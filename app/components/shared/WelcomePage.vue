<script setup lang="ts">
import { Map, Sprout } from 'lucide-vue-next'
import { enterLibrary, hasDemo } from '~/services/libraries'

/** What somebody sees who was never here: the demo to look around in, or work of their own. */
const demo = ref<boolean | null>(null)
onMounted(async () => {
  demo.value = await hasDemo()
})
useHead({ title: 'Welcome · Thaw' })
</script>

<template>
  <main class="welcome">
    <img src="/thaw.svg" alt="" width="56" height="56" />
    <h1>Welcome to Thaw</h1>
    <p class="quiet">
      Record lectures or import videos, cut and caption them, put questions in them, and publish them to your course
      site. Everything stays in this browser until you publish it.
    </p>
    <div v-if="demo !== null" class="choices">
      <button type="button" class="surface" @click="enterLibrary('own')">
        <Sprout :size="28" aria-hidden="true" />
        <strong>Start my own</strong>
        <span class="quiet">Set up a term and your courses, and make your first lecture.</span>
      </button>
      <button v-if="demo" type="button" class="surface" @click="enterLibrary('demo')">
        <Map :size="28" aria-hidden="true" />
        <strong>Look around the demo</strong>
        <span class="quiet"
          >A made-up college with a term of lectures in every state. Try anything: your own work is kept apart.</span
        >
      </button>
    </div>
    <p v-if="demo" class="quiet">You can switch between the two at any time.</p>
  </main>
</template>

<style scoped>
.welcome {
  display: flex;
  flex-direction: column;
  align-items: center;
  max-width: 720px;
  margin: 0 auto;
  padding: 10vh 24px 40px;
  text-align: center;
}
h1 {
  margin: 14px 0 6px;
}
.choices {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 16px;
  width: 100%;
  margin: 24px 0 14px;
}
.choices button {
  display: grid;
  gap: 8px;
  justify-items: center;
  align-content: start;
  padding: 24px 20px;
  font: inherit;
  color: var(--ink);
  cursor: pointer;
}
.choices button:hover {
  border-color: var(--tarn);
}
.choices strong {
  font-family: var(--title);
  font-size: 20px;
}
.choices svg {
  color: var(--tarn);
}
</style>
