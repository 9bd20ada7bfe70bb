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
const unread = computed(() =>
  props.reports.filter((report) => report.state !== 'waiting' && (report.late || !report.state)),
)
const waiting = computed(() => props.reports.filter((report) => report.state === 'waiting').length)
const titles = computed(
  () =>
    new Map(
      (props.studies ?? []).flatMap((study) =>
        study.reports.map((one) => [one.record_id, { study: study.label, title: one.title }]),
      ),
    ),
)
/** What somebody has to see to comes first. */
const RANK = ['failed', 'late', '', 'waiting', 'read']
const rank = (read: Schemas['ReportRead']) => RANK.indexOf(read.late && read.state === 'read' ? 'late' : read.state)
const sorted = computed(() => [...props.reports].sort((a, b) => rank(a) - rank(b)))
const SAID: Record<string, string> = { '': 'not read yet', waiting: 'waits to be read', failed: 'cannot be read' }
const state = (read: Schemas['ReportRead']) =>
  read.state === 'read'
    ? `${read.whole ? `full text, ${plural(read.pages ?? 0, 'page')}` : 'abstract only'}${read.late ? '; its file or the codebook has changed since' : ''}`
    : (SAID[read.state] ?? read.state)
async function read(studies?: number[], again = false) {
  let left = 0
  const done = await attempt(async () => {
    const going = await got(
      POST('/api/reviews/{review}/proposals/reading', { params: path.value, body: { studies, again } }),
    )
    left = going.waiting
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
        <tr v-for="one in sorted" :key="one.record">
          <td>{{ titles.get(one.record)?.study }}</td>
          <td>
            <router-link :to="`/reviews/${review}/screen/second?record=${one.record}`">{{
              titles.get(one.record)?.title ?? `Record ${one.record}`
            }}</router-link>
          </td>
          <td class="what">
            <span :class="{ odd: one.late || one.problem, soft: !one.state }">{{ state(one) }}</span>
            <div v-if="one.problem" class="small odd">{{ one.problem }}</div>
          </td>
          <td>
            <v-btn v-if="mayWrite && one.state !== 'waiting'" class="small" @click="read([one.study], true)">{{
              one.state ? 'Read again' : 'Read'
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
