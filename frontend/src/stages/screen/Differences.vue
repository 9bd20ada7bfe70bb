<script setup lang="ts">
// What readers said differently, side by side, and settled by key.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { useChosen } from '@/common/chosen'
import { count, moment, people, plural, VERDICT_WORDS } from '@/common/format'
import LongList from '@/common/LongList.vue'
import { useKeys } from '@/common/keys'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import VerdictMark from '@/common/VerdictMark.vue'
import RecordSheet from './RecordSheet.vue'

const route = useRoute()
const { review, path, protocol, mayWrite } = useReview()
const refresh = useRefresh()
const pass = computed<1 | 2>(() => (route.query.pass === '2' ? 2 : 1))
const settled = computed(() => route.query.settled === 'yes')
const {
  data: found,
  dataUpdatedAt,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['differences', review, pass, settled],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/differences', {
        params: { ...path.value, query: { pass_number: pass.value, settled: settled.value } },
      }),
    ),
})
const readMyself = (differing: Schemas['Differing']) =>
  differing.said.some((one) => !one.settles && one.account_id === me.value?.id)
/** Those that this person may settle first. */
const data = computed(() =>
  mode.value?.settling === 'third' && !settled.value
    ? [...(found.value ?? [])].sort((a, b) => Number(readMyself(a)) - Number(readMyself(b)))
    : found.value,
)
const { data: passes } = useQuery({
  queryKey: ['passes', review],
  queryFn: () => got(GET('/api/reviews/{review}/passes', { params: path.value })),
})
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const mode = computed(() => passes.value?.find((one) => one.pass_number === pass.value)?.mode)
const { set, at, one, beside, choose, move, load } = useChosen(data, 'record', (one) => String(one.id))

const sheet = ref<Schemas['Sheet']>()
watch(
  [() => one.value?.id, pass],
  async ([record]) => {
    if (!record) return void (sheet.value = undefined)
    try {
      const found = await got(
        GET('/api/reviews/{review}/records/{record}', {
          params: { path: { review: review.value, record }, query: { pass_number: pass.value } },
        }),
      )
      if (one.value?.id === record) sheet.value = found
    } catch (error) {
      complain(error)
    }
  },
  { immediate: true },
)
const criteria = computed(() =>
  (protocol.data.value?.criteria ?? [])
    .map((criterion, k) => ({ ...criterion, number: k + 1 }))
    .filter((criterion) => (pass.value === 1 ? criterion.first : criterion.second)),
)
const readers = computed(() => one.value?.said.filter((one) => !one.settles) ?? [])
const settlement = computed(() => one.value?.said.filter((one) => one.settles).at(-1))
/** Why this person cannot settle this record. */
const barred = computed(() =>
  mode.value?.settling === 'third' && one.value && readMyself(one.value)
    ? 'You read this record yourself; a third person settles it.'
    : '',
)
const may = computed(() => mayWrite.value && !!one.value && !barred.value)

const again = () => refresh('differences', 'passes', 'figures', 'records', 'queue', 'agreement')
const reopen = (record: number, number: 1 | 2) =>
  got(POST('/api/reviews/{review}/differences/reopen', { params: path.value, body: { record, pass_number: number } }))
