<script setup lang="ts">
// Several treatments at once: who was compared with whom, all against all, direct against indirect, the ranking.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure, percent, plural } from '@/common/format'
import Drawn from './Drawn.vue'
import InWords from './InWords.vue'
import { chance, interval, turned, type Analysis } from './words'

const props = defineProps<{
  found: Schemas['NetworkFigures']
  analysis: Analysis
  kept?: { id: number; version: number; query: string; address: (kind: string) => string }
}>()
const ratio = computed(() => ['OR', 'RR'].includes(props.analysis.measure))
const inside = computed(() => props.found.parts[0] ?? [])
const named = (treatment: number) => props.found.treatments[treatment] ?? ''
const pairs = computed(() => new Map(props.found.league.map((one) => [`${one.a} ${one.b}`, one])))
/** The row against the column: below the diagonal by the whole network, above it by the studies that compare them. */
function cell(row: number, column: number) {
  const [a, b] = row < column ? [row, column] : [column, row]
  const found = pairs.value.get(`${a} ${b}`)
  if (!found) return '—'
  if (inside.value.indexOf(row) > inside.value.indexOf(column))
    return interval(row === found.a ? found.network : turned(found.network, ratio.value))
  return found.direct ? interval(row === found.a ? found.direct : turned(found.direct, ratio.value)) : '—'
}
const compared = computed(() => props.found.league.filter((one) => one.direct))
const both = computed(() => compared.value.filter((one) => one.difference).length)
const differ = computed(() => compared.value.filter((one) => (one.difference?.p ?? 1) < 0.05).length)
</script>

<template>
  <div class="looks">
    <div v-if="kept || found.parts.length > 1" class="stack">
      <Drawn
        v-if="kept"
        :address="kept.address"
        plot="treatments"
        title="Who was compared with whom"
        :version="`${kept.version} ${found.studies.map((one) => one.out)}`"
      />
      <p class="small soft">
        A circle’s area: how many took part. A line’s width, and the figure on it: how many studies.
      </p>
      <p v-if="found.parts.length > 1" class="odd">
        The network falls apart into {{ found.parts.length }} parts:
        {{ found.parts.map((part) => part.map(named).join(', ')).join('; ') }}. Figures are of the part with
        {{ named(0) }}.
      </p>
    </div>
    <div v-if="found.ranking.length" class="stack">
      <h3>Ranking</h3>
      <table class="small">
        <thead>
          <tr>
            <th>Treatment</th>
            <th>Against {{ named(0) }}</th>
            <th class="num" title="How sure it is better than the others, on average">P-score</th>
            <th class="num">Rank</th>
            <th class="num" title="In how many of 20,000 draws it came first">First</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in found.ranking" :key="one.treatment">
            <td>{{ named(one.treatment) }}</td>
            <td class="whole">{{ one.treatment === 0 ? 'reference' : interval(one.against_first ?? undefined) }}</td>
            <td class="num">{{ figure(one.score) }}</td>
            <td class="num">{{ one.rank }}, {{ one.low }} to {{ one.high }}</td>
            <td class="num">{{ percent(one.best) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="small soft">
        {{ analysis.better === 'smaller' ? 'Smaller' : 'Larger' }} is better. Ranks: the median and its
        {{ Math.round(100 * (analysis.level ?? 0.95)) }} % interval.
      </p>
    </div>
    <div v-if="found.league.length" class="stack wide">
      <h3>All against all</h3>
      <div class="scroll" tabindex="0" role="region" aria-label="All against all">
        <table class="small league">
          <thead>
            <tr>
              <th><span class="unseen">Treatment</span></th>
              <th v-for="column in inside" :key="column">against {{ named(column) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in inside" :key="row">
              <th>{{ named(row) }}</th>
              <td v-for="column in inside" :key="column" :class="{ same: row === column, soft: row < column }">
                {{ row === column ? '' : cell(row, column) }}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="small soft">
        The row’s treatment against the column’s. Below the blank cells: by the whole network; above them: by the
        studies that compare the two, alone.
      </p>
    </div>
    <div v-if="compared.length" class="stack wide">
      <h3>Direct against indirect</h3>
      <div class="scroll" tabindex="0" role="region" aria-label="Direct against indirect">
        <table class="small">
          <thead>
            <tr>
              <th>Comparison</th>
              <th class="num">Studies</th>
              <th>Direct</th>
              <th>Indirect</th>
              <th>{{ ratio ? 'Ratio of the two' : 'Difference' }}</th>
              <th class="num">p</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in compared" :key="`${one.a} ${one.b}`" :class="{ odd: (one.difference?.p ?? 1) < 0.05 }">
              <td>{{ named(one.a) }} against {{ named(one.b) }}</td>
              <td class="num">{{ one.studies }}</td>
              <td class="whole">{{ interval(one.direct ?? undefined) }}</td>
              <td class="whole">{{ one.indirect ? interval(one.indirect) : 'nothing goes around' }}</td>
              <td class="whole">{{ interval(one.difference ?? undefined) }}</td>
              <td class="num">{{ chance(one.difference?.p) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="found.q" class="small">
        <template v-if="both"
          >Of {{ plural(both, 'comparison') }} with both, {{ differ || 'none' }}
          {{ differ > 1 ? 'differ' : 'differs' }} at 5 %.</template
        ><template v-else>No comparison has both.</template> Q {{ figure(found.q.q) }} on {{ found.q.df }}, p
        {{ chance(found.q.p)
        }}<template v-if="found.within && found.between"
          >: within designs {{ figure(found.within.q) }} on {{ found.within.df }}, between them
          {{ figure(found.between.q) }} on {{ found.between.df }}, p {{ chance(found.between.p) }}</template
        ><template v-if="found.tau2 !== null">; τ² {{ figure(found.tau2, 4) }}</template
        >.
      </p>
    </div>
    <InWords v-if="kept && found.league.length" :id="kept.id" :version="kept.version" class="wide" />
  </div>
</template>

<style scoped>
.looks {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(400px, 100%), 1fr));
  gap: 24px 32px;
  align-items: start;
}
.wide {
  grid-column: 1 / -1;
}
.scroll {
  overflow-x: auto;
}
.whole,
.league td,
.league th {
  white-space: nowrap;
}
.league .same {
  background: var(--ks-hair);
}
</style>
