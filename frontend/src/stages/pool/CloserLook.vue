<script setup lang="ts">
// The same studies looked at more closely: funnel, moderators, who carries the whole, τ², without each, by every model.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { GET, got, type Schemas } from '@/api/client'
import { figure } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import Drawn from './Drawn.vue'
import InWords from './InWords.vue'
import MetaRegression from './MetaRegression.vue'
import PooledTable from './PooledTable.vue'
import { chance, interval } from './words'

const props = defineProps<{
  analysis: Schemas['WholeAnalysis']
  result: Schemas['AnalysisResult']
  address: (kind: string) => string
  without: string[]
  query: string
}>()
const { review } = useReview()
const { data: closer, error, isPending, refetch } = useQuery({
  queryKey: [
    'analyses', review, 'closer', computed(() => `${props.analysis.id} ${props.analysis.version} ${props.without.join()}`),
  ],
  placeholderData: keepPreviousData,
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/analyses/{analysis}/closer', {
        params: { path: { review: review.value, analysis: props.analysis.id }, query: { without: props.without } },
      }),
    ),
}) // prettier-ignore
const groups = computed(() => props.result.groups)
const counts = computed(() => ['OR', 'RR', 'RD'].includes(props.analysis.analysis.measure))
const picture = computed(() => ({ address: props.address, version: props.analysis.version, query: props.query }))
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="closer" class="looks">
      <div class="stack">
        <Drawn v-if="closer.k" v-bind="picture" plot="funnel" title="Small studies" />
        <p v-if="closer.asymmetry" class="small">
          Egger’s test: intercept {{ figure(closer.asymmetry.intercept) }}, SE {{ figure(closer.asymmetry.se) }}, t
          {{ figure(closer.asymmetry.t) }} on {{ closer.asymmetry.df }}, p {{ chance(closer.asymmetry.p) }}.
          <span v-if="closer.k < 10" class="odd">With fewer than ten studies it says little.</span>
        </p>
        <p v-else class="small soft">A test of asymmetry needs three studies.</p>
        <template v-if="groups.length">
          <h3>Groups</h3>
          <table class="small">
            <thead>
              <tr>
                <th>Group</th>
                <th class="num">Studies</th>
                <th>Together</th>
                <th class="num">I²</th>
                <th class="num">τ²</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="group in groups" :key="group.name">
                <td>{{ group.name }}</td>
                <td class="num">{{ group.pooled.k }}</td>
                <td>{{ interval(group.pooled.pooled) }}</td>
                <td class="num">{{ Math.round(group.pooled.i2) }} %</td>
                <td class="num">{{ figure(group.pooled.tau2, 3) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="result.between" class="small">
            Between them: Q {{ figure(result.between.q) }} on {{ result.between.q_df }}, p
            {{ chance(result.between.q_p) }}.
          </p>
        </template>
      </div>
      <InWords :id="analysis.id" :version="analysis.version" />
      <MetaRegression
        v-if="closer.moderated"
        :found="closer.moderated"
        :analysis="analysis.analysis"
        :address="address"
        :version="analysis.version"
        :query="query"
      />
      <div v-if="closer.influence.length > 1" class="stack">
        <h3>Who carries the whole</h3>
        <table class="small">
          <thead>
            <tr>
              <th>Study</th>
              <th class="num" title="From what the others give, over its standard error">Residual</th>
              <th class="num" title="Cook’s distance: how far the whole moves without it, squared, in standard errors">
                Cook
              </th>
              <th class="num" title="Its share of the weight, from 0 to 1">Hat</th>
              <th class="num">τ² without</th>
              <th class="num">Q without</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in closer.influence" :key="one.name" :class="{ odd: one.stands_out }">
              <td>{{ one.stands_out ? '▸ ' : '' }}{{ one.name }}</td>
              <td class="num">{{ figure(one.residual) }}</td>
              <td class="num">{{ figure(one.cook) }}</td>
              <td class="num">{{ figure(one.hat) }}</td>
              <td class="num">{{ figure(one.tau2, 3) }}</td>
              <td class="num">{{ figure(one.q) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="small soft">
          ▸ deserves a look: a residual beyond ±1.96, a Cook’s distance above 0.45, or a hat value above three times the
          mean.
        </p>
      </div>
      <div v-if="closer.tau2" class="stack">
        <Drawn v-bind="picture" plot="curve" title="How well τ² is known" />
        <p class="small">
          Most likely {{ figure(closer.tau2.best, 4) }}; by the likelihood ratio {{ figure(closer.tau2.low, 4) }} to
          {{ figure(closer.tau2.high, 4) }}, by Q {{ figure(closer.tau2.q_low, 4) }} to
          {{ figure(closer.tau2.q_high, 4) }}.
        </p>
      </div>
      <Drawn v-if="counts && closer.k" v-bind="picture" plot="labbe" title="Risks on both sides" />
      <PooledTable title="By every model" head="Model" :rows="closer.ways" />
      <PooledTable title="Without each study" head="Without" :rows="closer.without" />
      <PooledTable title="Study after study, by year" head="With" :rows="closer.added" />
    </div>
  </StateOf>
</template>

<style scoped>
.looks {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(440px, 100%), 1fr));
  gap: 24px 32px;
  align-items: start;
}
td {
  white-space: nowrap;
}
</style>
