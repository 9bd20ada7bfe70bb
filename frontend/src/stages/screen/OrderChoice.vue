<script setup lang="ts">
// In which order records are screened: by closeness to the seeds, or another that somebody asked for.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { attempt } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const props = defineProps<{ closeness: string; record?: number }>()
const route = useRoute()
const router = useRouter()
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data } = useQuery({
  queryKey: ['orders', review],
  queryFn: () => got(GET('/api/reviews/{review}/orders', { params: path.value })),
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === 'waiting') ? 1500 : false),
})
const chosen = computed(() => String(route.query.order ?? ''))
const emit = defineEmits<{ ready: [] }>()
const state = computed(() => data.value?.find((one) => String(one.id) === chosen.value)?.state)
watch(state, (now, before) => now === 'ready' && before === 'waiting' && emit('ready'))
const offered = computed(() => [
  { value: '', title: props.closeness },
  ...(data.value ?? [])
    .filter((one) => one.state !== 'failed' || String(one.id) === chosen.value)
    .map((one) => ({ value: String(one.id), title: one.state === 'ready' ? one.name : `${one.name} (at work)` })),
])
const set = (order: string) =>
  router.replace({ query: { ...route.query, order: order || undefined, record: undefined } })

const KINDS = [
  { value: 'question', title: 'By a question in plain words' },
  { value: 'shuffled', title: 'Shuffled, with a kept seed' },
  { value: 'newest', title: 'Newest first' },
  { value: 'oldest', title: 'Oldest first' },
  { value: 'cited', title: 'Most cited first, where that is known' },
  { value: 'unsure', title: 'Most unsure first' },
  { value: 'alike', title: 'Most like the record that is shown' },
] as const
type Kind = (typeof KINDS)[number]['value']
const open = ref(false)
const said = reactive<{ kind: Kind; seed: string; question: string }>({ kind: 'question', seed: '0', question: '' })
function pick(value: string) {
  if (value === 'new') open.value = true
  else void set(value)
}
async function make() {
  let made: { id: number } | undefined
  const done = await attempt(
    async () =>
      (made = await got(
        POST('/api/reviews/{review}/orders', {
          params: path.value,
          body: {
            kind: said.kind,
            seed: Math.max(0, Math.round(Number(said.seed) || 0)),
            question: said.question,
            records: said.kind === 'alike' && props.record ? [props.record] : [],
          },
        }),
      )),
  )
  await refresh('orders', 'jobs')
  if (done && made) {
    open.value = false
    await set(String(made.id))
  }
}
</script>

<template>
  <select
    class="order small"
    :value="chosen"
    aria-label="Order of the queue"
    @change="pick(($event.target as HTMLSelectElement).value)"
  >
    <option v-for="one in offered" :key="one.value" :value="one.value">{{ one.title }}</option>
    <option v-if="mayWrite" value="new">Another order …</option>
  </select>
  <v-dialog v-model="open" max-width="460" aria-label="Another order">
    <v-card>
      <form class="form pad" @submit.prevent="make">
        <h2>Another order</h2>
        <ChoiceField v-model="said.kind" :items="KINDS" label="Order" />
        <TextField
          v-if="said.kind === 'question'"
          v-model="said.question"
          label="Question"
          maxlength="500"
          placeholder="Do insulated hives lose fewer colonies in winter?"
        />
        <TextField v-if="said.kind === 'shuffled'" v-model="said.seed" label="Seed" type="number" min="0" />
        <p class="small soft">
          It changes in which sequence records come to your desk, and what you see; nothing else. The team can choose
          it, too.
        </p>
        <div class="row">
          <v-btn
            class="main"
            type="submit"
            :disabled="(said.kind === 'question' && !said.question.trim()) || (said.kind === 'alike' && !record)"
            >Order</v-btn
          >
          <v-btn @click="open = false">Leave it</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.order {
  font: inherit;
  font-weight: 600;
  color: inherit;
  background: none;
  border: 0;
  max-width: calc(100% - 48px);
  min-width: 0;
  text-overflow: ellipsis;
  cursor: pointer;
}
.form {
  display: grid;
  gap: 12px;
}
</style>
