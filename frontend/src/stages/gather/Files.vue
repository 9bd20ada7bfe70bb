<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, moment } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { FORMAT_NAMES } from './reading'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['files', review],
  queryFn: () => got(GET('/api/reviews/{review}/files', { params: path.value })),
})
const shown = computed(() =>
  (data.value ?? []).filter((one) => !route.query.search || one.search_id === Number(route.query.search)),
)
const STATES: Record<string, string> = {
  waiting: 'Waiting to be read',
  reading: 'Being read',
  read: 'Read: look at it and take it in',
  failed: 'Could not be read',
  taken: 'Taken in',
  leaving: 'Being set aside',
  aside: 'Set aside',
}

const act = (taken: Schemas['File'], deed: 'take-in' | 'set-aside' | 'bring-back') =>
  got(
    POST(`/api/reviews/{review}/files/{batch}/${deed}`, {
      params: { path: { review: review.value, batch: taken.id } },
    }),
  )
async function aside(file: Schemas['File']) {
  if (await attempt(() => act(file, 'set-aside')))
    say(`${file.filename} is set aside.`, () => act(file, file.state === 'taken' ? 'take-in' : 'bring-back'))
  await refresh('files', 'figures', 'searches')
}
async function takeIn(file: Schemas['File']) {
  if (await attempt(() => act(file, 'take-in')))
    say(`${count(file.records)} records are in.`, () => act(file, 'set-aside'))
  await refresh('files', 'figures', 'searches')
}
</script>

<template>
  <section class="pane sheet full">
    <Teleport to="#view-actions" defer>
      <router-link v-if="route.query.search" :to="{ query: {} }" class="small">All files</router-link>
    </Teleport>
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <div v-if="!shown.length" class="pad soft">
        <h2>No files yet</h2>
        <p>
          Files are uploaded for a search:
          <router-link :to="`/reviews/${review}/gather`">choose or write one</router-link>.
        </p>
      </div>
      <table v-else>
        <thead>
          <tr>
            <th>File</th>
            <th>Search</th>
            <th>Read as</th>
            <th class="num">Records</th>
            <th class="num">To look at</th>
            <th>State</th>
            <th>Uploaded</th>
            <th><span class="unseen">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in shown" :key="one.id">
            <td>
              <router-link :to="`/reviews/${review}/gather/files/${one.id}`">{{ one.filename }}</router-link>
              <div v-if="one.failure" class="bad small">{{ one.failure }}</div>
              <div v-if="one.labels.length">
                <span v-for="name in one.labels" :key="name" class="tag">{{ name }}</span>
              </div>
            </td>
            <td>{{ one.number }}{{ one.run_number > 1 ? `.${one.run_number}` : '' }} · {{ one.source }}</td>
            <td>
              {{ FORMAT_NAMES[one.format] ?? one.format }}
              <div class="soft small" :class="{ odd: one.certainty === 'guess' }">
                {{ one.encoding }}{{ one.certainty === 'guess' ? ', worked out' : '' }}
              </div>
            </td>
            <td class="num">
              <router-link v-if="one.state === 'taken'" :to="`/reviews/${review}/records?list=batch:${one.id}`">{{
                count(one.records)
              }}</router-link><template v-else>{{ one.records ? count(one.records) : '—' }}</template>
            </td>
            <td class="num">
              <router-link
                v-if="one.problems + one.odd"
                class="odd"
                :to="`/reviews/${review}/gather/files/${one.id}`"
                :aria-label="`${one.problems + one.odd} things to look at in ${one.filename}`"
                >{{ count(one.problems + one.odd) }}</router-link><span v-else class="soft">0</span>
            </td>
            <td :class="one.state === 'failed' ? 'bad' : one.state === 'read' ? 'odd' : ''">{{ STATES[one.state] }}</td>
            <td class="soft small">
              {{ moment(one.uploaded_at) }}
              <div>{{ one.uploaded_by }}</div>
            </td>
            <td class="num nowrap">
              <template v-if="mayWrite">
                <v-btn
                  v-if="one.state === 'read' || (['aside', 'leaving'].includes(one.state) && one.records)"
                  :aria-label="`Take in ${one.filename}`"
                  @click="takeIn(one)"
                  >Take in</v-btn
                >
                {{ ' '
                }}<v-btn
                  v-if="one.state === 'taken' || one.state === 'read' || one.state === 'failed'"
                  :aria-label="`Set aside ${one.filename}`"
                  @click="aside(one)"
                  >Set aside</v-btn
                >
              </template>
            </td>
          </tr>
        </tbody>
      </table>
    </StateOf>
  </section>
</template>

<style scoped>
.full {
  height: 100%;
}
.nowrap {
  white-space: nowrap;
}
</style>
