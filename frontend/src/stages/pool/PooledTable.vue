<script setup lang="ts">
// The same studies pooled in several ways, one row for each.
import type { Schemas } from '@/api/client'
import { figure } from '@/common/format'
import { chance, interval } from './words'

defineProps<{ title: string; head: string; rows: Schemas['NamedPooled'][] }>()
</script>

<template>
  <div class="stack">
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
        <tr v-for="row in rows" :key="row.name">
          <td>{{ row.name }}</td>
          <td class="whole">{{ interval(row.pooled?.pooled) }}</td>
          <td class="num">{{ chance(row.pooled?.pooled.p) }}</td>
          <td class="num">{{ row.pooled ? `${Math.round(row.pooled.i2)} %` : '—' }}</td>
          <td class="num">{{ figure(row.pooled?.tau2, 3) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.whole {
  white-space: nowrap;
}
</style>
