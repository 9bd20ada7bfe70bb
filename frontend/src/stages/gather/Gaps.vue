<script setup lang="ts">
// What records lack: looked up in the background, shown beside what stands, taken or left one by one.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, plain, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import UploadBox from '@/common/UploadBox.vue'
import { save } from './writing'

type Gap = Schemas['GapProposal']
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['gaps', review],
  queryFn: () => got(GET('/api/reviews/{review}/gaps', { params: path.value })),
})
const { data: jobs } = useQuery({
  queryKey: ['jobs', review],
  queryFn: () => got(GET('/api/reviews/{review}/jobs', { params: path.value })),
})
const asking = computed(() =>
  (jobs.value ?? []).some((job) => job.kind === 'fill_gaps' && ['waiting', 'working'].includes(job.state)),
)
const at = ref(0)
const proposals = computed(() => data.value?.proposals ?? [])
const NAMES: Record<string, string> = { abstract: 'Abstract', doi: 'DOI', authors: 'Authors' }
async function lookUp() {
  if (
    await attempt(() => got(POST('/api/reviews/{review}/gaps/look-up', { params: path.value, body: { records: [] } })))
  )
    say('Being looked up in the background, politely; you can leave this page.')
  await refresh('gaps', 'jobs')
}
const again = () => refresh('gaps', 'records', 'figures')
async function take(some: Gap[]) {
  await attempt(async () => {
    const made = await got(
      POST('/api/reviews/{review}/gaps/take', { params: path.value, body: { gaps: some.map((one) => one.id) } }),
    )
    say(`${plural(made.supplements.length, 'value')} taken; what the sources delivered stays as it was.`, async () => {
      await got(POST('/api/reviews/{review}/gaps/take-back', { params: path.value, body: made }))
      await again()
    })
  })
  await again()
}
async function leave(some: Gap[]) {
  const body = { gaps: some.map((one) => one.id) }
  if (await attempt(() => got(POST('/api/reviews/{review}/gaps/leave', { params: path.value, body }))))
    say(`${plural(some.length, 'proposal')} left.`, async () => {
      await got(POST('/api/reviews/{review}/gaps/back', { params: path.value, body }))
      await again()
    })
  await again()
}
const here = (act: (some: Gap[]) => unknown) => {
  const proposal = proposals.value[Math.min(at.value, proposals.value.length - 1)]
  if (proposal && mayWrite.value) act([proposal])
}
function move(by: number) {
  at.value = Math.min(proposals.value.length - 1, Math.max(0, at.value + by))
  document.getElementById(`gap-${at.value}`)?.scrollIntoView({ block: 'nearest' })
}
useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1), Enter: () => here(take), Backspace: () => here(leave) })
const identifiers = () =>
  attempt(() =>
    save(
      `/api/reviews/${review.value}/records/export?list=in_play&abstract=false&to=csv`,
      JSON.stringify({
        records: [],
        columns: ['record', 'accession', 'doi', 'title', 'authors', 'year', 'journal', 'abstract'],
      }),
      'without-abstract.csv',
    ),
  )
