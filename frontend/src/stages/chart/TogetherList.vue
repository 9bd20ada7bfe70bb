<script setup lang="ts">
// Reports that may be of one study, side by side with what speaks for it; joined or told apart.
import { useQuery } from '@tanstack/vue-query'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { people } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { useAnswers } from './answers'

type Pair = Schemas['MayBelongTogether']
defineProps<{ mayWrite: boolean }>()
const emit = defineEmits<{ close: [] }>()
const { review, path } = useReview()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['evidence', review, 'together'],
  queryFn: () => got(GET('/api/reviews/{review}/reports-together', { params: path.value })),
})
const { renewed } = useAnswers()
const link = (record: number, study: number) =>
  got(
    PUT('/api/reviews/{review}/records/{record}/study', {
      params: { path: { review: review.value, record } },
      body: { study },
    }),
  )
async function join(pair: Pair) {
  if (await attempt(() => link(pair.right.record, pair.left.study)))
    say(`${pair.right.label} and ${pair.left.label} are one study now.`, async () => {
      await link(pair.right.record, pair.right.study)
      await renewed()
    })
  await renewed()
}
async function apart(pair: Pair) {
  const body = { left: pair.left.record, right: pair.right.record }
  if (await attempt(() => got(PUT('/api/reviews/{review}/reports-together/apart', { params: path.value, body }))))
    say('They are two studies, and will not be asked again.', async () => {
      await got(PUT('/api/reviews/{review}/reports-together/unsaid', { params: path.value, body }))
      await renewed()
    })
  await renewed()
}
</script>

<template>
  <section class="pad list">
    <div class="row">
      <h2>Reports that may be of one study</h2>
      <v-btn class="push" @click="emit('close')">Back to the table</v-btn>
    </div>
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <p v-if="!data?.length" class="soft">
        No two reports look like ones of the same study that nobody has looked at.
      </p>
      <article v-for="one in data" :key="`${one.left.record}-${one.right.record}`">
        <div class="two">
          <div v-for="side in [one.left, one.right]" :key="side.record">
            <b>{{ side.label }}</b>
            <p class="read">
              <router-link :to="`/reviews/${review}/screen/second?record=${side.record}`">{{ side.title }}</router-link>
            </p>
            <p class="small soft">{{ [people(side.authors), side.year].filter(Boolean).join(' · ') }}</p>
          </div>
        </div>
        <p class="small">{{ one.why.join('; ') }}</p>
        <p v-if="one.both_charted" class="small odd">
          Both have values: if they are one study, the same participants are counted twice.
        </p>
        <div v-if="mayWrite" class="row">
          <v-btn @click="join(one)">One study</v-btn>
          <v-btn @click="apart(one)">Two studies</v-btn>
        </div>
      </article>
    </StateOf>
  </section>
</template>

<style scoped>
.list {
  overflow: auto;
  display: grid;
  gap: 12px;
  align-content: start;
}
article {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--ks-hair);
  padding-top: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 20px;
}
</style>
