<script setup lang="ts">
import { max, range, sum } from 'd3-array'
import { scaleLinear } from 'd3-scale'
import { area, line } from 'd3-shape'
import { useElementSize } from '@vueuse/core'
import dayjs from 'dayjs'
import { projectLecture } from '#core/packages/publication'
import type { CurvePoint, LectureWatching } from '#core/results/watching'
import { sayCount } from '#core/text/words'
import { tickStep } from '#core/time/axis'
import { toRecorded, type TimeMap } from '#core/time/time-map'
import { formatTimecode } from '#core/time/timecode'
import { result } from '#core/time/units'
import type { LectureParts } from '~/services/cards'
import { documentOf } from '~/services/fingerprint'

/** Along the lecture: how many people watched each piece and how often it played, where they left, and over the days. */
const props = defineProps<{ watching: LectureWatching; map: TimeMap; parts: LectureParts }>()
const [HEIGHT, LEFT_HEIGHT, STILL] = [150, 34, 46]
/** Width of what is printed, px: A4 with the margins that browsers give it. */
const PAPER = 660
const PAD = { left: 34, right: 8, top: 6 }

const host = useTemplateRef('host')
const { width } = useElementSize(host)
const inner = computed(() => Math.max(100, width.value - PAD.left - PAD.right))
const length = computed(() => props.map.length)
const x = computed(() => scaleLinear([0, length.value], [0, inner.value]))
const curve = computed(() => props.watching.curve)
const top = computed(() => Math.max(1, max(curve.value, (c) => Math.max(c.people ?? 0, c.plays ?? 0)) ?? 1))
const y = computed(() => scaleLinear([0, top.value], [HEIGHT, PAD.top]).nice(4))
const levels = computed(() => y.value.ticks(4).filter(Number.isInteger))
const middle = (c: CurvePoint) => x.value((c.from + c.to) / 2)
const playsPath = computed(
  () =>
    area<CurvePoint>()
      .defined((c) => c.plays !== null)
      .x(middle)
      .y0(HEIGHT)
      .y1((c) => y.value(c.plays ?? 0))(curve.value) ?? '',
)
const peoplePath = computed(
  () =>
    line<CurvePoint>()
      .defined((c) => c.people !== null)
      .x(middle)
      .y((c) => y.value(c.people ?? 0))(curve.value) ?? '',
)
const ticks = computed(() => {
  const step = tickStep(inner.value / Math.max(1, length.value), 90)
  return range(0, length.value, step)
})
const chapters = computed(
  () =>
    projectLecture(props.map, { chapters: documentOf(props.parts, 'chapters'), links: null }).chapters.map((c) => ({
      title: c.title,
      at: c.at as number,
    })) ?? [],
)
/** How many left, by pieces wide enough to be seen. */
const leaving = computed(() => {
  const bins = Math.max(1, Math.min(50, Math.floor(inner.value / 16)))
  const per = props.watching.left.length / bins
  return range(bins)
    .map((i) => ({
      at: (i * length.value) / bins,
      until: ((i + 1) * length.value) / bins,
      count: sum(props.watching.left.slice(Math.round(i * per), Math.round((i + 1) * per))),
    }))
    .filter((b) => b.count > 0)
})
const mostLeft = computed(() => Math.max(1, max(leaving.value, (b) => b.count) ?? 1))

const { nearest, urlOf } = useStills(() => props.parts.recording)
const stills = computed(() => {
  const count = Math.max(1, Math.floor(inner.value / 82))
  return range(count).flatMap((i) => {
    const still = nearest(toRecorded(props.map, result(((i + 0.5) * length.value) / count)))
    return still ? [{ x: (i * inner.value) / count, width: inner.value / count, url: urlOf(still.image) }] : []
  })
})

/** What the pointer, or the arrow keys, are at, s. */
const at = ref<number | null>(null)
const pointed = computed(() =>
  at.value === null ? null : (curve.value[Math.min(curve.value.length - 1, pieceOf(at.value))] ?? null),
)
const pieceOf = (t: number) => Math.floor((t / length.value) * curve.value.length)
const round = (n: number) => String(Math.round(10 * n) / 10)
/** @param people null where something was put in, or only sums are kept */
function sayPoint({ from, people, plays }: CurvePoint): string {
  if (plays === null) return `${formatTimecode(from)}: put in, not recorded`
  const who = props.watching.sums ? '' : `${round(people ?? 0)} of ${props.watching.students.length} watched it, `
  return `${formatTimecode(from)}: ${who}played ${round(plays)} times`
}
const point = (e: PointerEvent) => {
  const box = (e.currentTarget as Element).getBoundingClientRect()
  at.value = Math.max(0, Math.min(length.value - 1e-6, x.value.invert(e.clientX - box.left - PAD.left)))
}
function move(e: KeyboardEvent): void {
  const step = length.value / 40
  const to = { ArrowLeft: -step, ArrowRight: step, Home: -Infinity, End: Infinity }[e.key]
  if (to === undefined) return
  e.preventDefault()
  at.value = Math.max(0, Math.min(length.value - 1e-6, (at.value ?? 0) + to))
}

