<script setup lang="ts">
import { writeReadingHtml, writeReadingText, type ReadingSource } from '#core/captions/reading'
import { projectCues } from '#core/captions/track'
import { projectChapters } from '#core/marks/chapters'
import type { CaptionTrack } from '#core/schema/captions'
import { projectRange } from '#core/time/time-map'
import { recorded } from '#core/time/units'
import { errorMessage } from '#core/text/error-message'
import { useDesk } from '~/stores/desk'
import { download, fileName } from '~/utils/download'

/** What is said as a text to read, to print and to save, as far as it is in the result. */
const props = defineProps<{ track: CaptionTrack }>()
const emit = defineEmits<{ close: [] }>()
const desk = useDesk()
const options = reactive({ times: true, pictures: true })
const problem = ref('')
const { slides } = useStills(() => desk.recording)
const page = useTemplateRef<HTMLIFrameElement>('page')

const addressOf = (image: Blob) =>
  new Promise<string>((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(String(reader.result))
    reader.onerror = () => reject(reader.error ?? new Error('A slide could not be read.'))
    reader.readAsDataURL(image)
  })
const pictures = shallowRef<{ at: number; address: string }[]>([])
watch(
  slides,
  async (now) => {
    try {
      const stretches = now.map(({ at, image }, i) => ({
        ...{ image, from: recorded(at), to: recorded(now[i + 1]?.at ?? desk.map.duration) },
      }))
      // A slide that appears in a part that was taken out is seen from its end on.
      const seen = stretches.flatMap(({ image, ...range }) => {
        const [first] = projectRange(desk.map, range).pieces
        return first ? [{ at: first.from, image }] : []
      })
      pictures.value = await Promise.all(seen.map(async ({ at, image }) => ({ at, address: await addressOf(image) })))
    } catch (error) {
      problem.value = errorMessage(error)
    }
  },
  { immediate: true },
)
const source = computed<ReadingSource>(() => ({
  title: desk.lecture?.title ?? '',
  language: props.track.language,
  cues: projectCues(desk.map, props.track.cues).cues,
  chapters: desk.chapters
    ? projectChapters(desk.chapters.chapters, desk.map).visible.map(({ item, at }) => ({ at, title: item.title }))
    : [],
  pictures: pictures.value,
}))
const written = computed(() => writeReadingHtml(source.value, options))

const name = computed(() => fileName(`${source.value.title} text`))
const print = () => page.value?.contentWindow?.print()
const saveText = () => download(`${name.value}.txt`, 'text/plain', writeReadingText(source.value, options))
const saveHtml = () => download(`${name.value}.html`, 'text/html', written.value)
</script>

<template>
  <el-dialog
    :model-value="true"
    title="Text to read and print"
    width="min(760px, 94vw)"
    top="5vh"
    @close="emit('close')"
  >
    <div class="options">
      <el-checkbox v-model="options.times">Times</el-checkbox>
      <el-checkbox v-model="options.pictures" :disabled="pictures.length === 0">Pictures of the slides</el-checkbox>
    </div>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <!-- A page of its own: its rules for paper are not those of the desk. -->
    <iframe ref="page" :srcdoc="written" title="The text" />
    <template #footer>
      <el-button @click="emit('close')">Close</el-button>
      <el-button @click="saveText">Save as text</el-button>
      <el-button @click="saveHtml">Save as HTML</el-button>
      <el-button type="primary" @click="print">Print</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.options {
  margin-bottom: 6px;
}
iframe {
  width: 100%;
  height: 58vh;
  border: 1px solid var(--hairline);
  border-radius: var(--control-radius);
  background: #fff;
}
</style>
