<script setup lang="ts">
// The same studies looked at more closely: funnel, without each, one by one, by every model.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { file, GET, got, type Schemas } from '@/api/client'
import { figure } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useReview } from '@/common/review'
import { chance, interval } from './words'

const props = defineProps<{ analysis: Schemas['WholeAnalysis']; address: (kind: string) => string }>()
const closer = computed(() => props.analysis.closer)
const groups = computed(() => props.analysis.result.groups)
const { data: funnel } = useQuery({
  queryKey: ['analyses', 'funnel', computed(() => `${props.address('funnel.svg')} ${props.analysis.version}`)],
  enabled: computed(() => closer.value.k > 0),
  queryFn: async () => (await file(`${props.address('funnel.svg')}?screen=true`)).text(),
})
const { review } = useReview()
const { data: words } = useQuery({
  queryKey: ['analyses', review, 'words', computed(() => `${props.analysis.id} ${props.analysis.version}`)],
  enabled: computed(() => closer.value.k > 0),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/analyses/{analysis}/words', {
        params: { path: { review: review.value, analysis: props.analysis.id } },
      }),
    ),
})
async function copy() {
  const told = words.value
  if (!told) return
  const text = [told.methods, told.results, ...told.sources].join('\n\n')
  if (await attempt(() => navigator.clipboard.writeText(text))) say('The words are copied.')
}
const TABLES = computed(
  () =>
    [
      ['By every model', 'Model', closer.value.ways],
      ['Without each study', 'Without', closer.value.without],
      ['Study after study, by year', 'With', closer.value.added],
    ] as const,
)
</script>

<template>
  <div class="looks">
    <div class="stack">
      <h3>Small studies</h3>
      <!-- eslint-disable-next-line vue/no-v-html -- drawn by the server, every text in it escaped -->
      <div v-if="funnel" class="funnel" v-html="funnel" />
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
        <p v-if="analysis.result.between" class="small">
          Between them: Q {{ figure(analysis.result.between.q) }} on {{ analysis.result.between.q_df }}, p
          {{ chance(analysis.result.between.q_p) }}.
        </p>
      </template>
    </div>
    <div v-if="words" class="stack">
      <div class="row">
        <h3>Words for the report</h3>
        <v-btn class="push" @click="copy">Copy</v-btn>
      </div>
      <p class="read">{{ words.methods }}</p>
      <p class="read">{{ words.results }}</p>
      <ul class="small soft sources">
        <li v-for="source in words.sources" :key="source">{{ source }}</li>
      </ul>
    </div>
    <div v-for="[title, head, some] in TABLES" :key="title" class="stack">
      <h3>{{ title }}</h3>
      <table class="small">
        <thead>
          <tr>
            <th>{{ head }}</th>
            <th>Together</th>
            <th class="num">p</th>
            <th class="num">I²</th>
            <th class="num">τ²</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in some" :key="one.name">
            <td>{{ one.name }}</td>
            <td>{{ interval(one.pooled?.pooled) }}</td>
            <td class="num">{{ chance(one.pooled?.pooled.p) }}</td>
            <td class="num">{{ one.pooled ? `${Math.round(one.pooled.i2)} %` : '—' }}</td>
            <td class="num">{{ figure(one.pooled?.tau2, 3) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.looks {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(440px, 100%), 1fr));
  gap: 24px 32px;
  align-items: start;
}
td:not(:first-child) {
  white-space: nowrap;
}
.sources {
  list-style: none;
  margin: 0;
  padding: 0;
}
.funnel :deep(svg) {
  max-width: 100%;
  height: auto;
}
</style>
