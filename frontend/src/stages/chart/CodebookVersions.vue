<script setup lang="ts">
// Every version of the codebook, and what each changed.
import { useQuery } from '@tanstack/vue-query'
import { GET, got } from '@/api/client'
import { moment } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path } = useReview()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['codebook', review, 'versions'],
  queryFn: () => got(GET('/api/reviews/{review}/codebook/versions', { params: path.value })),
})
</script>

<template>
  <section class="pane pad versions" tabindex="0" aria-label="Versions of the codebook">
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <p v-if="!data?.length" class="soft">The codebook was not saved yet.</p>
      <article v-for="each in data" :key="each.number">
        <h2>Version {{ each.number }}</h2>
        <p class="small soft">{{ each.by }}, {{ moment(each.at) }}</p>
        <ul>
          <li v-for="one in each.changes" :key="one">{{ one }}</li>
          <li v-if="!each.changes.length" class="soft">The order was changed.</li>
        </ul>
      </article>
    </StateOf>
  </section>
</template>

<style scoped>
.versions {
  height: 100%;
}
article {
  padding: 12px 0;
  border-bottom: 1px solid var(--ks-hair);
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
</style>
