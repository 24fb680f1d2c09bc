<script setup lang="ts">
import { proposalKinds, type AnyProposal } from '~/composables/use-proposals'
import { totalLength } from '#core/time/ranges'
import { sayDuration } from '#core/time/timecode'
import { recorded, result } from '#core/time/units'
import { sayCount } from '#core/text/words'
import { toResult } from '#core/time/time-map'
import { scriptPlayerKey } from '~/composables/use-script-player'
import { useDesk } from '~/stores/desk'
import { injectStrict } from '~/utils/inject'

/** Cuts that are proposed, each with its reason: listened to, taken or left, one by one or all of a kind. */
const props = defineProps<{
  proposals: readonly AnyProposal[]
  hasSound: boolean
  pending: boolean
}>()
const emit = defineEmits<{ leave: [proposal: AnyProposal] }>()
const desk = useDesk()
const media = injectStrict(scriptPlayerKey)
const groups = computed(() =>
  proposalKinds.flatMap((kind) => {
    const own = props.proposals.filter((p) => (kind.reasons as readonly string[]).includes(p.reason))
    return own.length > 0 ? [{ ...kind, own, saves: totalLength(own) }] : []
  }),
)
/** A second of what comes before is heard too. */
function listen({ from }: AnyProposal): void {
  const { at } = toResult(desk.map, recorded(Math.max(0, from - 1)))
  media.seek(result(at))
  if (!desk.playing) media.toggle()
}
const takeAll = (own: readonly AnyProposal[], name: string) =>
  desk.removeRanges(own, `Took out ${sayCount(own.length, 'proposal', 'proposals')}: ${name.toLowerCase()}`)
</script>

<template>
  <div>
    <p v-if="!hasSound" class="quiet">There is no sound to find pauses in.</p>
    <p v-else-if="pending" class="quiet">The sound is still being looked through.</p>
    <p v-else-if="!proposals.length" class="quiet">
      No silence at either end, no long pause and nothing said in vain is left.
    </p>
    <section v-for="g in groups" :key="g.name" :aria-label="g.name">
      <div class="kind">
        <h3>{{ g.name }}</h3>
        <span class="quiet">saves {{ sayDuration(g.saves) }}</span>
        <el-button v-if="g.own.length > 1" size="small" @click="takeAll(g.own, g.name)"
          >Take all {{ g.own.length }} out</el-button
        >
      </div>
      <ul class="proposals">
        <li v-for="p in g.own" :key="p.from">
          <button type="button" class="hear" :title="`Play from ${desk.sayTime(p.from, 1)}`" @click="listen(p)">
            <span class="mono">{{ desk.sayTime(p.from, 1) }} – {{ desk.sayTime(p.to, 1) }}</span> {{ p.says }}
          </button>
          <el-button
            size="small"
            :aria-label="`Take out ${desk.sayTime(p.from, 1)} to ${desk.sayTime(p.to, 1)}`"
            @click="desk.remove(p.from, p.to)"
            >Take out</el-button
          >
          <el-button
            size="small"
            text
            :aria-label="`Leave ${desk.sayTime(p.from, 1)} to ${desk.sayTime(p.to, 1)}`"
            @click="emit('leave', p)"
            >Leave</el-button
          >
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.kind {
  display: flex;
  align-items: baseline;
  gap: 10px;
  margin-top: 12px;
}
.kind .el-button {
  margin-left: auto;
}
h3 {
  margin: 0;
  font-size: 16px;
}
.proposals {
  list-style: none;
  margin: 0;
  padding: 0;
}
.proposals li {
  display: flex;
  align-items: center;
  gap: 6px;
  border-bottom: 1px solid var(--hairline);
  padding: 4px 0;
}
.proposals .el-button {
  margin: 0;
}
.hear {
  flex: 1;
  text-align: left;
  border: 0;
  background: none;
  padding: 2px 4px;
  cursor: pointer;
  border-radius: 5px;
}
.hear:hover {
  background: var(--snow);
}
</style>