function came(said: unknown) {
  const read = said as Schemas['AbstractsRead']
  say(
    `${plural(read.proposals, 'abstract')} proposed${read.missed ? `; ${plural(read.missed, 'record')} of the file fit none that lacks one` : ''}.`,
  )
}
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="data" class="panes columns">
      <Teleport to="#view-actions" defer>
        <template v-if="mayWrite">
          <v-btn v-if="proposals.length" @click="leave(proposals)">Leave all</v-btn>
          <v-btn v-if="proposals.length" @click="take(proposals)">Take all {{ count(proposals.length) }}</v-btn>
          <v-btn class="main" :disabled="asking" @click="lookUp">{{
            asking ? 'Being looked up …' : 'Look up what is missing'
          }}</v-btn>
        </template>
      </Teleport>
      <aside class="pane pad" tabindex="0" aria-label="What is missing">
        <h2>What is missing</h2>
        <p class="small soft">
          Of {{ plural(data.records, 'record') }} that {{ data.records === 1 ? 'is' : 'are' }} not excluded.
        </p>
        <table>
          <tbody>
            <tr>
              <td>
                <router-link :to="`/reviews/${review}/records?list=in_play&abstract=no`">Without abstract</router-link>
              </td>
              <td class="num">{{ count(data.abstract) }}</td>
            </tr>
            <tr>
              <td><router-link :to="`/reviews/${review}/records?list=in_play&doi=no`">Without DOI</router-link></td>
              <td class="num">{{ count(data.doi) }}</td>
            </tr>
            <tr>
              <td>
                <router-link :to="`/reviews/${review}/records?list=short_names`"
                  >Authors by their initials, or none</router-link
                >
              </td>
              <td class="num">{{ count(data.authors) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="small soft gap">
          Records with a DOI are looked up in the DOI registry; those without, by their title, in the connected
          catalogues.
        </p>
        <template v-if="mayWrite">
          <h3 class="gap">Abstracts by file</h3>
          <p class="small soft">
            Take out what lacks one, with its identifiers; fill the last column, or have a source export these records;
            bring the file back in.
          </p>
          <p class="gap"><v-btn :disabled="!data.abstract" @click="identifiers">Identifiers out</v-btn></p>
          <UploadBox
            :address="`/api/reviews/${review}/gaps/abstracts`"
            label="File with abstracts"
            button="Abstracts in"
            hint="any kind of file of records"
            :refreshes="['gaps']"
            @done="came"
          />
        </template>
      </aside>
      <section class="pane sheet">
        <div class="head">
          <h2>Proposals</h2>
          <span class="soft small" role="status">{{ count(proposals.length) }}</span><span
            v-if="proposals.length && mayWrite"
            class="push small soft"
            ><kbd>↑</kbd> <kbd>↓</kbd> move, <kbd>Enter</kbd> take, <kbd>Backspace</kbd> leave</span
          >
        </div>
        <p v-if="!proposals.length" class="pad soft">
          {{
            asking
              ? 'The first proposals will be here in a moment.'
              : 'There is nothing to look at. Have what is missing looked up, or bring in a file with abstracts.'
          }}
        </p>
        <table v-else>
          <thead>
            <tr>
              <th>Record</th>
              <th>Field</th>
              <th>As it stands</th>
              <th>As it would</th>
              <th>From</th>
              <th><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(proposal, k) in proposals.slice(0, 400)"
              :id="`gap-${k}`"
              :key="proposal.id"
              :class="{ on: k === at }"
              @click="at = k"
            >
              <td class="read what">
                <router-link :to="`/reviews/${review}/records/${proposal.record_id}`">{{
                  proposal.title
                }}</router-link><span class="small soft year">{{ proposal.year }}</span>
              </td>
              <td class="small">{{ NAMES[proposal.field] ?? proposal.field }}</td>
              <td class="small soft value">{{ plain(proposal.before) || 'empty' }}</td>
              <td class="read value">
                <div class="long">{{ plain(proposal.value) }}</div>
              </td>
              <td class="small soft">{{ proposal.source }}</td>
              <td class="num nowrap">
                <template v-if="mayWrite"
                  ><v-btn :aria-label="`Take ${proposal.field} of ${proposal.title}`" @click.stop="take([proposal])"
                    >Take</v-btn
                  >{{ ' '
                  }}<v-btn :aria-label="`Leave ${proposal.field} of ${proposal.title}`" @click.stop="leave([proposal])"
                    >Leave</v-btn
                  ></template
                >
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="proposals.length > 400" class="pad soft small">and {{ count(proposals.length - 400) }} more</p>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 280px minmax(0, 1fr);
}
.gap {
  margin: 12px 0;
}
.what {
  width: 28%;
}
.year {
  margin-left: 6px;
}
.value {
  overflow-wrap: anywhere;
  max-width: 300px;
}
.long {
  max-height: 78px;
  overflow: auto;
}
.nowrap {
  white-space: nowrap;
}
td:first-child {
  padding-left: 12px;
}
aside td:first-child {
  padding-left: 0;
}
</style>
