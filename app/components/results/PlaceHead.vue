<script setup lang="ts">
import type { FollowedPlace } from '~/composables/use-place-history'

/** The head of a page about what came of a lecture: where one is, and at which of its places. */
const props = defineProps<{ lectureId: string; title: string; followed: FollowedPlace; back: string; to: string }>()
const { data, placeId, unsent } = props.followed
</script>

<template>
  <header>
    <div>
      <p class="quiet">
        <NuxtLink :to="to">{{ back }}</NuxtLink>
      </p>
      <h1>{{ title }}</h1>
    </div>
    <div class="tools">
      <el-select
        v-if="data && data.choices.length > 1"
        :model-value="data.row?.id"
        class="place"
        aria-label="Place"
        @update:model-value="placeId = $event"
        ><el-option v-for="c in data.choices" :key="c.id" :value="c.id" :label="c.says" /></el-select
      ><slot />
    </div>
    <p v-if="unsent" class="notice wide" role="status">
      What you decided is kept here and goes to the server as soon as it can: {{ unsent }}
    </p>
  </header>
</template>

<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: end;
  gap: 8px 20px;
  flex-wrap: wrap;
}
header p {
  margin: 0;
}
.tools {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.tools :deep(.el-button + .el-button) {
  margin-left: 0;
}
.place {
  width: 280px;
}
.wide {
  flex-basis: 100%;
}
@media print {
  .tools,
  header > div > p {
    display: none;
  }
}
</style>
