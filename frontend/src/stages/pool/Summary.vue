<script setup lang="ts">
// The summary table: a row for each outcome, what it means for a thousand, how sure it is and why.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, PUT, type Schemas } from '@/api/client'
import FirstStep from '@/common/FirstStep.vue'
import { count, figure } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { copyOf } from '@/common/some'
import StateOf from '@/common/StateOf.vue'
import { interval, MEASURE_NAMES } from './words'

type Text = Schemas['SummaryText']
type Row = Schemas['SummaryRowText']
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['analyses', review, 'summary'],
  queryFn: () => got(GET('/api/reviews/{review}/summary', { params: path.value })),
})
const chosen = computed(() => Number(route.query.row) || data.value?.rows[0]?.analysis)
const figures = computed(() => data.value?.rows.find((row) => row.analysis === chosen.value))
const rowOf = (table: Text) => table.rows.find((row) => row.analysis === chosen.value)
const row = computed(() => data.value && rowOf(data.value.table))

/** Keep the table with a change; the message has the way back. */
async function keep(change: (table: Text) => void, words: string) {
  const before = data.value
  if (!before) return
  const table = copyOf(before.table)
  change(table)
  if (JSON.stringify(table) === JSON.stringify(before.table)) return
  const put = (table: Text, seen: number) =>
    got(PUT('/api/reviews/{review}/summary', { params: path.value, body: { table, seen } }))
  const done = await attempt(() => put(table, before.version))
  await refresh('analyses')
  if (done)
    say(words, async () => {
      await put(before.table, data.value.version)
      await refresh('analyses')
    })
}
const change = (by: (row: Row) => void, words: string) =>
  keep((table) => {
    const found = rowOf(table)
    if (found) by(found)
  }, words)
const add = (id: number, name: string) =>
  keep(
    (table) => table.rows.push({ analysis: id, baseline: null, doubts: [], certainty: '', note: '' }),
    `${name} has a row.`,
  )
const drop = (id: number, name: string) =>
  keep((table) => (table.rows = table.rows.filter((one) => one.analysis !== id)), `${name} has no row any more.`)
const move = (id: number, by: number) =>
  keep((table) => {
    const at = table.rows.findIndex((one) => one.analysis === id)
    const [moved] = table.rows.splice(at, 1)
    if (moved) table.rows.splice(Math.max(0, at + by), 0, moved)
  }, 'The row is moved.')
const choose = (id: number) => router.replace({ query: { ...route.query, row: String(id) } })

