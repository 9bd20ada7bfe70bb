<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { count, day, KIND_WORDS, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const batch = computed(() => Number(route.params.batch))
const params = computed(() => ({ path: { review: review.value, batch: batch.value } }))
const { data: it, error, isPending, refetch } = useQuery({
  queryKey: ['look', review, batch],
  queryFn: () => got(GET('/api/reviews/{review}/files/{batch}', { params: params.value })),
  refetchInterval: (query) => (['waiting', 'reading'].includes(query.state.data?.state ?? '') ? 700 : false),
})
const position = computed(() => Math.max(1, Number(route.query.record) || 1))
const { data: entry, error: entryError } = useQuery({
  queryKey: ['entry', review, batch, position],
  queryFn: () => got(GET('/api/reviews/{review}/files/{batch}/entries/{position}', { params: { path: { ...params.value.path, position: position.value } } })),
  enabled: computed(() => (it.value?.records ?? 0) > 0),
  placeholderData: keepPreviousData,
})

const FIELDS = [['title', 'Title'], ['authors', 'Authors'], ['year', 'Year'], ['journal', 'Journal'], ['abstract', 'Abstract'], ['doi', 'DOI'], ['keywords', 'Descriptors'], ['accession', 'Accession']] as const
const FORMATS: Record<string, string> = { ris: 'RIS', nbib: 'NBIB', bibtex: 'BibTeX', csv: 'CSV', tsv: 'TSV', xlsx: 'XLSX' }
const odd = computed(() =>
  (['title', 'authors', 'year', 'abstract'] as const)
    .map((field) => ({ field, records: (it.value?.odd ?? []).filter((record) => record.lacks.includes(field)) }))
    .filter((group) => group.records.length),
)
const toLookAt = computed(() => {
  const odds = (it.value?.odd ?? []).filter((record) => record.lacks.some((field) => field !== 'abstract')).map((record) => record.position)
  return [...new Set(odds)].sort((a, b) => a - b)
})

function go(to: number) {
  const last = it.value?.records ?? 1
  router.replace({ query: { record: String(Math.min(last, Math.max(1, to))) } })
}
const nextOdd = () => go(toLookAt.value.find((p) => p > position.value) ?? toLookAt.value[0] ?? position.value)
const lines = (places: { line: number }[]) => (places.length === 1 ? 'line ' : 'lines ') + places.slice(0, 4).map((place) => count(place.line)).join(', ') + (places.length > 4 ? ' …' : '')
useKeys({ ArrowUp: () => go(position.value - 1), ArrowDown: () => go(position.value + 1), l: nextOdd })

const act = (deed: 'take-in' | 'set-aside' | 'bring-back') => got(POST(`/api/reviews/{review}/files/{batch}/${deed}`, { params: params.value }))
async function takeIn() {
  if (await attempt(() => act('take-in'))) say(`${plural(it.value?.records ?? 0, 'record')} taken in; copies are being looked for.`, () => act('set-aside'))
  await refresh('look', 'files', 'figures', 'searches', 'jobs')
}
async function aside() {
  const before = it.value?.state
  if (await attempt(() => act('set-aside'))) say('Set aside.', () => act(before === 'taken' ? 'take-in' : 'bring-back'))
  await refresh('look', 'files', 'figures', 'searches')
}
const difference = computed(() => {
  const announced = it.value?.announced
  return announced === null || announced === undefined ? null : (it.value?.with_others ?? 0) - announced
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="it" class="panes columns">
      <Teleport v-if="mayWrite" to="#view-actions" defer>
        <v-btn v-if="['read', 'taken', 'failed'].includes(it.state)" @click="aside">Set aside</v-btn>
        <v-btn v-if="it.state === 'read' || (it.state === 'aside' && it.records)" class="main" @click="takeIn">Take in {{ plural(it.records, 'record') }}</v-btn>
        <span v-if="it.state === 'taken'" class="soft small">Taken in</span>
      </Teleport>
      <aside class="pane pad">
        <h2 class="read name">{{ it.filename }}</h2>
        <p class="small soft">Search {{ it.number }} · {{ it.source }}{{ it.run_on ? ` · ${day(it.run_on)}` : '' }}</p>
        <p v-if="it.state === 'failed'" class="bad failure" role="alert">{{ it.failure }}</p>
        <p v-else-if="it.state === 'waiting' || it.state === 'reading'" class="soft failure" role="status">Being read; you can leave this page.</p>
        <template v-else>
          <table class="small facts">
            <tbody>
              <tr><th>Read as</th><td>{{ FORMATS[it.format] ?? it.format }}</td></tr>
              <tr><th>Letters</th><td>{{ it.encoding }}{{ it.sure ? ', sure' : ', probably' }}</td></tr>
              <tr><th>Records</th><td>{{ count(it.records) }} <span class="soft">in this file{{ it.with_others !== it.records && it.state !== 'aside' ? `, ${count(it.with_others)} with the other parts` : '' }}</span></td></tr>
              <tr v-if="it.announced !== null"><th>Announced</th><td>{{ count(it.announced) }} <span v-if="difference" class="odd">— {{ count(Math.abs(difference)) }} {{ difference < 0 ? 'fewer' : 'more' }} came</span><span v-else class="soft">— all came</span></td></tr>
            </tbody>
          </table>
          <h3 class="soft small">How full each field is</h3>
          <table class="small">
            <tbody>
              <tr v-for="[field, label] in FIELDS" :key="field">
                <td>{{ label }}</td>
                <td class="gauge"><span class="track"><span class="bar fill" :style="{ width: `${it.records ? (100 * (it.filled[field] ?? 0)) / it.records : 0}%` }" /></span></td>
                <td class="num">{{ count(it.filled[field] ?? 0) }}</td>
              </tr>
            </tbody>
          </table>
          <template v-if="odd.length || it.problems.length">
            <h3 class="soft small">Look at these</h3>
            <table class="small">
              <tbody>
                <tr v-for="group in odd" :key="group.field">
                  <td><button class="link" @click="go(group.records.find((r) => r.position > position)?.position ?? group.records[0]!.position)">{{ plural(group.records.length, 'record') }} without {{ group.field }}</button></td>
                  <td class="num soft">{{ lines(group.records) }}</td>
                </tr>
                <tr v-for="(problem, k) in it.problems.slice(0, 60)" :key="k">
                  <td class="odd">{{ problem.message }}</td>
                  <td class="num soft nowrap">{{ problem.line ? `line ${count(problem.line)}` : '' }}</td>
                </tr>
                <tr v-if="it.problems.length > 60"><td colspan="2" class="soft">and {{ plural(it.problems.length - 60, 'problem') }} more</td></tr>
              </tbody>
            </table>
          </template>
        </template>
      </aside>
      <section class="pane sheet">
        <template v-if="entry && it.records">
          <div class="head">
            <b>Record {{ count(entry.position) }} of {{ count(it.records) }}</b><span class="soft small">{{ entry.line === entry.end_line ? `line ${count(entry.line)}` : `lines ${count(entry.line)}–${count(entry.end_line)}` }}</span>
            <span class="push small soft row">
              <v-btn aria-label="Record before" :disabled="position <= 1" @click="go(position - 1)">↑</v-btn><v-btn aria-label="Record after" :disabled="position >= it.records" @click="go(position + 1)">↓</v-btn>
              <v-btn v-if="toLookAt.length" @click="nextOdd">Next to look at <kbd>L</kbd></v-btn>
            </span>
          </div>
          <table class="lines">
            <thead><tr><th class="num">Line</th><th>What the file says</th><th></th><th>What was understood</th><th>What looks odd</th></tr></thead>
            <tbody>
              <tr v-for="(line, k) in entry.lines" :key="k">
                <td class="soft num">{{ count(line.number) }}</td>
                <td class="mono said">{{ line.text }}</td>
                <td class="soft field">{{ line.field }}</td>
                <td class="read value" :class="{ soft: line.field === '—' }">{{ line.field === 'Kind' ? (KIND_WORDS[line.value] ?? line.value) : line.value }}</td>
                <td class="small odd">{{ line.odd }}<div v-for="problem in entry.problems.filter((p) => p.line === line.number)" :key="problem.message">{{ problem.message }}</div></td>
              </tr>
            </tbody>
          </table>
        </template>
        <p v-else-if="entryError" class="pad bad" role="alert">{{ (entryError as Error).message }}</p>
        <div v-else-if="it.state === 'failed'" class="pad soft"><h2>Nothing could be read</h2><p>{{ it.failure }}</p><p>Set this file aside and upload a new export, or look at the raw file in a text editor.</p></div>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns { grid-template-columns: 300px minmax(0, 1fr); }
.name { font-size: 17px; line-height: 24px; overflow-wrap: anywhere; }
.failure { margin-top: 12px; }
.facts { margin-top: 12px; }
.facts th { font-weight: 400; }
td:first-child, .facts th { padding-left: 0; }
.lines td:first-child { padding-left: 10px; width: 56px; }
h3 { margin: 16px 0 2px; }
.gauge { width: 110px; vertical-align: middle; }
.track { display: block; width: 100%; height: 4px; background: var(--ks-hair); }
.fill { display: block; }
.link { text-align: left; }
.said { width: 36%; }
.field { width: 92px; }
.value { font-size: 14px; overflow-wrap: anywhere; }
.nowrap { white-space: nowrap; }
.lines th { top: 36px; }
</style>
