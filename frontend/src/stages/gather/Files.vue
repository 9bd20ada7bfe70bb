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
  (data.value ?? []).filter((it) => !route.query.search || it.search_id === Number(route.query.search)),
)
const STATES: Record<string, string> = {
  waiting: 'Waiting to be read',
  reading: 'Being read',
  read: 'Read: look at it and take it in',
  failed: 'Could not be read',
  taken: 'Taken in',
  aside: 'Set aside',
}

const act = (it: Schemas['File'], deed: 'take-in' | 'set-aside' | 'bring-back') =>
  got(POST(`/api/reviews/{review}/files/{batch}/${deed}`, { params: { path: { review: review.value, batch: it.id } } }))
async function aside(it: Schemas['File']) {
  if (await attempt(() => act(it, 'set-aside')))
    say(`${it.filename} is set aside.`, () => act(it, it.state === 'taken' ? 'take-in' : 'bring-back'))
  await refresh('files', 'figures', 'searches')
}
async function takeIn(it: Schemas['File']) {
  if (await attempt(() => act(it, 'take-in'))) say(`${count(it.records)} records are in.`, () => act(it, 'set-aside'))
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
          <tr v-for="it in shown" :key="it.id">
            <td>
              <router-link :to="`/reviews/${review}/gather/files/${it.id}`">{{ it.filename }}</router-link>
              <div v-if="it.failure" class="bad small">{{ it.failure }}</div>
              <div v-if="it.labels.length">
                <span v-for="name in it.labels" :key="name" class="tag">{{ name }}</span>
              </div>
            </td>
            <td>{{ it.number }}{{ it.run_number > 1 ? `.${it.run_number}` : '' }} · {{ it.source }}</td>
            <td>
              {{ FORMAT_NAMES[it.format] ?? it.format }}
              <div class="soft small" :class="{ odd: it.certainty === 'guess' }">
                {{ it.encoding }}{{ it.certainty === 'guess' ? ', worked out' : '' }}
              </div>
            </td>
            <td class="num">
              <router-link v-if="it.state === 'taken'" :to="`/reviews/${review}/records?list=batch:${it.id}`">{{
                count(it.records)
              }}</router-link><template v-else>{{ it.records ? count(it.records) : '—' }}</template>
            </td>
            <td class="num">
              <router-link
                v-if="it.problems + it.odd"
                class="odd"
                :to="`/reviews/${review}/gather/files/${it.id}`"
                :aria-label="`${it.problems + it.odd} things to look at in ${it.filename}`"
                >{{ count(it.problems + it.odd) }}</router-link><span v-else class="soft">0</span>
            </td>
            <td :class="it.state === 'failed' ? 'bad' : it.state === 'read' ? 'odd' : ''">{{ STATES[it.state] }}</td>
            <td class="soft small">
              {{ moment(it.uploaded_at) }}
              <div>{{ it.uploaded_by }}</div>
            </td>
            <td class="num nowrap">
              <template v-if="mayWrite">
                <v-btn
                  v-if="it.state === 'read' || (it.state === 'aside' && it.records)"
                  :aria-label="`Take in ${it.filename}`"
                  @click="takeIn(it)"
                  >Take in</v-btn
                >
                {{ ' '
                }}<v-btn
                  v-if="it.state === 'taken' || it.state === 'read' || it.state === 'failed'"
                  :aria-label="`Set aside ${it.filename}`"
                  @click="aside(it)"
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
