<script setup lang="ts">
import { collegeOf, wear } from '~/services/college'

const college = useLive(collegeOf)
watch(
  () => college.value?.accent,
  (accent) => wear(accent ?? null),
)
</script>

<template>
  <div class="frame">
    <a class="skip" href="#content">Skip to the content</a>
    <header>
      <NuxtLink to="/" class="mark"><img src="/thaw.svg" alt="" width="26" height="26" /><span>Thaw</span></NuxtLink>
      <nav aria-label="Main">
        <NuxtLink to="/">Term</NuxtLink><NuxtLink to="/courses">Courses</NuxtLink
        ><NuxtLink to="/finishes">Finishes</NuxtLink>
      </nav>
      <JobNotices class="grow" />
      <JobTray />
      <LibraryMenu v-if="college" :college="college" />
    </header>
    <main id="content" tabindex="-1"><slot /></main>
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  flex-direction: column;
  height: 100%;
}
header {
  display: flex;
  align-items: center;
  gap: 20px;
  padding: 8px 24px;
  border-bottom: 1px solid var(--hairline);
  background: var(--paper);
}
.mark {
  display: flex;
  align-items: center;
  gap: 8px;
  text-decoration: none;
  color: var(--tarn);
  font-family: var(--title);
  font-size: 22px;
  font-weight: 600;
}
nav a {
  text-decoration: none;
  color: var(--ink);
  padding: 4px 8px;
  border-radius: var(--control-radius);
}
nav a.router-link-exact-active {
  background: var(--tarn-wash);
  color: var(--tarn-deep);
}
.grow {
  flex: 1;
  min-width: 0;
}
main {
  flex: 1;
  min-height: 0;
  overflow: auto;
  /* What stands apart in it, as words for screen readers do, scrolls with it. */
  position: relative;
}
main:focus-visible {
  outline: none;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  background: var(--paper);
  padding: 8px;
  z-index: 10;
}
@media (max-width: 600px) {
  header {
    flex-wrap: wrap;
    gap: 4px 12px;
    padding: 8px 12px;
  }
}
@media print {
  header {
    display: none;
  }
  .frame {
    display: block;
    height: auto;
  }
  main {
    overflow: visible;
  }
}
</style>