async function settle(verdict: 'include' | 'exclude', criterion: number | null = null) {
  const differing = one.value
  if (!differing || !may.value) return
  const [number, next] = [pass.value, beside()]
  const done = await attempt(() =>
    got(
      POST('/api/reviews/{review}/differences/settle', {
        params: path.value,
        body: { record: differing.id, pass_number: number, verdict, criterion, seen: differing.state },
      }),
    ),
  )
  if (done && !settled.value) await choose(next)
  await again()
  if (done) last.value = [differing.id, number]
  if (done) say(`Settled: ${VERDICT_WORDS[verdict]!.toLowerCase()}.`, () => back(differing.id, number), 'settled')
}
async function back(record: number, number: 1 | 2) {
  await reopen(record, number)
  if (!settled.value) await set({ record: String(record) })
  await again()
}
const last = ref<[number, 1 | 2]>()
/** Take back what settles the record that is shown, else what was settled last here. */
async function takeBack() {
  const settled = settlement.value && one.value ? ([one.value.id, pass.value] as [number, 1 | 2]) : last.value
  if (settled && mayWrite.value && (await attempt(() => back(...settled)))) last.value = undefined
}
function exclude(number: number) {
  const criterion = criteria.value.find((criterion) => criterion.number === number)
  if (criterion?.id) void settle('exclude', criterion.id)
}
useKeys({
  Enter: () => settle('include'),
  ...Object.fromEntries(Array.from({ length: 9 }, (_, k) => [String(k + 1), () => exclude(k + 1)])),
  Backspace: takeBack,
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <span class="row" role="group" aria-label="Which">
          <v-btn :aria-pressed="pass === 1" @click="set({ pass: undefined, record: undefined })">First pass</v-btn>
          <v-btn :aria-pressed="pass === 2" @click="set({ pass: '2', record: undefined })">Second pass</v-btn>
          <v-btn :aria-pressed="settled" @click="set({ settled: settled ? undefined : 'yes', record: undefined })"
            >Settled ones</v-btn
          >
        </span>
      </Teleport>
      <section class="pane filled" aria-label="Records that differ">
        <div class="head">
          <b>{{ settled ? 'Settled' : 'Verdicts differ' }}</b><span class="soft small push">{{
            count(data?.length ?? 0)
          }}</span>
        </div>
        <LongList
          v-if="data?.length"
          :load="load"
          :version="`${dataUpdatedAt}${me?.id}${mode?.settling}`"
          :row-height="62"
          :current="at"
          label="Records that differ"
        >
          <template #row="{ row }">
            <router-link
              :to="{ query: { ...route.query, record: String((row as Schemas['Differing']).id) } }"
              class="entry small"
              :class="{
                on: (row as Schemas['Differing']).id === one?.id,
                soft: mode?.settling === 'third' && readMyself(row as Schemas['Differing']),
              }"
              :aria-current="(row as Schemas['Differing']).id === one?.id ? 'true' : undefined"
            >
              <span class="marks"
                ><VerdictMark
                  v-for="said in (row as Schemas['Differing']).said.filter((x) => !x.settles)"
                  :key="said.account_id"
                  :verdict="said.verdict"
              /></span>
              <span
                ><span class="two">{{ (row as Schemas['Differing']).title || 'Untitled' }}</span
                ><span class="soft"
                  >{{ people((row as Schemas['Differing']).authors, 1) }}
                  {{ (row as Schemas['Differing']).year ?? '' }}</span
                ></span
              >
            </router-link>
          </template>
        </LongList>
        <p v-if="!data?.length" class="pad soft">
          <template v-if="(mode?.readers ?? 1) === 1 && !settled"
            >One person reads each record in this pass, so nothing can differ.
            <router-link :to="`/reviews/${review}/screen/passes?pass=${pass}`">Have two people read</router-link> each
            independently.</template
          >
          <template v-else>{{
            settled ? 'Nothing was settled in this pass yet.' : 'Nothing differs in this pass now.'
          }}</template>
        </p>
      </section>
      <section class="pane sheet" tabindex="0" aria-label="The record">
        <RecordSheet
          v-if="one && sheet"
          :key="sheet.id"
          :sheet="sheet"
          :review="review"
          :may-write="false"
          :pass="pass"
        />
      </section>
      <aside class="pane pad verdicts" aria-label="What was said">
        <template v-if="one">
          <h2>{{ plural(readers.length, 'reader') }}</h2>
          <div v-for="reader in readers" :key="reader.account_id" class="said">
            <div class="row">
              <VerdictMark :verdict="reader.verdict" words="" /><b>{{ reader.by }}</b
              ><span class="push">{{ VERDICT_WORDS[reader.verdict] }}</span>
            </div>
            <p v-if="reader.criterion">{{ reader.criterion }}</p>
            <p v-if="reader.note" class="read">“{{ reader.note }}”</p>
            <p class="soft small">{{ moment(reader.at) }}</p>
          </div>
          <div v-if="settlement" class="said settled">
            <div class="row">
              <VerdictMark :verdict="settlement.verdict" words="" /><b>{{ settlement.by }}</b
              ><span class="push">settled: {{ VERDICT_WORDS[settlement.verdict]!.toLowerCase() }}</span>
            </div>
            <p v-if="settlement.criterion">{{ settlement.criterion }}</p>
            <v-btn v-if="mayWrite" @click="takeBack">Take back <kbd>⌫</kbd></v-btn>
          </div>
          <p v-if="barred" class="odd small">{{ barred }}</p>
          <template v-if="may">
            <b class="small soft">{{ settlement ? 'Settle it otherwise' : 'Settle it' }}</b>
            <v-btn class="main" @click="settle('include')">Include <kbd>Enter</kbd></v-btn>
            <ol>
              <li v-for="criterion in criteria" :key="criterion.number">
                <button :title="criterion.wording" @click="settle('exclude', criterion.id)">
                  <kbd>{{ criterion.number }}</kbd> {{ criterion.name }}
                </button>
              </li>
            </ol>
          </template>
          <p class="small soft">
            Two people read one criterion in two ways?
            <router-link :to="`/reviews/${review}/plan`">Reword it</router-link> as an amendment.
          </p>
        </template>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 284px minmax(0, 1fr) 292px;
}
.entry {
  height: 100%;
  display: grid;
  grid-template-columns: 30px minmax(0, 1fr);
  gap: 6px;
  padding: 6px 10px;
  border-bottom: 1px solid var(--ks-hair);
  color: inherit;
  text-decoration: none;
}
.entry.on {
  background: var(--ks-copper-wash);
}
.marks {
  display: flex;
  gap: 3px;
  flex-wrap: wrap;
  align-content: start;
  padding-top: 2px;
}
.two {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.verdicts {
  display: grid;
  gap: 10px;
  align-content: start;
}
.said {
  display: grid;
  gap: 2px;
  padding-bottom: 8px;
  border-bottom: 1px solid var(--ks-hair);
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-bottom: 1px solid var(--ks-hair);
}
li button {
  width: 100%;
  padding: 5px 0;
  display: grid;
  grid-template-columns: 34px minmax(0, 1fr);
}
li kbd {
  justify-self: start;
}
li button:hover {
  background: var(--ks-wash);
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 220px minmax(0, 1fr) 240px;
  }
}
</style>
