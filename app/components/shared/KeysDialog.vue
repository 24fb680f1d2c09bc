<script setup lang="ts">
/** The keys of a page. Escape, or the same key once more, leads back to it. */
defineProps<{ parts: { title: string; keys: readonly { shown: string; says: string }[] }[] }>()
const shown = defineModel<boolean>({ required: true })
</script>

<template>
  <el-dialog v-model="shown" title="Keys" width="640px">
    <section v-for="part in parts" :key="part.title">
      <h3 v-if="part.title">{{ part.title }}</h3>
      <dl>
        <div v-for="k in part.keys" :key="k.shown">
          <dt class="mono">{{ k.shown }}</dt>
          <dd>{{ k.says }}</dd>
        </div>
      </dl>
    </section>
  </el-dialog>
</template>

<style scoped>
h3 {
  margin: 14px 0 4px;
  font-size: 16px;
}
dl {
  columns: 2;
  column-gap: 24px;
  margin: 0;
}
dl > div {
  display: grid;
  grid-template-columns: 104px 1fr;
  gap: 8px;
  padding: 3px 0;
  break-inside: avoid;
}
dd {
  margin: 0;
}
@media (max-width: 600px) {
  dl {
    columns: 1;
  }
}
</style>
