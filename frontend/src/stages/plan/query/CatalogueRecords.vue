<script setup lang="ts">
// What a catalogue finds for a branch, to read page by page.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { got, POST } from '@/api/client'
import { count, people } from '@/common/format'
import { useReview } from '@/common/review'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ catalogue: number; name: string; query: string }>()
const { review, path } = useReview()
const start = ref(1)
watch(
  () => [props.query, props.catalogue],
  () => (start.value = 1),
)
const { data, error, isFetching } = useQuery({
  queryKey: ['trial', review, 'catalogue', computed(() => props.catalogue), computed(() => props.query), start],
  queryFn: () =>
    got(
      POST('/api/reviews/{review}/catalogues/{number}/records', {
        params: { path: { ...path.value.path, number: props.catalogue } },
        body: { text: props.query, start: start.value },
      }),
    ),
  enabled: computed(() => open.value && !!props.query),
  placeholderData: keepPreviousData,
})
const last = computed(() => (data.value ? data.value.start + data.value.records.length - 1 : 0))
</script>

<template>
  <v-dialog v-model="open" max-width="860" scrollable :aria-label="`Records of ${name}`">
    <v-card class="pad">
      <div class="row">
        <h2 class="nowrap">{{ name }}</h2>
        <span class="mono small clip">{{ query }}</span><span v-if="isFetching" class="soft small" role="status"
          >Asking …</span
        >
        <v-btn
          class="push"
          :disabled="start === 1"
          aria-label="Earlier records"
          @click="start = Math.max(1, start - 20)"
          >←</v-btn
        ><span class="small nowrap">{{
          data?.records.length ? `${count(data.start)} to ${count(last)} of ${count(data.total)}` : ''
        }}</span
        ><v-btn :disabled="!data || last >= data.total" aria-label="Further records" @click="start += 20">→</v-btn
        ><v-btn @click="open = false">Close</v-btn>
      </div>
      <p v-if="error" class="bad" role="alert">{{ (error as Error).message }}</p>
      <p v-else-if="data && !data.records.length" class="soft">It finds nothing.</p>
      <ol v-else class="records" tabindex="0" aria-label="Records">
        <li v-for="(record, k) in data?.records" :key="`${start} ${k}`">
          <details>
            <summary class="read">
              {{ record.title || 'Untitled' }}
              <span class="soft small">{{ people(record.authors) }} {{ record.year ?? '' }} {{ record.journal }}</span>
              <router-link v-if="record.here" :to="`/reviews/${review}/screen?record=${record.here}`" class="small"
                >here too</router-link
              >
            </summary>
            <p class="read small">{{ record.abstract || 'No abstract.' }}</p>
          </details>
        </li>
      </ol>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.records {
  overflow: auto;
  max-height: 62vh;
  margin: 10px 0 0;
  padding: 0;
  list-style: none;
}
.records li {
  border-bottom: 1px solid var(--ks-hair);
  padding: 6px 0;
}
.records p {
  margin: 6px 0 4px 16px;
}
.nowrap {
  white-space: nowrap;
}
</style>
