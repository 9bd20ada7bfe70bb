<script setup lang="ts">
// All analyses, each with what it comes to now.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { DELETE, GET, got, POST, PUT } from '@/api/client'
import FirstStep from '@/common/FirstStep.vue'
import { day, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { interval, MEASURE_NAMES, type Analysis } from './words'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['analyses', review],
  queryFn: () => got(GET('/api/reviews/{review}/analyses', { params: path.value })),
})
const at = (analysis: number) => ({ params: { path: { review: review.value, analysis } } })
const again = () => refresh('analyses', 'figures')
const none = computed(() => data.value?.length === 0)
async function remove(id: number, name: string) {
  const done = await attempt(() => got(DELETE('/api/reviews/{review}/analyses/{analysis}', at(id))))
  await again()
  if (done)
    say(`${name} is out of sight.`, async () => {
      await got(POST('/api/reviews/{review}/analyses/{analysis}/back', at(id)))
      await again()
    })
}
async function move(id: number, place: number) {
  const before = data.value?.findIndex((one) => one.id === id) ?? 0
  const put = (place: number) =>
    got(PUT('/api/reviews/{review}/analyses/{analysis}/place', { ...at(id), body: { place } }))
  const done = await attempt(() => put(place))
  await again()
  if (done)
    say('The analysis is moved.', async () => {
      await put(before)
      await again()
    })
}
async function copy(analysis: Analysis) {
  const body = { ...analysis, name: `${analysis.name} (copy)` }
  await attempt(() => got(POST('/api/reviews/{review}/analyses', { params: path.value, body })))
  await again()
}
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <v-btn v-if="mayWrite" class="main" :to="`/reviews/${review}/pool/new`">New analysis</v-btn>
    </Teleport>
    <div class="panes">
      <section class="pane sheet pad stack" tabindex="0" aria-label="Analyses">
        <div v-if="none" class="soft">
          <h2>No analysis yet</h2>
          <FirstStep stage="Pool" />
        </div>
        <table v-else>
          <thead>
            <tr>
              <th>Analysis</th>
              <th>Measure</th>
              <th class="num">Studies</th>
              <th>Together</th>
              <th class="num">I²</th>
              <th>Changed</th>
              <th v-if="mayWrite"><span class="unseen">Deeds</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, k) in data" :key="one.id">
              <td>
                <router-link :to="`/reviews/${review}/pool/${one.id}`">{{ one.analysis.name }}</router-link>
                <div v-if="one.problem" class="small odd">{{ one.problem }}</div>
              </td>
              <td>{{ MEASURE_NAMES[one.analysis.measure] }}</td>
              <td class="num">{{ one.network?.studies ?? one.pooled?.k ?? 0 }}</td>
              <td v-if="one.network">
                {{ plural(one.network.treatments, 'treatment')
                }}{{ one.network.parts > 1 ? ` in ${one.network.parts} parts` : '' }}
                <span v-if="one.network.first" class="soft small">{{ one.network.first }} ranks first</span>
              </td>
              <td v-else>{{ interval(one.pooled?.pooled) }}</td>
              <td class="num">{{ one.pooled && one.pooled.k > 1 ? `${Math.round(one.pooled.i2)} %` : '—' }}</td>
              <td class="small soft">{{ day(one.at) }}, {{ one.by }}</td>
              <td v-if="mayWrite">
                <div class="row">
                  <v-btn
                    class="small"
                    :disabled="!k"
                    :aria-label="`${one.analysis.name} up`"
                    @click="move(one.id, k - 1)"
                    >↑</v-btn
                  >
                  <v-btn
                    class="small"
                    :disabled="k + 1 === data?.length"
                    :aria-label="`${one.analysis.name} down`"
                    @click="move(one.id, k + 1)"
                    >↓</v-btn
                  >
                  <v-btn class="small" @click="copy(one.analysis)">Copy</v-btn>
                  <v-btn
                    class="small"
                    :aria-label="`Remove ${one.analysis.name}`"
                    @click="remove(one.id, one.analysis.name)"
                    >Remove</v-btn
                  >
                </div>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="!none" class="small soft">
          {{ plural(data?.length ?? 0, 'analysis', 'analyses') }}, worked out from the evidence table as it is now: a
          value that changes there changes them.
        </p>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
td.num {
  white-space: nowrap;
}
</style>
