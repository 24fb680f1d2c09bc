<script setup lang="ts">
import { documentName, type Kind } from '#core/documents/kinds'
import type { DocumentRow } from '~/db/database'
import { beginAnew } from '~/services/lectures'
import { useDesk } from '~/stores/desk'
import { download, fileName } from '~/utils/download'

/** Documents that cannot be read: each is named, can be saved, and begun anew. */
const desk = useDesk()
const rows = computed(() => desk.parts?.rows.filter((row) => row.unreadable) ?? [])
const names: Record<Kind, string> = {
  edit: 'edit',
  captions: 'captions',
  chapters: 'chapters',
  links: 'link cards',
  questions: 'questions',
}

const save = ({ kind, document }: DocumentRow) =>
  download(`${fileName(desk.lecture?.title ?? '')}-${kind}.json`, 'application/json', JSON.stringify(document, null, 2))

async function anew(row: DocumentRow): Promise<void> {
  const { lectureId, kind } = row
  const sure = await ElMessageBox.confirm(
    `What is kept of the ${names[kind]} is deleted, and they begin as if nothing had been done. Save them as a file before, if somebody may still read them.`,
    `Begin the ${names[kind]} anew?`,
    { confirmButtonText: 'Begin anew', cancelButtonText: 'Leave it' },
  ).catch(() => null)
  if (!sure) return
  await beginAnew(lectureId, documentName(row))
  await desk.refresh()
}
</script>

<template>
  <div v-for="row in rows" :key="row.id" class="notice bad" role="alert">
    <p>
      The {{ names[row.kind] }} of this lecture could not be read; everything else works. They are kept as they are.
      {{ row.unreadable }}
    </p>
    <el-button size="small" @click="save(row)">Save them as a file</el-button
    ><el-button size="small" @click="anew(row)">Begin anew</el-button>
  </div>
</template>

<style scoped>
p {
  margin: 0 0 6px;
}
</style>
