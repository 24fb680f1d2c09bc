<script setup lang="ts">
import { encodingOf } from '#core/captions/encoding'
import { sayLanguage, sayTrack } from '#core/captions/languages'
import { readCaptionFile, type ReadCaptions } from '#core/captions/read-file'
import { newTrack } from '#core/captions/track'
import { errorMessage } from '#core/text/error-message'
import { sayCount } from '#core/text/words'
import { subtract } from '#core/time/ranges'
import { recorded } from '#core/time/units'
import { addTrack, isWorkedOn } from '~/services/caption-tracks'
import { newId } from '~/services/ids'
import { languageOf } from '~/services/lectures'
import { useDesk } from '~/stores/desk'

/** Reads a caption file of any kind; where some of it is wrong, or another language, a person decides first. */
const desk = useDesk()
const emit = defineEmits<{ problem: [says: string] }>()
const found = useSoundFound(() => desk.recording)
const read = shallowRef<(ReadCaptions & { name: string }) | null>(null)
/** Whether what is open would be a loss. */
const isWorked = ref(false)
/** How many bad lines are listed; more of them say nothing more. */
const LISTED = 100

const isOther = computed(() => {
  const [said, here] = [read.value?.language, desk.captions?.language]
  return Boolean(said && here && said.split('-')[0] !== here.split('-')[0])
})
const says = computed(() => {
  const { cues = [], format = '', problems = [] } = read.value ?? {}
  const could = `${sayCount(cues.length, 'cue', 'cues')} could be read (${format})`
  return problems.length > 0 ? `${could}, ${sayCount(problems.length, 'line', 'lines')} could not.` : `${could}.`
})

const input = useTemplateRef<HTMLInputElement>('input')
defineExpose({ choose: () => input.value?.click() })

async function choose(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const [file] = field.files ?? []
  field.value = ''
  if (!file) return
  try {
    emit('problem', '')
    if (file.size > 10 << 20) throw new Error('This is larger than any caption file.')
    const bytes = new Uint8Array(await file.arrayBuffer())
    const whole = { from: recorded(0), to: desk.map.duration }
    const text = new TextDecoder(encodingOf(bytes)).decode(bytes)
    const got = readCaptionFile(text, newId, subtract(whole, found.silences.value))
    if (got.cues.length === 0) {
      const [first] = got.problems
      throw new Error(
        first ? `Line ${first.line}: ${first.reason}` : 'There are no words in it, or nobody speaks here.',
      )
    }
    await desk.flush()
    isWorked.value = desk.lecture ? await isWorkedOn(desk.lecture.id, desk.track) : false
    read.value = { ...got, name: file.name }
    const isPlain = got.problems.length === 0 && !isOther.value && got.format !== 'text without times'
    if (isPlain && !isWorked.value) await take(false)
  } catch (error) {
    read.value = null
    emit('problem', `“${file.name}” was not read. ${errorMessage(error)} Nothing was changed.`)
  }
}

/** @param apart as a track of its own, in the language that the file says */
async function take(apart: boolean): Promise<void> {
  const got = read.value
  const { lecture } = desk
  if (!got || !lecture) return
  const { cues, header, after, language = '', name } = got
  read.value = null
  try {
    if (apart) {
      await desk.flush()
      desk.track = await addTrack(lecture.id, 'translation', language, null)
      await desk.refresh()
    }
    const before = desk.captions
    const own = before?.language ?? (language || (await languageOf(lecture)))
    await desk.changeCaptions(
      {
        ...newTrack({ cues, ...(header && { header }), ...(after && { after }) }, 'file', own),
        ...(before?.role && { role: before.role }),
      },
      { says: `Read from “${name}”` },
    )
    ElMessage.success(`Read ${sayCount(cues.length, 'cue', 'cues')} from “${name}”.`)
  } catch (error) {
    emit('problem', errorMessage(error))
  }
}
</script>

<template>
  <input ref="input" type="file" hidden accept=".vtt,.srt,.ttml,.xml,.dfxp,.txt,text/vtt,text/plain" @change="choose" />
  <el-dialog
    v-if="read"
    :model-value="true"
    :title="`Read “${read.name}”`"
    width="min(600px, 94vw)"
    @close="read = null"
  >
    <p>{{ says }}</p>
    <p v-if="read.format === 'text without times'" class="notice">
      It has no times: it is laid where somebody speaks, as long as its letters are. Look its times through.
    </p>
    <ul v-if="read.problems.length" class="problems" aria-label="What could not be read">
      <li v-for="(p, i) in read.problems.slice(0, LISTED)" :key="i">
        <span class="mono">Line {{ p.line }}</span> {{ p.reason }}
      </li>
      <li v-if="read.problems.length > LISTED">and {{ read.problems.length - LISTED }} more</li>
    </ul>
    <p v-if="isOther && desk.captions" class="notice">
      It says that it is {{ sayLanguage(read.language ?? '') }}; what is open is {{ sayTrack(desk.captions) }}.
    </p>
    <p v-if="isWorked && desk.captions" class="notice">
      The open track has been edited, or came from a file. Its
      {{ sayCount(desk.captions.cues.length, 'cue', 'cues') }} would be replaced; you can undo that.
    </p>
    <p v-else class="quiet">What is taken replaces the cues of the track that is open; it can be undone.</p>
    <template #footer>
      <el-button @click="read = null">Leave it</el-button>
      <el-button v-if="isOther" type="primary" @click="take(true)"
        >Take it as {{ sayLanguage(read.language ?? '') }} translation</el-button
      >
      <el-button :type="isOther ? 'default' : 'primary'" @click="take(false)">{{
        read.problems.length ? 'Take what could be read' : isWorked ? 'Replace them' : 'Take it'
      }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.problems {
  max-height: 34vh;
  overflow: auto;
  padding-left: 18px;
}
</style>
