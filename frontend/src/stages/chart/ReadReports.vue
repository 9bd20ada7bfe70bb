<script setup lang="ts">
// Which reports were read for values, which were not, and what went wrong; and having them read.
import { computed } from 'vue'
import { got, POST, type Schemas } from '@/api/client'
import { plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import type { Study } from './layout'

const props = defineProps<{
  reports: Schemas['ReportRead'][]
  studies?: Study[]
  button?: boolean
  reading?: boolean
}>()
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const unread = computed(() => props.reports.filter((it) => it.state !== 'waiting' && (it.late || !it.state)))
const waiting = computed(() => props.reports.filter((it) => it.state === 'waiting').length)
const titles = computed(
  () =>
    new Map(
      (props.studies ?? []).flatMap((it) =>
        it.reports.map((one) => [one.record_id, { study: it.label, title: one.title }]),
      ),
    ),
)
/** What somebody has to see to comes first. */
const RANK = ['failed', 'late', '', 'waiting', 'read']
const rank = (it: Schemas['ReportRead']) => RANK.indexOf(it.late && it.state === 'read' ? 'late' : it.state)
const sorted = computed(() => [...props.reports].sort((a, b) => rank(a) - rank(b)))
const SAID: Record<string, string> = { '': 'not read yet', waiting: 'waits to be read', failed: 'cannot be read' }
const state = (it: Schemas['ReportRead']) =>
  it.state === 'read'
    ? `${it.whole ? `full text, ${plural(it.pages ?? 0, 'page')}` : 'abstract only'}${it.late ? '; its file or the codebook has changed since' : ''}`
    : (SAID[it.state] ?? it.state)
async function read(studies?: number[], again = false) {
  let left = 0
  const done = await attempt(async () => {
    const it = await got(
      POST('/api/reviews/{review}/proposals/reading', { params: path.value, body: { studies, again } }),
    )
    left = it.waiting
  })
  if (done) say(left ? `${plural(left, 'report')} will be read in the background.` : 'All of them were read already.')
  await refresh('proposals', 'jobs')
}
</script>

<template>
  <span v-if="button" class="row">
    <v-btn v-if="waiting && !reading" @click="read([])">Go on reading {{ plural(waiting, 'report') }}</v-btn>
    <span v-else-if="waiting" class="soft small" role="status">{{ plural(waiting, 'report') }} being read …</span>
    <v-btn v-if="unread.length" class="main" @click="read()">Read {{ plural(unread.length, 'report') }}</v-btn>
  </span>
  <template v-else>
    <table v-if="reports.length">
      <thead>
        <tr>
          <th>Study</th>
          <th>Report</th>
          <th>Read</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="it in sorted" :key="it.record">
          <td>{{ titles.get(it.record)?.study }}</td>
          <td>
            <router-link :to="`/reviews/${review}/screen/second?record=${it.record}`">{{
              titles.get(it.record)?.title ?? `Record ${it.record}`
            }}</router-link>
          </td>
          <td class="what">
            <span :class="{ odd: it.late || it.problem, soft: !it.state }">{{ state(it) }}</span>
            <div v-if="it.problem" class="small odd">{{ it.problem }}</div>
          </td>
          <td>
            <v-btn v-if="mayWrite && it.state !== 'waiting'" class="small" @click="read([it.study], true)">{{
              it.state ? 'Read again' : 'Read'
            }}</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else class="soft">No report is included yet.</p>
  </template>
</template>

<style scoped>
.what {
  min-width: 190px;
}
</style>
