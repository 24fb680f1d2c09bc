<script setup lang="ts">
import type { Component } from 'vue'
import { errorMessage } from '#core/text/error-message'
import type { AssetRow } from '~/db/database'
import { addAsset } from '~/services/assets'
import { useDesk } from '~/stores/desk'
import { JobCancelled, useJobs } from '~/stores/jobs'

/** Brings pictures, videos or slides of a PDF file into a lecture or a finish, and gives out what came of them. */
const props = withDefaults(
  defineProps<{
    label: string
    /** Name of the field that takes the file, for those who do not see it. */
    field: string
    icon: Component
    /** What is done with slides, such as `Put in`; without it no PDF files are taken. */
    action?: string
    only?: 'picture'
    /** The id of what they are brought into; the lecture on the desk when left out. */
    owner?: string
  }>(),
  { action: '', only: undefined, owner: '' },
)
const emit = defineEmits<{ bring: [assets: AssetRow[]]; problem: [says: string] }>()
const desk = useDesk()
const jobs = useJobs()
const input = useTemplateRef<HTMLInputElement>('input')
const pdf = shallowRef<File | null>(null)
const accept = [
  'image/*',
  ...(props.only === 'picture' ? [] : ['video/*']),
  ...(props.action ? ['application/pdf', '.pdf'] : []),
].join(',')
const isPdf = (file: File) => file.type === 'application/pdf' || /\.pdf$/i.test(file.name)

async function bring(files: readonly File[]): Promise<void> {
  const of = () => props.owner || desk.lecture?.id
  const owner = of()
  if (!owner) return
  emit('problem', '')
  try {
    const assets: AssetRow[] = []
    for (const file of files) assets.push(await addAsset(file, owner, jobs))
    if (props.only === 'picture' && assets.some((a) => a.kind !== 'picture'))
      throw new Error('Only a picture can be used here, and this is a video.')
    if (of() === owner) emit('bring', assets)
  } catch (error) {
    if (!(error instanceof JobCancelled)) emit('problem', errorMessage(error))
  }
}
async function choose(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  if (file && props.action && isPdf(file)) pdf.value = file
  else if (file) await bring([file])
  field.value = ''
}
</script>

<template>
  <el-button @click="input?.click()"><component :is="icon" :size="15" aria-hidden="true" /> {{ label }}</el-button>
  <input ref="input" type="file" :accept="accept" hidden :aria-label="field" @change="choose" />
  <LazySlidesDialog v-if="pdf" :file="pdf" :action="action" @close="pdf = null" @take="bring" />
</template>
