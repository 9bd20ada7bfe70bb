<script setup lang="ts">
// Terms that a concept could have: from the vocabularies, from the seeds, from what the query finds now.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { got, POST } from '@/api/client'
import { count } from '@/common/format'
import { useReview } from '@/common/review'
import type { Concept } from './draft'

const open = defineModel<boolean>({ required: true })
const props = defineProps<{ concepts: Concept[]; place: number }>()
const emit = defineEmits<{ add: [term: string] }>()
const { review, path } = useReview()
const { data, error, isPending } = useQuery({
  queryKey: [
    'trial',
    review,
    'suggestions',
    computed(() => JSON.stringify(props.concepts)),
    computed(() => props.place),
  ],
  queryFn: () =>
    got(
      POST('/api/reviews/{review}/query/suggestions', {
        params: path.value,
        body: { concepts: props.concepts, concept: props.place },
      }),
    ),
  enabled: computed(() => open.value),
})
const name = computed(() => props.concepts[props.place]?.label || `concept ${props.place + 1}`)
const ORIGINS = [
  ['vocabulary', 'Names and narrower headings from the vocabularies'],
  ['seeds', 'Special to the seeds'],
  ['hits', 'Special to what the query finds now'],
] as const
const here = computed(() => new Set(props.concepts.flatMap((concept) => concept.terms)))
const of = (origin: string) =>
  (data.value ?? []).filter((one) => one.origin === origin && !here.value.has(one.term)).slice(0, 40)
</script>

<template>
  <v-dialog v-model="open" max-width="760" scrollable :aria-label="`Terms for ${name}`">
    <v-card class="pad">
      <div class="row">
        <h2>Terms for {{ name }}</h2>
        <span class="soft small">“Brings” is how many more records the query would find</span
        ><v-btn class="push" @click="open = false">Close</v-btn>
      </div>
      <p v-if="error" class="bad" role="alert">{{ (error as Error).message }}</p>
      <p v-else-if="isPending" class="soft" role="status">Looking through records, seeds and vocabularies …</p>
      <p v-else-if="!data?.length" class="soft">Nothing to suggest: name seeds, or load a vocabulary.</p>
      <div v-else class="lists">
        <template v-for="[origin, title] in ORIGINS" :key="origin">
          <table v-if="of(origin).length" class="small">
            <thead>
              <tr>
                <th>{{ title }}</th>
                <th class="num">Records</th>
                <th class="num">Brings</th>
                <th class="num">Seeds</th>
                <th><span class="unseen">Add</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in of(origin)" :key="one.term">
                <td class="mono">{{ one.term }}</td>
                <td class="num">{{ count(one.records) }}</td>
                <td class="num">{{ count(one.brings) }}</td>
                <td class="num">{{ one.seeds || '' }}</td>
                <td class="num">
                  <button class="link" :aria-label="`Add ${one.term}`" @click="emit('add', one.term)">add</button>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.lists {
  overflow: auto;
  max-height: 60vh;
  display: grid;
  gap: 14px;
  margin-top: 10px;
}
th.num {
  width: 70px;
}
</style>
