<script setup lang="ts">
import { kinds, type Kind } from '#core/documents/kinds'
import { useDesk } from '~/stores/desk'

/** What was changed in two places at once: both sides are shown, and a person decides. */
const props = defineProps<{ kind: Kind }>()
const desk = useDesk()
const conflicts = computed(() => desk.row(props.kind)?.conflicts ?? [])
</script>

<template>
  <section v-if="conflicts.length" class="notice" role="region" aria-label="Changed in two places">
    <p>
      {{ conflicts.length === 1 ? 'This was' : `These ${conflicts.length} were` }} changed in two places at the same
      time. Both are kept until you choose.
    </p>
    <ul>
      <li v-for="c in conflicts" :key="`${c.list} ${c.id}`">
        <div v-for="(side, i) in c.sides" :key="i" class="side">
          <q v-if="side !== null">{{ kinds[kind].say(c.list, c.id, side, desk.map) }}</q>
          <span v-else class="quiet">deleted there</span>
          <el-button size="small" @click="desk.decide(kind, c, side)">{{
            side === null ? 'Delete it' : 'Keep this one'
          }}</el-button>
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 0 0 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li + li {
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--hairline);
}
.side {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 10px;
}

.side + .side {
  margin-top: 6px;
}
q {
  white-space: pre-line;
}
</style>
