<script setup lang="ts">
// How each pass is screened, and who reads what.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got } from '@/api/client'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import PassMode from './PassMode.vue'
import Shares from './Shares.vue'

const route = useRoute()
const router = useRouter()
const { review, path, mayLead } = useReview()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['passes', review],
  queryFn: () => got(GET('/api/reviews/{review}/passes', { params: path.value })),
})
const pass = computed<1 | 2>(() => (route.query.pass === '2' ? 2 : 1))
const choose = (number: number) => router.replace({ query: { ...route.query, pass: String(number) } })
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <section class="pane" tabindex="0" aria-label="Passes">
        <PassMode
          v-for="one in data"
          :key="one.pass_number"
          :pass="one"
          :review="review"
          :may-lead="mayLead"
          :chosen="one.pass_number === pass"
          @choose="choose(one.pass_number)"
        />
      </section>
      <section class="pane sheet" tabindex="0" aria-label="Shares">
        <Shares :key="pass" :pass="pass" :readers="data?.find((one) => one.pass_number === pass)?.mode.readers ?? 1" />
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(330px, 400px) minmax(0, 1fr);
}
</style>
