<script setup lang="ts">
// Other forms of the term that is being looked at: spellings, singular and plural, one word or two, its stem.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { got, POST } from '@/api/client'
import { count } from '@/common/format'
import { useReview } from '@/common/review'

const props = defineProps<{ term: string; present: string[] }>()
const emit = defineEmits<{ add: [term: string] }>()
const { review, path } = useReview()
const { data, isFetching } = useQuery({
  queryKey: ['trial', review, 'variants', computed(() => props.term)],
  queryFn: () => got(POST('/api/reviews/{review}/query/variants', { params: path.value, body: { text: props.term } })),
  placeholderData: keepPreviousData,
})
const offered = computed(() => (data.value ?? []).filter((one) => !props.present.includes(one.term)))
</script>

<template>
  <p class="offers small">
    <span class="soft">Also of {{ term }}:</span> <span v-if="isFetching" class="soft" role="status">looking …</span
    ><span v-else-if="!offered.length" class="soft">no other form stands in the records</span>
    <button
      v-for="one in offered"
      v-else
      :key="one.term"
      class="offer"
      :title="one.why"
      :aria-label="`Add ${one.term}, ${one.why}, in ${one.records} records`"
      @mousedown.prevent
      @click="emit('add', one.term)"
    >
      <span class="mono">{{ one.term }}</span> {{ count(one.records) }}
    </button>
  </p>
</template>

<style scoped>
.offers {
  padding: 0 8px 8px;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: baseline;
}
.offer {
  color: var(--ks-pine);
  white-space: nowrap;
}
.offer .mono {
  text-decoration: underline;
  text-underline-offset: 2px;
  white-space: nowrap;
}
</style>
