<script setup lang="ts">
// What people said of copies, and what does not go together: each can be taken back.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { moment, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['people-said', review],
  queryFn: () => got(GET('/api/reviews/{review}/people-said', { params: path.value })),
})
const { data: twice } = useQuery({
  queryKey: ['decided-twice', review],
  queryFn: () => got(GET('/api/reviews/{review}/decided-twice', { params: path.value })),
})
type Said = Schemas['PersonSaid']
const parts = computed(() => [
  {
    title: 'Disagreements',
    about: 'Two answers that cannot both hold. Different holds against same until one of them is taken back.',
    rows: (data.value ?? []).filter((one) => !one.holds),
  },
  {
    title: 'Different',
    about: 'These are never joined, whatever a rule says, until it is taken back.',
    rows: (data.value ?? []).filter((one) => one.holds && !one.same && !one.related),
  },
  {
    title: 'Other reports of the same study',
    about: 'Left apart here; when both are included they are charted as one study.',
    rows: (data.value ?? []).filter((one) => one.holds && one.related),
  },
])
const word = (said: Said) =>
  said.same ? 'is the same as' : said.related ? 'is another report of the study of' : 'is not'
/** Answers with those that were given in the same stroke, as when a whole group is taken apart. */
function strokes(rows: Said[]): { first: Said; rulings: number[]; copies: number }[] {
  const found = new Map<string, Said[]>()
  for (const row of rows) {
    const key = row.same || row.related || !row.holds ? String(row.id) : `stroke ${row.stroke}`
    found.set(key, [...(found.get(key) ?? []), row])
  }
  return [...found.values()].map((some) => ({
    first: some[0]!,
    rulings: some.map((one) => one.id),
    copies: new Set(some.flatMap((one) => [one.left_copy, one.right_copy])).size,
  }))
}
async function withdraw(rulings: number[]) {
  const done = await attempt(() =>
    rulings.length > 1
      ? got(POST('/api/reviews/{review}/rulings/take-back', { params: path.value, body: { rulings } }))
      : got(
          DELETE('/api/reviews/{review}/rulings/{ruling}', {
            params: { path: { review: review.value, ruling: rulings[0]! } },
          }),
        ),
  )
  if (done) say('Taken back; what was told apart is open again, or joined by rule.')
  await refresh('people-said', 'figures', 'questions', 'decided-twice')
}
</script>

<template>
  <section class="pane sheet full" tabindex="0" aria-label="Answers of people">
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <div v-if="!data?.length && !twice?.length" class="pad soft">
        <h2>Nobody has told copies apart</h2>
        <p>
          What people say is different stands here, and holds against every rule until it is taken back. So does what
          does not go together: two answers that contradict each other, or copies that were decided differently.
        </p>
      </div>
      <template v-for="part in parts" :key="part.title">
        <template v-if="part.rows.length">
          <div class="head">
            <h2>{{ part.title }}</h2>
            <span class="soft small">{{ part.about }}</span>
          </div>
          <table>
            <thead>
              <tr>
                <th>This</th>
                <th><span class="unseen">How they go together</span></th>
                <th>that</th>
                <th>Said by</th>
                <th><span class="unseen">Actions</span></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="{ first: answer, rulings, copies } in strokes(part.rows)" :key="answer.id">
                <td class="read half">
                  <router-link :to="`/reviews/${review}/match/groups?record=${answer.left_record}`">{{
                    answer.left_title || 'Untitled'
                  }}</router-link>
                </td>
                <td class="small soft">
                  {{ word(answer) }}
                  <div v-if="rulings.length > 1">
                    one of {{ plural(rulings.length, 'pair') }} among {{ copies }} copies
                  </div>
                </td>
                <td class="read half">
                  <router-link :to="`/reviews/${review}/match/groups?record=${answer.right_record}`">{{
                    answer.right_title || 'Untitled'
                  }}</router-link>
                </td>
                <td class="small when">
                  {{ answer.by }}
                  <div class="soft">{{ moment(answer.at) }}</div>
                </td>
                <td class="num">
                  <v-btn v-if="mayWrite" @click="withdraw(rulings)">{{
                    rulings.length > 1 ? 'Take all back' : 'Take back'
                  }}</v-btn>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
      </template>
      <template v-if="twice?.length">
        <div class="head">
          <h2>Decided twice</h2>
          <span class="soft small"
            >Copies that were joined after both had been decided, and differently. The latest decision counts until
            somebody decides again.</span
          >
        </div>
        <table>
          <thead>
            <tr>
              <th>Record</th>
              <th>Pass</th>
              <th>Said</th>
              <th>By</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in twice" :key="`${one.id} ${one.pass_number}`">
              <td class="read">
                <router-link
                  :to="
                    one.pass_number === 1
                      ? `/reviews/${review}/screen?record=${one.id}`
                      : `/reviews/${review}/screen/second?record=${one.id}`
                  "
                  >{{ one.title || 'Untitled' }}</router-link
                >
              </td>
              <td>{{ one.pass_number }}</td>
              <td>{{ one.said.join(' and ') }}</td>
              <td class="small">{{ one.by.join(', ') }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </StateOf>
  </section>
</template>

<style scoped>
.full {
  height: 100%;
}
.half {
  width: 35%;
}
.when {
  white-space: nowrap;
}
</style>