// What is typed is kept when its field is left; what a colleague changes meanwhile comes into fields left untouched.
interface Fields {
  baseline: string
  note: string
  words: string
  domains: string
  doubts: Record<string, Schemas['DoubtText']>
}
const EMPTY: Fields = { baseline: '', note: '', words: '', domains: '', doubts: {} }
const typed = ref<Fields>(copyOf(EMPTY))
let held: Fields = copyOf(EMPTY)
const same = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other)
watch(
  [data, chosen],
  ([now, at], before) => {
    if (!now) return
    const found = row.value
    const doubts = now.table.domains.map((domain) => [
      domain,
      { doubt: 'none', why: '', ...found?.doubts?.find((one) => one.domain === domain), domain },
    ])
    const stands: Fields = {
      baseline: found?.baseline ? String(found.baseline) : '',
      note: found?.note ?? '',
      words: now.table.words.join('\n'),
      domains: now.table.domains.join('\n'),
      doubts: Object.fromEntries(doubts) as Fields['doubts'],
    }
    if (at !== before?.[1]) typed.value = copyOf(stands)
    else {
      for (const name of ['baseline', 'note', 'words', 'domains'] as const)
        if (typed.value[name] === held[name]) typed.value[name] = stands[name]
      for (const [domain, doubt] of Object.entries(stands.doubts))
        if (same(typed.value.doubts[domain], held.doubts[domain])) typed.value.doubts[domain] = { ...doubt }
    }
    held = stands
  },
  { immediate: true },
)
const lines = (text: string) => text.split('\n').map((line) => line.trim()).filter(Boolean) // prettier-ignore
function keepBaseline() {
  if (typed.value.baseline === held.baseline) return
  const text = typed.value.baseline.replace(',', '.').trim()
  const number = text ? Number(text) : null
  if (number !== null && !(number > 0 && number < 1000))
    return say('A baseline risk is above 0 and below 1,000 of 1,000.')
  void change(
    (one) => (one.baseline = number),
    number === null ? 'The usual baseline holds.' : `The baseline is ${number} of 1,000.`,
  )
}
function keepNote() {
  if (typed.value.note !== held.note) void change((one) => (one.note = typed.value.note), 'The note is kept.')
}
function keepWords(name: 'words' | 'domains') {
  if (typed.value[name] !== held[name])
    void keep(
      (table) => (table[name] = lines(typed.value[name])),
      `The ${name === 'words' ? 'words of certainty' : 'domains'} are kept.`,
    )
}
/** A doubt is kept once it has its reason. */
function keepDoubt(domain: string) {
  const said = typed.value.doubts[domain]!
  if (same(said, held.doubts[domain])) return
  if (said.doubt !== 'none' && !said.why?.trim()) return
  void change(
    (one) => (one.doubts = [...(one.doubts ?? []).filter((other) => other.domain !== domain), { ...said }]),
    `${domain}: ${said.doubt === 'none' ? 'no' : said.doubt} doubt.`,
  )
}
const DOUBTS = [
  { value: 'none' as const, title: 'no doubt' },
  { value: 'some' as const, title: 'some doubt' },
  { value: 'serious' as const, title: 'serious doubt' },
]
const signed = (n: number) => `${n > 0 ? '+' : ''}${figure(n, 0)}`
const address = (kind: string) => `/api/reviews/${review.value}/summary.${kind}`
const whys = (one: Row) => (one.doubts ?? []).filter((doubt) => doubt.doubt !== 'none').map((doubt) => doubt.domain)
const said = (id: number) => data.value?.table.rows.find((one) => one.analysis === id)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <template v-if="data?.rows.length">
        <v-btn :href="address('csv')" download>CSV</v-btn>
        <v-btn :href="address('docx')" download>DOCX</v-btn>
      </template>
      <v-menu v-if="mayWrite && data?.others.length">
        <template #activator="{ props }"><v-btn v-bind="props" class="main">Add a row</v-btn></template>
        <v-list aria-label="Analyses without a row"
          ><v-list-item v-for="one in data.others" :key="one.id" :title="one.name" @click="add(one.id, one.name)"
        /></v-list>
      </v-menu>
    </Teleport>
    <div v-if="data" class="panes columns">
      <section class="pane sheet pad stack" tabindex="0" aria-label="Summary table">
        <div v-if="!data.rows.length" class="soft">
          <h2>No row yet</h2>
          <p v-if="data.others.length">Add a row for each outcome that the report tells of.</p>
          <FirstStep v-else stage="Pool" />
        </div>
        <table v-else class="small">
          <thead>
            <tr>
              <th>Outcome</th>
              <th class="num">Studies</th>
              <th class="num">Took part</th>
              <th>Effect</th>
              <th class="num">Of 1,000</th>
              <th>Difference</th>
              <th>Certainty</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data.rows" :key="one.analysis" :class="{ on: one.analysis === chosen }">
              <td>
                <button class="plain" :aria-current="one.analysis === chosen" @click="choose(one.analysis)">
                  {{ one.name || 'An analysis that is gone' }}
                </button>
                <div v-if="one.problem" class="odd">{{ one.problem }}</div>
              </td>
              <td class="num">
                <router-link :to="`/reviews/${review}/pool/${one.analysis}`">{{ one.k }}</router-link>
              </td>
              <td class="num">{{ one.people ? count(one.people) : '—' }}</td>
              <td>
                <template v-if="one.pooled"
                  ><span class="soft">{{ MEASURE_NAMES[one.measure] }}</span
                  ><br /><span class="whole">{{ interval(one.pooled) }}</span></template
                >
              </td>
              <td class="num whole">
                {{ one.absolute ? `${figure(one.absolute.baseline, 0)} → ${figure(one.absolute.risk, 0)}` : '—' }}
              </td>
              <td class="whole">
                <template v-if="one.absolute"
                  >{{ signed(one.absolute.more) }}
                  <span class="soft">[{{ signed(one.absolute.low) }}, {{ signed(one.absolute.high) }}]</span></template
                ><template v-else>—</template>
              </td>
              <td>
                <b>{{ said(one.analysis)?.certainty || 'not judged' }}</b>
                <div v-for="why in whys(said(one.analysis)!)" :key="why" class="soft">{{ why }}</div>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="data.rows.length" class="small soft">
          Of 1,000 without → with: the pooled effect at the baseline risk, which counts as known. Figures are those of
          the evidence table as it is now.<template v-if="data.by"> The table as {{ data.by }} left it.</template>
        </p>
      </section>
      <aside class="pane pad stack" aria-label="The row, and the team’s words">
        <template v-if="figures && row">
          <h2>{{ figures.name || 'An analysis that is gone' }}</h2>
          <form v-if="figures.usual !== null" @submit.prevent="keepBaseline">
            <TextField
              v-model="typed.baseline"
              label="Baseline: how many of 1,000 on the second side"
              :placeholder="`${figure(figures.usual, 0)}, the median of the studies`"
              inputmode="decimal"
              :readonly="!mayWrite"
              @blur="keepBaseline"
            />
          </form>
          <div v-for="domain in data.table.domains" :key="domain" class="fields domain">
            <ChoiceField
              v-model="typed.doubts[domain]!.doubt"
              :items="DOUBTS"
              :label="domain"
              :disabled="!mayWrite"
              @update:model-value="keepDoubt(domain)"
            />
            <TextArea
              v-if="typed.doubts[domain]!.doubt !== 'none'"
              v-model="typed.doubts[domain]!.why"
              label="Why"
              rows="2"
              :placeholder="typed.doubts[domain]!.why ? '' : 'A doubt is kept with its reason'"
              :readonly="!mayWrite"
              @blur="keepDoubt(domain)"
            />
          </div>
          <p v-if="!data.table.domains.length" class="small soft">
            Name the domains of doubt below: what makes the team less sure of an outcome.
          </p>
          <div>
            <div class="small soft" aria-hidden="true">Certainty</div>
            <div class="row wrap" role="group" aria-label="Certainty">
              <v-btn
                v-for="word in data.table.words"
                :key="word"
                class="small"
                :aria-pressed="row.certainty === word"
                :disabled="!mayWrite"
                @click="
                  change((one) => (one.certainty = one.certainty === word ? '' : word), `${figures.name}: ${word}.`)
                "
              >
                {{ word }}
              </v-btn>
            </div>
            <p v-if="data.table.domains.length" class="small soft">
              The doubts lead to “{{ figures.led_to }}”: one word down for some doubt, two for a serious one.
            </p>
          </div>
          <TextArea v-model="typed.note" label="Note" rows="2" :readonly="!mayWrite" @blur="keepNote" />
          <div v-if="mayWrite" class="row wrap">
            <v-btn class="small" @click="move(figures.analysis, -1)">Up</v-btn>
            <v-btn class="small" @click="move(figures.analysis, 1)">Down</v-btn>
            <v-btn class="small" @click="drop(figures.analysis, figures.name)">Remove the row</v-btn>
          </div>
        </template>
        <details class="fields" :open="!data.table.domains.length">
          <summary>The team’s words</summary>
          <TextArea
            v-model="typed.words"
            label="Words of certainty, the surest first"
            rows="4"
            :readonly="!mayWrite"
            @blur="keepWords('words')"
          />
          <TextArea
            v-model="typed.domains"
            label="Domains of doubt, one in a line"
            rows="5"
            :readonly="!mayWrite"
            @blur="keepWords('domains')"
          />
        </details>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 320px;
}
.whole {
  white-space: nowrap;
}
tr.on td {
  background: var(--ks-copper-wash);
}
.columns > aside {
  grid-template-columns: minmax(0, 1fr);
}
td .plain {
  text-align: left;
}
</style>
