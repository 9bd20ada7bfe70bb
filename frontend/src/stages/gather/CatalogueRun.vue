<script setup lang="ts">
// A query fetched from a connected catalogue: counted first, then in the background, once or again and again.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, watch } from 'vue'
import { GET, got, POST, Refusal } from '@/api/client'
import { count } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import type { Search } from './log'

const props = defineProps<{ searches: Search[] }>()
const emit = defineEmits<{ close: []; begun: [search: number] }>()
const { review, path } = useReview()
const refresh = useRefresh()
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const { data: steps } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
type Every = 'once' | 'daily' | 'weekly' | 'monthly'
const form = reactive<{
  catalogue: number | null
  version: number
  query: string
  every: Every
  search: number | null
}>({
  catalogue: null,
  version: 0,
  query: '',
  every: 'once',
  search: null,
})
const choices = computed(() =>
  (steps.value?.steps ?? [])
    .filter((step, k) => step.version || k === 0)
    .map((step) => ({
      value: step.version ?? 0,
      title: step.version ? `Version ${step.version}${step.note ? `: ${step.note}` : ''}` : 'The query being worked on',
      text: step.text,
    })),
)
watch(catalogues, (list) => (form.catalogue ??= list?.[0]?.id ?? null), { immediate: true })
watch(
  [choices, () => form.version],
  () => {
    const picked = choices.value.find((choice) => choice.value === form.version) ?? choices.value[0]
    if (picked) Object.assign(form, { version: picked.value, query: picked.text })
  },
  { immediate: true },
)
const {
  data: counted,
  error,
  isFetching,
} = useQuery({
  queryKey: ['catalogue-count', review, computed(() => form.catalogue), computed(() => form.query)],
  queryFn: () =>
    got(
      POST('/api/reviews/{review}/catalogues/{number}/count', {
        params: { path: { review: review.value, number: form.catalogue! } },
        body: { text: form.query, seeds: false },
      }),
    ),
  enabled: computed(() => !!form.catalogue && !!form.query.trim()),
  retry: false,
})
const entries = computed(() => [
  { value: null, title: 'A new entry of the log' },
  ...props.searches
    .filter((search) => search.runs.some((run) => run.catalogue))
    .map((search) => ({ value: search.id, title: `Search ${search.number}: ${search.source}` })),
])
const EVERY = [
  { value: 'once', title: 'Once' },
  { value: 'daily', title: 'Now, then daily' },
  { value: 'weekly', title: 'Now, then weekly' },
  { value: 'monthly', title: 'Now, then monthly' },
]
async function begin() {
  try {
    const made = await got(
      POST('/api/reviews/{review}/catalogue-runs', {
        params: path.value,
        body: {
          catalogue: form.catalogue!,
          query: form.query,
          query_version: form.version || null,
          every: form.every,
          search: form.search,
        },
      }),
    )
    await refresh('searches', 'jobs', 'schedules')
    say('Being fetched in the background; you can leave this page.')
    emit('begun', made.search)
  } catch (failure) {
    complain(failure)
  }
}
</script>

<template>
  <form class="fields" @submit.prevent="begin">
    <div class="row">
      <h2>Fetch from a catalogue</h2>
      <v-btn class="push" @click="emit('close')">Close</v-btn>
    </div>
    <ChoiceField
      v-model="form.catalogue"
      :items="(catalogues ?? []).map((catalogue) => ({ value: catalogue.id, title: catalogue.name }))"
      label="Catalogue"
    />
    <p v-if="steps && !choices.length" class="soft">
      There is no query yet. <router-link :to="`/reviews/${review}/plan/query`">Compose one</router-link> under Plan.
    </p>
    <template v-else>
      <ChoiceField v-model="form.version" :items="choices" label="Query" />
      <div class="mono query">{{ form.query }}</div>
    </template>
    <ChoiceField v-model="form.search" :items="entries" label="Written down as" />
    <ChoiceField v-model="form.every" :items="EVERY" label="How often" />
    <p v-if="isFetching" class="soft small" role="status">The catalogue is being asked …</p>
    <p v-else-if="error" class="bad small" role="alert">{{ (error as Refusal).message }}</p>
    <template v-else-if="counted">
      <p role="status">
        <b>{{ count(counted.hits) }}</b> records at this moment.
      </p>
      <div v-if="counted.understood.length" class="small soft">
        How it understood the terms:
        <table>
          <tbody>
            <tr v-for="one in counted.understood" :key="one.said">
              <td>
                <b>{{ one.said }}</b>
              </td>
              <td>{{ one.taken }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="small soft">
        Asked as <span class="mono">{{ counted.asked }}</span>
      </div>
    </template>
    <div class="row">
      <v-btn class="main" type="submit" :disabled="!counted || isFetching || !counted.hits"
        >Fetch {{ counted ? count(counted.hits) : '' }} records</v-btn
      >
    </div>
    <p class="small soft">Only records that no earlier run of the same entry brought become copies.</p>
  </form>
</template>

<style scoped>
.query {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  padding: 6px 8px;
  max-height: 110px;
  overflow: auto;
}
</style>
