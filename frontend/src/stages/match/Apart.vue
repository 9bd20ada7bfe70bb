<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { DELETE, GET, got } from '@/api/client'
import { moment } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({ queryKey: ['apart', review], queryFn: () => got(GET('/api/reviews/{review}/told-apart', { params: path.value })) })
async function withdraw(ruling: number) {
  if (await attempt(() => got(DELETE('/api/reviews/{review}/rulings/{ruling}', { params: { path: { review: review.value, ruling } } })))) say('Taken back; the pair is open again or joined by rule.')
  await refresh('apart', 'figures', 'questions')
}
</script>

<template>
  <section class="pane sheet full">
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <div v-if="!data?.length" class="pad soft"><h2>Nobody has told copies apart</h2><p>What people say is different stands here, and holds against every rule until it is taken back.</p></div>
      <table v-else>
        <thead><tr><th>This</th><th>is not this</th><th>Said by</th><th><span class="unseen">Actions</span></th></tr></thead>
        <tbody>
          <tr v-for="it in data" :key="it.id">
            <td class="read">{{ it.left_title }}</td><td class="read">{{ it.right_title }}</td><td class="small">{{ it.by }}<div class="soft">{{ moment(it.at) }}</div></td>
            <td class="num"><v-btn v-if="mayWrite" @click="withdraw(it.id)">Take back</v-btn></td>
          </tr>
        </tbody>
      </table>
    </StateOf>
  </section>
</template>

<style scoped>
.full { height: 100%; }
</style>
