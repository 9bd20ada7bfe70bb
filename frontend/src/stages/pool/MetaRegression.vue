<script setup lang="ts">
// Effects against moderators: coefficients, tests, one picture for each moderator.
import type { Schemas } from '@/api/client'
import { figure, plural } from '@/common/format'
import Drawn from './Drawn.vue'
import { chance, type Analysis } from './words'

const props = defineProps<{
  found: Schemas['MetaRegression']
  analysis: Analysis
  address: (kind: string) => string
  version: number
  query: string
}>()
const ratio = ['OR', 'RR'].includes(props.analysis.measure)
</script>

<template>
  <div class="stack">
    <h3>What explains the differences</h3>
    <p v-if="!found.coefficients.length" class="small odd">
      {{ plural(found.k, 'study', 'studies') }} with figures are too few for
      {{ plural(found.names.length, 'moderator') }}, or one moderator follows from the others.
    </p>
    <template v-else>
      <table class="small">
        <thead>
          <tr>
            <th>{{ ratio ? 'On the logarithmic scale' : 'For one more' }}</th>
            <th class="num">Coefficient</th>
            <th>Interval</th>
            <th class="num">p</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in found.coefficients" :key="one.name">
            <td>{{ one.name }}</td>
            <td class="num">{{ figure(one.estimate, 4) }}</td>
            <td>{{ one.low === null ? '—' : `${figure(one.low, 4)} to ${figure(one.high, 4)}` }}</td>
            <td class="num">{{ chance(one.p) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="small">
        Moderators: {{ found.qm_df.length > 1 ? 'F' : 'Q' }} {{ figure(found.qm) }} on {{ found.qm_df.join(' and ') }},
        p {{ chance(found.qm_p) }}. What is left: Q {{ figure(found.qe) }} on {{ found.qe_df }}, p
        {{ chance(found.qe_p) }}; τ² {{ figure(found.tau2, 4)
        }}<template v-if="found.r2 !== null">; R² {{ Math.round(found.r2) }} %</template>.
        <span v-if="found.k < 10 * found.names.length" class="odd"
          >With fewer than ten studies a moderator it says little.</span
        >
      </p>
      <Drawn
        v-for="(name, k) in found.names"
        :key="name"
        :address="address"
        plot="bubble"
        :title="`Against ${name}`"
        :version="version"
        :query="`&moderator=${k}${query}`"
      />
    </template>
    <p v-if="found.lacking.length" class="small soft">Without a figure: {{ found.lacking.join('; ') }}.</p>
  </div>
</template>
