<script setup lang="ts">
import { ChevronDown, Library, Map as MapIcon, Palette, ScrollText, Trash2 } from 'lucide-vue-next'
import type { College } from '#core/schema/term'
import { errorMessage } from '#core/text/error-message'
import { here, openLibrary, type LibraryKind } from '~/db/libraries'
import { enterLibrary, hasDemo, isBegun, removeLibrary } from '~/services/libraries'

/** Whose lectures are open, and the way to the others. */
const props = defineProps<{ college: College }>()
const open = openLibrary(here()) ?? 'own'
const other: LibraryKind = open === 'own' ? 'demo' : 'own'
const name = computed(() => props.college.name || (open === 'own' ? 'My lectures' : 'Demo'))
const canGo = ref(false)
onMounted(async () => {
  canGo.value = other === 'own' || (await isBegun('demo')) || (await hasDemo())
})
const describing = ref(false)

async function remove(): Promise<void> {
  const what =
    open === 'demo'
      ? 'What you changed in the demo goes with it. Your own lectures stay. You can set the demo up anew at any time.'
      : 'All your terms, courses, lectures, recordings, captions, questions and results in this browser are deleted for good. What is published stays on the server. Save what you want to keep as files first.'
  const answer = await ElMessageBox.confirm(what, open === 'demo' ? 'Remove the demo?' : 'Delete all my lectures?', {
    confirmButtonText: open === 'demo' ? 'Remove the demo' : 'Delete all of them',
    cancelButtonText: 'Keep',
    type: 'warning',
  }).catch(() => 'keep')
  if (answer !== 'confirm') return
  try {
    await removeLibrary(open)
    location.assign('/')
  } catch (error) {
    ElMessage({ type: 'error', duration: 0, showClose: true, message: errorMessage(error) })
  }
}
function act(item: string): void {
  if (item === 'college') describing.value = true
  else if (item === 'activity') void navigateTo('/activity')
  else if (item === 'remove') void remove()
  else enterLibrary(other)
}
</script>

<template>
  <el-dropdown trigger="click" @command="act">
    <button type="button" class="library" title="Your college, and the demo">
      <img v-if="college.logo" :src="college.logo" alt="" /><Library v-else :size="16" aria-hidden="true" />
      <span class="name">{{ name }}</span><span v-if="open === 'demo'" class="demo">demo</span
      ><ChevronDown :size="14" aria-hidden="true" />
    </button>
    <template #dropdown
      ><el-dropdown-menu
        ><el-dropdown-item command="college"
          ><Palette :size="15" aria-hidden="true" /> College name, logo and colour …</el-dropdown-item
        ><el-dropdown-item command="activity"
          ><ScrollText :size="15" aria-hidden="true" /> Activity log</el-dropdown-item
        ><el-dropdown-item v-if="canGo" command="other"
          ><component :is="other === 'demo' ? MapIcon : Library" :size="15" aria-hidden="true" />
          {{ other === 'demo' ? 'Look around the demo' : 'Go to my own lectures' }}</el-dropdown-item
        ><el-dropdown-item command="remove" divided
          ><Trash2 :size="15" aria-hidden="true" />
          {{ open === 'demo' ? 'Remove the demo …' : 'Delete all my lectures …' }}</el-dropdown-item
        ></el-dropdown-menu
      ></template
    >
  </el-dropdown>
  <LazyCollegeDialog v-if="describing" :college="college" @close="describing = false" />
</template>

<style scoped>
.library {
  display: flex;
  align-items: center;
  gap: 6px;
  max-width: 300px;
  padding: 4px 8px;
  border: 0;
  border-radius: var(--control-radius);
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 14px;
  cursor: pointer;
}
.library:hover {
  background: var(--snow);
}
img {
  max-height: 24px;
  max-width: 96px;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  line-height: 1.5;
}
.demo {
  padding: 0 7px;
  border-radius: 9px;
  background: var(--marigold-wash);
  color: var(--marigold-ink);
  font-size: 13px;
}
@media (max-width: 600px) {
  /* Still what a screen reader calls it. */
  .name {
    position: absolute;
    width: 1px;
    height: 1px;
    clip-path: inset(50%);
  }
}
</style>