const days = computed(() => props.watching.days)
const mostHours = computed(() => Math.max(1e-6, max(days.value, (d) => d.hours) ?? 0))
const sayHours = (hours: number) => (hours < 1 ? `${Math.round(60 * hours)} min` : `${hours.toFixed(1)} h`)
/** The curve in twenty rows, for whoever would rather read it. */
const table = computed(() => {
  const per = curve.value.length / 20
  return range(20).flatMap((i) => {
    const own = curve.value.slice(Math.round(i * per), Math.round((i + 1) * per))
    const [first, last] = [own[0], own.at(-1)]
    if (!first || !last) return []
    const meanOf = (kind: 'people' | 'plays') => {
      const known = own.flatMap((c) => c[kind] ?? [])
      return known.length ? round(sum(known) / known.length) : '–'
    }
    return [
      {
        ...{ from: first.from, to: last.to, people: meanOf('people'), plays: meanOf('plays') },
        left: sum(props.watching.left.slice(Math.round(i * per), Math.round((i + 1) * per))),
      },
    ]
  })
})
</script>

<template>
  <section class="surface" aria-labelledby="watching-heading">
    <div class="head">
      <h2 id="watching-heading">Watching</h2>
      <ul class="legend" aria-hidden="true">
        <li v-if="!watching.sums"><i class="people" />people</li>
        <li><i class="plays" />plays, again included</li>
        <li v-if="leaving.length"><i class="left" />stopped here</li>
      </ul>
    </div>
    <div ref="host" class="chart" :style="{ '--on-paper': PAPER / Math.max(PAPER, width) }">
      <!-- A slider in all but what it sets: it says what there is at an instant. -->
      <div
        class="field"
        role="slider"
        tabindex="0"
        aria-label="Instant of the lecture"
        :aria-valuemin="0"
        :aria-valuemax="Math.round(length)"
        :aria-valuenow="Math.round(at ?? 0)"
        :aria-valuetext="pointed ? sayPoint(pointed) : 'Arrow keys go along the lecture'"
        @pointermove="point"
        @pointerleave="at = null"
        @keydown="move"
      >
        <svg :width="width" :height="HEIGHT + LEFT_HEIGHT + 4" aria-hidden="true">
          <g :transform="`translate(${PAD.left} 0)`">
            <g v-for="level in levels" :key="level" class="level">
              <line :x2="inner" :y1="y(level)" :y2="y(level)" />
              <text x="-8" :y="y(level)" dy="0.32em">{{ level }}</text>
            </g>
            <line v-for="c in chapters" :key="c.at" class="chapter" :x1="x(c.at)" :x2="x(c.at)" :y2="HEIGHT" />
            <path class="plays" :d="playsPath" />
            <path v-if="!watching.sums" class="people" :d="peoplePath" />
            <rect
              v-for="b in leaving"
              :key="b.at"
              class="left"
              :x="x(b.at) + 1"
              :width="Math.max(3, x(b.until) - x(b.at) - 2)"
              :y="HEIGHT + 4"
              :height="Math.max(3, ((LEFT_HEIGHT - 2) * b.count) / mostLeft)"
            />
            <line v-if="at !== null" class="at" :x1="x(at)" :x2="x(at)" :y2="HEIGHT + LEFT_HEIGHT" />
          </g>
        </svg>
        <div class="stills" :style="{ marginLeft: `${PAD.left}px`, height: `${STILL}px`, width: `${inner}px` }">
          <img
            v-for="s in stills"
            :key="s.x"
            :src="s.url"
            alt=""
            :style="{ left: `${s.x}px`, width: `${s.width}px` }"
          />
        </div>
        <div class="ticks" :style="{ marginLeft: `${PAD.left}px`, width: `${inner}px` }" aria-hidden="true">
          <span v-for="t in ticks" :key="t" :style="{ left: `${x(t)}px` }">{{ formatTimecode(t) }}</span>
        </div>
        <p v-if="pointed" class="says" :style="{ left: `${Math.min(width - 320, PAD.left + x(at ?? 0) + 8)}px` }">
          {{ sayPoint(pointed) }}
        </p>
      </div>
      <ol v-if="chapters.length" class="chapters" :style="{ marginLeft: `${PAD.left}px`, width: `${inner}px` }">
        <li
          v-for="(c, i) in chapters"
          :key="c.at"
          :style="{ left: `${x(c.at)}px`, width: `${x(chapters[i + 1]?.at ?? length) - x(c.at)}px` }"
        >
          {{ c.title }}
        </li>
      </ol>
    </div>
    <p v-if="watching.elsewhere > 60" class="quiet">
      {{ formatTimecode(watching.elsewhere) }} more were watched of what the lecture has no longer.
    </p>
    <p v-if="watching.sums" class="quiet">This place keeps sums only: it is not known who watched what.</p>
    <div class="more">
      <details>
        <summary>By day</summary>
        <table>
          <caption class="unseen">
            People and time watched, by day
          </caption>
          <tbody>
            <tr v-for="d in days" :key="d.day">
              <th scope="row">{{ dayjs(d.day).format('ddd D MMM') }}</th>
              <td class="days"><span class="bar" :style="{ width: `${(100 * d.hours) / mostHours}%` }" /></td>
              <td>
                {{ sayHours(d.hours) }},
                {{ sayCount(d.people, watching.sums ? 'sitting' : 'person', watching.sums ? 'sittings' : 'people') }}
              </td>
            </tr>
          </tbody>
        </table>
      </details>
      <details>
        <summary>As a table</summary>
        <table class="numbers">
          <thead>
            <tr>
              <th scope="col">From</th>
              <th scope="col">To</th>
              <th v-if="!watching.sums" scope="col">People</th>
              <th scope="col">Plays</th>
              <th v-if="!watching.sums" scope="col">Stopped here</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in table" :key="row.from">
              <th scope="row">{{ formatTimecode(row.from) }}</th>
              <td>{{ formatTimecode(row.to) }}</td>
              <td v-if="!watching.sums">{{ row.people }}</td>
              <td>{{ row.plays }}</td>
              <td v-if="!watching.sums">{{ row.left }}</td>
            </tr>
          </tbody>
        </table>
      </details>
    </div>
  </section>
