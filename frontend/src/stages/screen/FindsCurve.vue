<script setup lang="ts">
// Finds over what was screened, and how many there are in all, as far as could be told at each moment.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

const props = defineProps<{ curve: Schemas['Point'][]; looks: Schemas['BandAt'][]; records: number }>()
const [WIDE, HIGH, LEFT, TOP, RIGHT, BOTTOM] = [680, 260, 44, 12, 12, 34]
const found = computed(() => props.curve.at(-1)?.found ?? 0)
const last = computed(() => props.looks.at(-1))
/** The band is wide at first; what is beyond half as much again as is now thought possible is cut. */
const most = computed(() => Math.max(4, 1.25 * found.value, 1.5 * (last.value?.high ?? 0)))
const x = (n: number) => LEFT + (n / Math.max(1, props.records)) * (WIDE - LEFT - RIGHT)
const y = (n: number) => TOP + (1 - Math.min(n, most.value) / most.value) * (HIGH - TOP - BOTTOM)
const path = (points: [number, number][]) =>
  points.map(([a, b], k) => `${k ? 'L' : 'M'}${x(a).toFixed(1)} ${y(b).toFixed(1)}`).join('')
const line = computed(() => path(props.curve.map((one) => [one.answered, one.found])))
const band = computed(() =>
  props.looks.length
    ? `${path([
        ...props.looks.map((look) => [look.answered, look.high] as [number, number]),
        ...[...props.looks].reverse().map((one) => [one.answered, one.low] as [number, number]),
      ])}Z`
    : '',
)
const steps = (n: number) => {
  const rough = n / 6
  const size = 10 ** Math.floor(Math.log10(Math.max(1, rough)))
  const step = Math.max(1, [1, 2, 5, 10].map((k) => k * size).find((k) => k >= rough) ?? size)
  return Array.from({ length: Math.floor(n / step) + 1 }, (_, k) => k * step)
}
const words = computed(
  () =>
    `${count(found.value)} found after ${count(props.curve.at(-1)?.answered ?? 0)} of ${count(props.records)} records; in all ${count(Math.round(last.value?.low ?? 0))} to ${count(Math.round(last.value?.high ?? 0))}, as far as can be told`,
)
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="words">
      <g class="grid">
        <template v-for="n in steps(most)" :key="`y${n}`">
          <line :x1="LEFT" :x2="WIDE - RIGHT" :y1="y(n)" :y2="y(n)" />
          <text :x="LEFT - 6" :y="y(n) + 4" class="end">{{ count(n) }}</text>
        </template>
        <text v-for="n in steps(records)" :key="`x${n}`" :x="x(n)" :y="HIGH - 16" class="middle">{{ count(n) }}</text>
      </g>
      <path v-if="band" :d="band" class="band" />
      <path :d="line" class="line" />
      <line
        v-if="last"
        :x1="x(last.answered)"
        :x2="x(last.answered)"
        :y1="y(last.high)"
        :y2="y(last.low)"
        class="now"
      />
      <text :x="(LEFT + WIDE - RIGHT) / 2" :y="HIGH - 2" class="middle">records screened, in their sequence</text>
    </svg>
    <figcaption class="small soft">
      <span class="key line-key" /> included so far <span class="key band-key" /> in all, 95 % interval as it was at
      each moment
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  max-width: 720px;
}
svg {
  width: 100%;
  height: auto;
}
.grid line {
  stroke: var(--ks-hair);
}
text {
  font-size: 11px;
  fill: var(--ks-soft);
}
.end {
  text-anchor: end;
}
.middle {
  text-anchor: middle;
}
.band {
  fill: var(--ks-ochre-wash);
  stroke: var(--ks-ochre);
  stroke-width: 0.75;
}
.line {
  fill: none;
  stroke: var(--ks-pine);
  stroke-width: 2;
}
.now {
  stroke: var(--ks-ochre);
  stroke-width: 2;
}
.key {
  display: inline-block;
  width: 18px;
  vertical-align: middle;
  margin: 0 4px 0 10px;
}
.line-key {
  border-top: 2px solid var(--ks-pine);
  margin-left: 0;
}
.band-key {
  height: 8px;
  background: var(--ks-ochre-wash);
  border: 1px solid var(--ks-ochre);
}
</style>
