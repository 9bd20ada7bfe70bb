<script setup lang="ts">
// An analysis as the methods and the results of a report would tell it.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { GET, got } from '@/api/client'
import { attempt, say } from '@/common/messages'
import { useReview } from '@/common/review'

const props = defineProps<{ id: number; version: number }>()
const { review } = useReview()
const { data: words, error } = useQuery({
  queryKey: ['analyses', review, 'words', computed(() => `${props.id} ${props.version}`)],
  retry: false,
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/analyses/{analysis}/words', {
        params: { path: { review: review.value, analysis: props.id } },
      }),
    ),
})
async function copy() {
  const told = words.value
  if (!told) return
  const text = [told.methods, told.results, ...told.sources].join('\n\n')
  if (await attempt(() => navigator.clipboard.writeText(text))) say('The words are copied.')
}
</script>

<template>
  <div class="stack">
    <div class="row">
      <h3>Words for the report</h3>
      <v-btn v-if="words" class="push" @click="copy">Copy</v-btn>
    </div>
    <template v-if="words">
      <p class="read">{{ words.methods }}</p>
      <p class="read">{{ words.results }}</p>
      <ul class="small soft sources">
        <li v-for="source in words.sources" :key="source">{{ source }}</li>
      </ul>
    </template>
    <p v-else-if="error" class="small soft">{{ error.message }}</p>
  </div>
</template>

<style scoped>
.sources {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
