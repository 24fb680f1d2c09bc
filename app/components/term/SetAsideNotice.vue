<script setup lang="ts">
import { SetAside, SetAsideSeen } from '#core/schema/answers'
import { parseAs } from '#core/schema/validate'
import { db } from '~/db/database'

/** What the server could not read and set aside, told to the author until it is put away. */
const KEY = 'set-aside-seen'
const found = ref<{ name: string; says: string }[]>([])

async function seen(): Promise<string[]> {
  const row = await db.settings.get(KEY)
  return row ? parseAs(SetAsideSeen, JSON.parse(row.value), 'setting') : []
}
async function look(): Promise<void> {
  // Without the author's session, or without a server, there is nothing to be told.
  if (await authorProblem()) return
  const answer = await fetch('/api/author/set-aside').catch(() => null)
  if (!answer?.ok) return
  const known = await seen()
  found.value = parseAs(SetAside, await answer.json(), 'answer of the server').filter(
    (one) => !known.includes(one.name),
  )
}
async function putAway(): Promise<void> {
  await db.settings.put({ key: KEY, value: JSON.stringify([...(await seen()), ...found.value.map((one) => one.name)]) })
  found.value = []
}
onMounted(look)
watch(signedIn, look)
</script>

<template>
  <div v-if="found.length" class="notice bad" role="status">
    <p>
      The server found something that it could not read. It stands in the folder
      <span class="mono">set-aside</span> beside the server’s data; nothing else is affected.
    </p>
    <ul>
      <li v-for="one in found" :key="one.name">{{ one.says }}</li>
    </ul>
    <el-button size="small" @click="putAway">Put this away</el-button>
  </div>
</template>

<style scoped>
.notice {
  margin-bottom: 12px;
}
p {
  margin: 0;
}
ul {
  margin: 6px 0 10px;
  padding-left: 20px;
}
</style>
