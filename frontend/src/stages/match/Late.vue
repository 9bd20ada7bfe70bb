<script setup lang="ts">
// Copies that came after their record had been decided: the verdict stands, and here is what joined it.
import { useQuery } from '@tanstack/vue-query'
import { GET, got } from '@/api/client'
import { moment, plural } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path } = useReview()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['late', review],
  queryFn: () => got(GET('/api/reviews/{review}/late-copies', { params: path.value })),
})
</script>

<template>
  <section class="pane sheet full" tabindex="0" aria-label="Late copies">
    <Teleport to="#view-actions" defer
      ><span v-if="data?.length" class="soft small"
        >{{ plural(data.length, 'copy', 'copies') }} came after a decision</span
      ></Teleport
    >
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <div v-if="!data?.length" class="pad soft">
        <h2>No copy came late</h2>
        <p>
          When a file is taken in after screening has begun, its copies of records that are decided already join them
          here. The decisions stand; you see what arrived, and can take it out again.
        </p>
      </div>
      <table v-else>
        <thead>
          <tr>
            <th>The record</th>
            <th>Stands as</th>
            <th>What came</th>
            <th>From</th>
            <th>Joined</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data" :key="one.id">
            <td class="read">
              <router-link :to="`/reviews/${review}/match/groups?record=${one.record_id}`">{{
                one.title || 'Untitled'
              }}</router-link>
            </td>
            <td class="small">
              {{ one.state }}
            </td>
            <td class="read">{{ one.late_title === one.title ? 'the same title' : one.late_title }}</td>
            <td class="small">
              {{ one.source }}
              <div class="soft">{{ one.filename }}, line {{ one.line }}</div>
            </td>
            <td class="small">{{ moment(one.at) }}</td>
          </tr>
        </tbody>
      </table>
    </StateOf>
  </section>
</template>

<style scoped>
.full {
  height: 100%;
}
</style>
