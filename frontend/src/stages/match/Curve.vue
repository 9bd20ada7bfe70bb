<script setup lang="ts">
// The errors to be expected at each weight, and the two weights that decide: moved by slider or key.
import { computed } from 'vue'
import { count } from '@/common/format'
import { about, expected, line, type Point } from './rule'

const props = defineProps<{ curve: Point[]; join: number; ask: number; automatic: boolean; readonly?: boolean }>()
const emit = defineEmits<{ join: [weight: number]; ask: [weight: number]; automatic: [on: boolean] }>()
const [WIDTH, HEIGHT, LEFT, BOTTOM] = [640, 150, 34, 22]
const top = computed(() => Math.max(20, Math.ceil(props.join + 6)))
// what happens around the two weights is what is to be seen; the rest may leave at the top
const most = computed(() =>
  Math.max(
    2,
    ...props.curve
      .filter((one) => one.weight >= props.ask - 3 && one.weight <= props.join + 4)
      .map((one) => Math.max(one.wrong, one.missed)),
  ),
)
const x = (weight: number) => LEFT + ((WIDTH - LEFT - 4) * Math.min(weight, top.value)) / top.value
const y = (n: number) => 6 + (HEIGHT - BOTTOM - 6) * (1 - Math.sqrt(Math.min(n, most.value) / most.value))
const shown = computed(() => props.curve.filter((one) => one.weight <= top.value))
const wrong = computed(() => line(shown.value.map((one) => [x(one.weight), y(one.wrong)])))
const missed = computed(() => line(shown.value.map((one) => [x(one.weight), y(one.missed)])))
const ticks = computed(() => Array.from({ length: Math.floor(top.value / 5) + 1 }, (_, k) => 5 * k))
const levels = computed(() =>
  [...new Set([0, 1, Math.round(most.value / 4), Math.round(most.value)])].filter((n) => n <= most.value),
)
const says = computed(() => expected(props.curve, props.join, props.ask))
</script>

<template>
  <div>
    <p class="says">
      <b>At this setting</b> {{ count(says.joined) }} links are joined, <b>{{ about(says.wrong) }}</b> of them expected
      to be wrong; <b>{{ count(says.asked) }}</b> {{ says.asked === 1 ? 'pair is' : 'pairs are' }} asked, and
      look-alikes beside; <b>{{ about(says.missed) }}</b> copies expected to stay unfound below.
    </p>
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      role="img"
      :aria-label="`Expected errors by weight. Joined from ${join.toFixed(1)}: about ${about(says.wrong)} wrong. Asked from ${ask.toFixed(1)}: ${says.asked} pairs, about ${about(says.missed)} missed below.`"
    >
      <rect :x="x(ask)" y="6" :width="Math.max(0, x(join) - x(ask))" :height="HEIGHT - BOTTOM - 6" class="asked" />
      <g class="grid">
        <line v-for="n in levels" :key="n" :x1="LEFT" :x2="WIDTH - 4" :y1="y(n)" :y2="y(n)" />
        <text v-for="n in levels" :key="`t${n}`" :x="LEFT - 5" :y="y(n) + 4" text-anchor="end">{{ n }}</text>
      </g>
      <text v-for="n in ticks" :key="n" :x="x(n)" :y="HEIGHT - 6" :text-anchor="x(n) > WIDTH - 12 ? 'end' : 'middle'">
        {{ n }}
      </text>
      <path :d="missed" class="missed" />
      <path :d="wrong" class="wrong" />
      <line :x1="x(join)" :x2="x(join)" y1="6" :y2="HEIGHT - BOTTOM" class="join" />
      <line :x1="x(ask)" :x2="x(ask)" y1="6" :y2="HEIGHT - BOTTOM" class="ask" />
    </svg>
    <p class="small soft legend">
      <span class="key wrong" /> wrong joins above the weight <span class="key missed" /> copies below it
      <span class="key area" /> asked
    </p>
    <div class="sliders small">
      <label for="join-from">Joined from</label
      ><input
        id="join-from"
        type="range"
        min="0"
        :max="top"
        step="0.5"
        :value="join"
        :disabled="readonly"
        @input="emit('join', Number(($event.target as HTMLInputElement).value))"
      /><span class="num">{{ join.toFixed(1) }}</span> <label for="ask-from">Asked from</label
      ><input
        id="ask-from"
        type="range"
        min="0"
        :max="top"
        step="0.5"
        :value="ask"
        :disabled="readonly"
        @input="emit('ask', Number(($event.target as HTMLInputElement).value))"
      /><span class="num">{{ ask.toFixed(1) }}</span>
    </div>
    <label class="small"
      ><input
        type="checkbox"
        :checked="automatic"
        :disabled="readonly"
        @change="emit('automatic', ($event.target as HTMLInputElement).checked)"
      />
      From the errors expected: joined where a pair is one report with 90 in 100, asked from 10 in 100</label
    >
  </div>
</template>

<style scoped>
.says {
  max-width: 640px;
}
svg {
  width: 100%;
  max-width: 640px;
  display: block;
  margin-top: 8px;
}
svg text {
  font: 11px var(--ks-work);
  fill: var(--ks-soft);
}
.grid line {
  stroke: var(--ks-hair);
}
path {
  fill: none;
  stroke-width: 2;
}
path.wrong {
  stroke: var(--ks-copper);
}
path.missed {
  stroke: var(--ks-pine);
  stroke-dasharray: 5 3;
}
.asked {
  fill: var(--ks-ochre-wash);
}
line.join {
  stroke: var(--ks-copper);
  stroke-width: 1.5;
}
line.ask {
  stroke: var(--ks-slate);
  stroke-width: 1.5;
}
.legend {
  display: flex;
  align-items: center;
  gap: 6px;
  flex-wrap: wrap;
}
.key {
  display: inline-block;
  width: 18px;
  height: 0;
  border-top: 2px solid var(--ks-copper);
}
.key.missed {
  border-top: 2px dashed var(--ks-pine);
  margin-left: 10px;
}
.key.area {
  height: 10px;
  border: 0;
  background: var(--ks-ochre-wash);
  outline: 1px solid var(--ks-hair);
  margin-left: 10px;
}
.sliders {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) 40px;
  gap: 4px 8px;
  align-items: center;
  max-width: 640px;
  margin: 8px 0;
}
input[type='range'] {
  accent-color: var(--ks-copper);
  width: 100%;
}
</style>