</template>

<style scoped>
.surface {
  padding: 14px 18px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 16px;
}
.legend {
  display: flex;
  gap: 18px;
  margin: 0;
  padding: 0;
  list-style: none;
  color: var(--quiet);
  font-size: 14px;
}
.legend i {
  display: inline-block;
  width: 16px;
  margin-right: 6px;
  vertical-align: middle;
}
.legend i.people {
  border-top: 2.5px solid var(--tarn);
}
.legend i.plays,
.legend i.left {
  height: 10px;
  background: #c9d8da;
}
.legend i.left {
  background: var(--marigold);
}
.chart {
  margin-top: 8px;
  overflow: hidden;
}
.field {
  position: relative;
}
.field:focus-visible {
  outline: 2px solid var(--tarn);
  outline-offset: -2px;
}
svg {
  display: block;
}
.level line {
  stroke: var(--hairline);
}
.level text {
  fill: var(--quiet);
  font-size: 12px;
  text-anchor: end;
}
.chapter {
  stroke: var(--quiet);
  stroke-dasharray: 2 3;
}
path.plays {
  fill: #c9d8da;
}
path.people {
  fill: none;
  stroke: var(--tarn);
  stroke-width: 2;
}
rect.left {
  fill: var(--marigold);
}
.at {
  stroke: var(--ink);
}
.stills {
  position: relative;
  overflow: hidden;
  background: var(--hairline);
}
.stills img {
  position: absolute;
  height: 100%;
  object-fit: cover;
  border-right: 1px solid var(--paper);
}
.ticks {
  position: relative;
  height: 20px;
}
.ticks span {
  position: absolute;
  font-size: 12px;
  color: var(--quiet);
  border-left: 1px solid var(--quiet);
  padding-left: 4px;
  line-height: 18px;
}
.says {
  position: absolute;
  top: 4px;
  width: max-content;
  max-width: 320px;
  margin: 0;
  padding: 4px 8px;
  border-radius: var(--control-radius);
  background: var(--ink);
  color: #fff;
  font-size: 14px;
  pointer-events: none;
}
.chapters {
  position: relative;
  height: 22px;
  margin-block: 0;
  padding: 0;
  list-style: none;
  font-size: 13px;
}
.chapters li {
  position: absolute;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  padding-left: 4px;
  border-left: 1px solid var(--quiet);
}
.more {
  display: flex;
  gap: 32px;
  flex-wrap: wrap;
  margin-top: 6px;
}
summary {
  cursor: pointer;
  color: var(--tarn);
  line-height: 28px;
}
table {
  border-collapse: collapse;
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
th,
td {
  text-align: left;
  font-weight: 400;
  padding: 2px 14px 2px 0;
}
.numbers :is(th, td) {
  text-align: right;
}
thead th {
  color: var(--quiet);
}
.days {
  width: 220px;
}
.bar {
  display: block;
  height: 12px;
  min-width: 2px;
  border-radius: 4px;
  background: #a9bfc4;
}
/* Drawn for the screen, it is made as small as the paper. */
@media print {
  .says {
    display: none;
  }
  .chart > * {
    zoom: var(--on-paper);
  }
  .surface {
    break-inside: avoid;
  }
}
</style>
