<script setup lang="ts">
import { useObjectUrl } from '@vueuse/core'
import { format } from 'date-fns'
import { Check, Folder, RadioTower } from 'lucide-vue-next'
import { sayFolder } from '#core/library/folders'
import { readiness as readinessOf } from '#core/library/readiness'
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
/** While lectures are picked, a card is one of them or not, and leads nowhere. */
function pick(event: Event): void {
  if (!picked.picking) return
  event.preventDefault()
  event.stopPropagation()
  picked.toggle(props.card.lectureId)
}
</script>

<template>
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
      ><RadioTower :size="13" aria-hidden="true" />live {{ format(new Date(card.liveAt), 'EEE d MMM, HH:mm') }}</span
    >
    <ReadinessMarks :readiness="readiness" />
    <span class="next" :class="{ all: !readiness.next }">{{ readiness.next?.says ?? 'All done' }}</span>
  </NuxtLink>
</template>

<style scoped>
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
@media (prefers-reduced-motion: reduce) {
  .card {
    transition: none;
  }
}
</style>
