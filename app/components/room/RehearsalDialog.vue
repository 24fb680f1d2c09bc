<script setup lang="ts">
import { max } from 'd3-array'
import { Check, CircleAlert, TriangleAlert } from 'lucide-vue-next'
import { kindOf } from '#core/record/inputs'
import type { InputPlan } from '#core/schema/setup'
import { errorMessage } from '#core/text/error-message'
import type { RoomInput } from '~/composables/use-inputs'
import { REHEARSAL, rehearse, type Rehearsed } from '~/services/rehearsing'

/** Ten seconds, played back at once and judged. Starts when it is opened. */
const props = defineProps<{ inputs: readonly RoomInput[]; begin: () => Promise<void> }>()
const emit = defineEmits<{ close: [] }>()
const seconds = ref(0)
const judging = ref(false)
const problem = ref('')
const result = shallowRef<Rehearsed | null>(null)
const stopped = new AbortController()
const urls = shallowRef<{ plan: InputPlan; kind: ReturnType<typeof kindOf>; offset: number; url: string }[]>([])
const pictures = computed(() => urls.value.filter((u) => u.kind !== 'sound'))
const shown = useTemplateRef<HTMLElement>('shown')
const sum = computed(() => {
  const given = result.value?.verdicts.map((v) => v.grade) ?? []
  const bad = given.filter((g) => g === 'bad').length
  if (bad > 0) return bad === 1 ? 'One thing needs you before you begin.' : `${bad} things need you before you begin.`
  return given.every((g) => g === 'good') ? 'You can begin.' : 'You can begin. What is marked could be better.'
})
const marks = { good: Check, fair: TriangleAlert, bad: CircleAlert }
const grades = { good: 'good', fair: 'could be better', bad: 'needs you' }

function dropUrls(): void {
  urls.value.forEach((u) => URL.revokeObjectURL(u.url))
  urls.value = []
}
async function run(): Promise<void> {
  problem.value = ''
  result.value = null
  seconds.value = 0
  dropUrls()
  try {
    await props.begin()
    const chosen = props.inputs.flatMap((i) => {
      const track = i.stream?.getTracks()[0]
      return track ? [{ plan: i.plan, track }] : []
    })
    result.value = await rehearse(
      chosen,
      (s) => {
        seconds.value = s
        judging.value = s >= REHEARSAL
      },
      stopped.signal,
    )
    if (stopped.signal.aborted) return
    urls.value = result.value.feeds
      .filter((f) => f.blob.size > 0)
      .map((f) => ({ plan: f.plan, kind: kindOf(f.plan.source), offset: f.offset, url: URL.createObjectURL(f.blob) }))
    await nextTick()
    play()
  } catch (error) {
    problem.value = `The rehearsal could not be made: ${errorMessage(error)}`
  } finally {
    judging.value = false
  }
}
/** All feeds from the moment at which the last of them began. */
function play(): void {
  const from = max(urls.value, (u) => u.offset) ?? 0
  for (const [i, element] of [...(shown.value?.querySelectorAll<HTMLMediaElement>('video, audio') ?? [])].entries()) {
    element.currentTime = from - (urls.value[i]?.offset ?? 0)
    void element.play()
  }
}
onMounted(run)
onBeforeUnmount(() => {
  stopped.abort()
  dropUrls()
})
</script>

<template>
  <el-dialog :model-value="true" title="Rehearsal" width="720px" :close-on-click-modal="false" @close="emit('close')">
    <template v-if="!result && !problem">
      <p>
        {{
          judging
            ? 'Looking at what was recorded …'
            : 'Speak as you will in the lecture, as loud and from where you will stand.'
        }}
      </p>
      <el-progress
        :percentage="Math.round((100 * seconds) / REHEARSAL)"
        :format="() => `${Math.floor(seconds)} s`"
        aria-label="Rehearsal"
      />
    </template>
    <p v-if="problem" class="notice bad" role="alert">{{ problem }}</p>
    <template v-if="result">
      <p role="status">
        <strong>{{ sum }}</strong>
      </p>
      <div ref="shown" class="shown" :class="{ two: pictures.length > 1 }">
        <template v-for="u in urls" :key="u.plan.id">
          <video v-if="u.kind !== 'sound'" :src="u.url" muted playsinline :aria-label="`Rehearsed: ${u.plan.label}`" />
          <audio v-else :src="u.url" />
        </template>
      </div>
      <ul class="verdicts" aria-label="Verdicts">
        <li v-for="(v, i) in result.verdicts" :key="i" :class="v.grade">
          <component :is="marks[v.grade]" :size="17" aria-hidden="true" /><span
            ><strong>{{ v.about }}</strong> <span class="unseen">{{ grades[v.grade] }}:</span> {{ v.says
            }}<span v-if="v.remedy" class="remedy"> {{ v.remedy }}</span></span
          >
        </li>
      </ul>
    </template>
    <template #footer>
      <el-button v-if="result" @click="play">Play it again</el-button>
      <el-button v-if="result || problem" @click="run">Rehearse again</el-button>
      <el-button type="primary" @click="emit('close')">{{ result ? 'Done' : 'Stop' }}</el-button>
    </template>
  </el-dialog>
</template>

<style scoped>
.shown {
  display: grid;
  gap: 10px;
}
.shown.two {
  grid-template-columns: 1fr 1fr;
}
video {
  width: 100%;
  max-height: 240px;
  background: #e4e9e4;
  border-radius: var(--surface-radius);
}
.verdicts {
  list-style: none;
  padding: 0;
  margin: 12px 0 0;
}
.verdicts li {
  display: grid;
  grid-template-columns: 24px 1fr;
  padding: 5px 0;
  border-top: 1px solid var(--hairline);
}
.verdicts svg {
  margin-top: 3px;
}
.good svg {
  color: var(--moss);
}
.fair svg {
  color: #8a6100;
}
.bad svg {
  color: var(--ember);
}
.remedy {
  color: var(--quiet);
  display: block;
}
</style>
