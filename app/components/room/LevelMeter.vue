<script setup lang="ts">
import { METER_FLOOR, meterShare, zoneOf, zones } from '#core/sound/level'
import type { SoundLevels } from '~/composables/use-sound-meter'

/** Peak, short-term level and held peak of a live sound against the zones of speech. */
const props = defineProps<{ label: string; levels: SoundLevels }>()
const bands = computed(() =>
  zones
    .filter((z) => z.from > METER_FLOOR)
    .map((z, i, all) => {
      const top = i === 0 ? 0 : (all[i - 1]?.from ?? 0)
      return { zone: z.zone, left: meterShare(z.from), width: meterShare(top) - meterShare(z.from) }
    }),
)
const ticks = [-48, -36, -24, -12, -6, 0]
const says = computed(() =>
  Number.isFinite(props.levels.peak)
    ? `${Math.round(props.levels.peak)} dB, ${zoneOf(props.levels.peak).zone}`
    : 'silent',
)
</script>

<template>
  <div
    class="meter"
    role="meter"
    :aria-label="`Sound level of ${label}`"
    :aria-valuemin="METER_FLOOR"
    aria-valuemax="0"
    :aria-valuenow="Math.max(METER_FLOOR, Math.round(levels.peak))"
    :aria-valuetext="says"
  >
    <div class="bar">
      <span
        v-for="b in bands"
        :key="b.zone"
        class="band"
        :class="b.zone"
        :style="{ left: `${100 * b.left}%`, width: `${100 * b.width}%` }"
      />
      <span class="cover" :style="{ left: `${100 * meterShare(levels.peak)}%` }" />
      <span class="short" :style="{ width: `${100 * meterShare(levels.short)}%` }" />
      <span v-if="meterShare(levels.held) > 0" class="held" :style="{ left: `${100 * meterShare(levels.held)}%` }" />
    </div>
    <div class="scale" aria-hidden="true">
      <span v-for="t in ticks" :key="t" class="mono" :style="{ left: `${100 * meterShare(t)}%` }">{{ t }}</span>
    </div>
    <p class="zone">
      <strong>{{ zoneOf(levels.peak).zone }}</strong>
      <span class="mono quiet">{{ Number.isFinite(levels.peak) ? `${levels.peak.toFixed(0)} dBFS` : '–' }}</span>
    </p>
  </div>
</template>

<style scoped>
.bar {
  position: relative;
  height: 18px;
  border-radius: 9px;
  overflow: hidden;
  background: var(--hairline);
}
.band {
  position: absolute;
  inset-block: 0;
}
.quiet.band {
  background: #a9bfc4;
}
.good {
  background: var(--moss);
}
.hot {
  background: var(--marigold);
}
.clipping {
  background: var(--ember);
}
.cover {
  position: absolute;
  inset-block: 0;
  right: 0;
  background: rgb(246 247 243 / 82%);
}
.short {
  position: absolute;
  left: 0;
  bottom: 0;
  height: 5px;
  background: rgb(30 42 47 / 55%);
  border-radius: 0 3px 3px 0;
}
.held {
  position: absolute;
  inset-block: 0;
  width: 2px;
  background: var(--ink);
}
.scale {
  position: relative;
  height: 16px;
  color: var(--quiet);
}
.scale span {
  position: absolute;
  transform: translateX(-50%);
  font-size: 11px;
}
.scale span:last-child {
  transform: translateX(-100%);
}
.zone {
  margin: 0;
  font-size: 14px;
  text-transform: none;
  line-height: 1.2;
}
</style>
