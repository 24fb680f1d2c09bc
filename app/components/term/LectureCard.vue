<script setup lang="ts">
import { useObjectUrl } from '@vueuse/core'
import dayjs from 'dayjs'
import { Check, Folder, RadioTower } from 'lucide-vue-next'
import { sayFolder } from '#core/library/folders'
import { readiness as readinessOf } from '#core/library/readiness'
import { errorMessage } from '#core/text/error-message'
import { formatTimecode } from '#core/time/timecode'
import { db, type CardRow } from '~/db/database'
import { nowInstant } from '~/services/ids'
import { usePicked } from '~/stores/picked'

const props = defineProps<{ card: CardRow }>()
const picked = usePicked()
const isPicked = computed(() => picked.ids.has(props.card.lectureId))
const readiness = computed(() => readinessOf({ ...props.card.facts, now: nowInstant() }))
const still = useLive(
  async () => (await db.posters.get(props.card.lectureId))?.image ?? null,
  [() => props.card.lectureId],
)
const poster = useObjectUrl(() => still.value ?? null)
const to = computed(() => {
  const { lectureId, duration } = props.card
  if (duration === null) return `/record?lecture=${lectureId}`
  const step = readiness.value.next?.mark ?? 'released'
  return `/lecture/${lectureId}?step=${step === 'recorded' ? 'tidied' : step}`
})
const busy = ref(false)
/** Has students see the captions, also of what is published already. */
async function switchOn(): Promise<void> {
  const { lectureId, lecture } = props.card
  busy.value = true
  try {
    const { followCaptions, setTrackState } = await import('~/services/caption-tracks')
    await setTrackState(lectureId, 'captions', 'on')
    const seen = await followCaptions(lectureId, () => askForAuthor('Students see it at once.'))
    if (seen) ElMessage.success(`Captions of “${lecture.title}” are on.`)
    else ElMessage.warning('They are on here, and students see them once it is published again.')
  } catch (error) {
    ElMessage.error(errorMessage(error))
  } finally {
    busy.value = false
  }
}
/** While lectures are picked, a card is one of them or not, and leads nowhere. */
function pick(event: Event): void {
  if (!picked.picking) return
  event.preventDefault()
  event.stopPropagation()
  picked.toggle(props.card.lectureId)
}
</script>

<template>
  <div class="with-press">
    <NuxtLink
      :to="to"
      class="card surface"
      :class="{ planned: card.duration === null, picked: picked.picking && isPicked }"
      :role="picked.picking ? 'checkbox' : undefined"
      :aria-checked="picked.picking ? isPicked : undefined"
      @click.capture="pick"
      @keydown.space="pick"
    >
      <span v-if="picked.picking" class="box" aria-hidden="true"><Check v-if="isPicked" :size="14" /></span>
      <span class="still" :style="poster ? { backgroundImage: `url(${poster})` } : undefined"
        ><span v-if="card.duration" class="mono">{{ formatTimecode(card.duration) }}</span></span
      >
      <span class="title">{{ card.lecture.title }}</span>
      <span v-if="card.lecture.folder" class="folder quiet"
        ><Folder :size="13" aria-hidden="true" /><span class="unseen">In the folder </span
        >{{ sayFolder(card.lecture.folder) }}</span
      >
      <span v-if="card.liveAt" class="folder quiet"
        ><RadioTower :size="13" aria-hidden="true" />live {{ dayjs(card.liveAt).format('ddd D MMM, HH:mm') }}</span
      >
      <ReadinessMarks :readiness="readiness" />
      <span class="next" :class="{ all: !readiness.next }">{{ readiness.next?.says ?? 'All done' }}</span>
    </NuxtLink>
    <button
      v-if="readiness.next?.press === 'captions-on' && !picked.picking"
      type="button"
      class="press"
      :disabled="busy"
      :aria-label="`${readiness.next.says} for ${card.lecture.title}`"
      @click="switchOn"
    >
      {{ readiness.next.says }}
    </button>
  </div>
</template>

<style scoped>
.with-press {
  position: relative;
  width: 158px;
}
/* Over the words that say what comes next. */
.press {
  position: absolute;
  left: 6px;
  right: 6px;
  bottom: 5px;
  border: 1px solid var(--tarn);
  border-radius: var(--control-radius);
  background: var(--tarn);
  color: #fff;
  font: inherit;
  font-size: 13.5px;
  line-height: 20px;
  padding: 0 6px;
  cursor: pointer;
}
.press:disabled {
  opacity: 0.6;
}
.card {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 7px;
  text-decoration: none;
  color: var(--ink);
  box-shadow: var(--shadow);
  width: 158px;
  transition: transform 0.15s;
}
.card:hover {
  transform: translateY(-2px);
  border-color: #b9c3c0;
}
.card {
  position: relative;
}
.card.picked {
  border-color: var(--tarn);
  box-shadow: 0 0 0 2px var(--tarn);
}
.box {
  position: absolute;
  left: 12px;
  top: 12px;
  display: grid;
  place-items: center;
  width: 20px;
  height: 20px;
  border: 2px solid var(--tarn);
  border-radius: 5px;
  background: var(--paper);
  color: var(--tarn);
}
.planned .box {
  position: static;
}
.card.planned {
  box-shadow: none;
  border-style: dashed;
  background: transparent;
}
.still {
  height: 62px;
  border-radius: 6px;
  background: #e9ede8 center / cover;
  display: flex;
  align-items: end;
  justify-content: end;
}
.still .mono {
  background: rgb(30 42 47 / 82%);
  color: #fff;
  padding: 0 6px;
  border-radius: 4px;
  margin: 4px;
  font-size: 12px;
}
.planned .still {
  display: none;
}
.title {
  font-weight: 600;
  line-height: 1.22;
  font-size: 15px;
}
.folder {
  font-size: 13px;
  line-height: 1.2;
}
.folder svg {
  vertical-align: -2px;
  margin-right: 4px;
}
.next {
  font-size: 14px;
  line-height: 1.3;
  color: var(--marigold-ink);
}
.next.all {
  color: var(--moss-ink);
}
</style>
