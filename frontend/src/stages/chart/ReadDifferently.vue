<script setup lang="ts">
// What two extractors read, side by side with their quotes: what differs is settled by key.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { useChosen } from '@/common/chosen'
import { count, moment } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { placeOf, useEvidence } from './evidence'
import { keyOf, nameOf, type Place } from './layout'
import ReportPane from './ReportPane.vue'

type Compared = Schemas['ComparedCell']
const STATES = [
  ['differ', 'To be settled'],
  ['settled', 'Settled'],
  ['same', 'The same'],
] as const
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const { data: table } = useEvidence()
const { data, error, isPending, refetch, dataUpdatedAt } = useQuery({
  queryKey: ['compared', review],
  queryFn: () => got(GET('/api/reviews/{review}/extraction/compared', { params: path.value })),
})
const { data: extraction } = useQuery({
  queryKey: ['extraction', review],
  queryFn: () => got(GET('/api/reviews/{review}/extraction', { params: path.value })),
})
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const state = computed(() => STATES.find(([key]) => key === route.query.state)?.[0] ?? 'differ')
const item = computed(() => Number(route.query.item) || null)
const study = computed(() => Number(route.query.study) || null)
const narrowed = computed(() =>
  (data.value ?? []).filter(
    (one) => (!item.value || one.item === item.value) && (!study.value || one.study === study.value),
  ),
)
const cells = computed(() => narrowed.value.filter((one) => one.state === state.value))
const name = (place: Place) => nameOf(place, table.value?.items ?? [], table.value?.levels ?? [])
const { set, at, one, beside, choose, move, load } = useChosen(cells, 'cell', keyOf)
const key = computed(() => (one.value ? keyOf(one.value as Place) : ''))

/** Whose quote is lit. */
const lit = ref(0)
const draft = ref<string | null>(null)
watch(key, () => ((lit.value = 0), (draft.value = null)))
const report = computed(() => table.value?.studies.find((study) => study.id === one.value?.study))
const quote = computed(() => {
  const said = one.value?.said[lit.value]
  return said?.quote ? { text: said.quote, page: Number(said.page) || null, record: said.record } : null
})
const barred = computed(() =>
  extraction.value?.mode.settling === 'third' && one.value?.said.some((one) => one.account === me.value?.id)
    ? 'You read this yourself; a third person settles it.'
    : '',
)
/** That the two values differ is all there is to say. */
const plain = computed(() => one.value?.why[0] === one.value?.said.map((one) => one.text).join(' and '))
const may = computed(() => mayWrite.value && !!one.value && one.value.state !== 'same' && !barred.value)

const again = () => refresh('compared', 'extraction', 'evidence', 'figures', 'cell')
const reopen = (compared: Compared) =>
  got(POST('/api/reviews/{review}/extraction/reopen', { params: path.value, body: placeOf(compared as Place) }))
async function settle(of: number | null, text = '') {
  const differing = one.value
  if (!differing || !may.value) return
  const next = beside()
  const done = await attempt(() =>
    got(
      POST('/api/reviews/{review}/extraction/settle', {
        params: path.value,
        body: { ...placeOf(differing as Place), of, text, seen: differing.said.map((said) => said.text) },
      }),
    ),
  )
  if (!done) return
  draft.value = null
  last.value = differing
  if (state.value === 'differ') await choose(next)
  await again()
  const stands = of === null ? text : differing.said.find((said) => said.account === of)?.text
  say(`${name(differing)} of ${differing.label}: ${stands}.`, () => back(differing), 'settled')
}
const last = ref<Compared>()
async function back(compared: Compared) {
  await reopen(compared)
  if (state.value === 'differ') await choose(compared)
  await again()
}
async function takeBack() {
  const differing = one.value?.state === 'settled' ? one.value : last.value
  if (differing && mayWrite.value && (await attempt(() => back(differing)))) last.value = undefined
}
async function other() {
  if (!may.value) return
  draft.value = one.value?.said[lit.value]?.text ?? ''
  await nextTick()
  document.querySelector<HTMLInputElement>('.otherwise input')?.focus()
}
const take = (k: number) => {
  const said = one.value?.said[k]
  if (said) void settle(said.account)
}
useKeys({
  1: () => take(0),
  2: () => take(1),
  e: other,
  ArrowLeft: () => (lit.value = 0),
  ArrowRight: () => (lit.value = 1),
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
  Backspace: takeBack,
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <span class="row" role="group" aria-label="Which">
          <v-btn
            v-for="[which, words] in STATES"
            :key="which"
            :aria-pressed="state === which"
            @click="set({ state: which === 'differ' ? undefined : which, cell: undefined })"
            >{{ words }} {{ count(narrowed.filter((one) => one.state === which).length) }}</v-btn
          >
        </span>
      </Teleport>
      <section class="pane filled" aria-label="Values that two read">
        <div class="head">
          <b>{{ STATES.find(([which]) => which === state)![1] }}</b>
          <button
            v-if="item || study"
            class="link small push"
            @click="set({ item: undefined, study: undefined, cell: undefined })"
          >
            show all
          </button>
          <span class="soft small" :class="{ push: !item && !study }">{{ count(cells.length) }}</span>
        </div>
        <LongList
          v-if="cells.length"
          :load="load"
          :version="`${dataUpdatedAt}${state}${item}${study}`"
          :row-height="58"
          :current="at"
          label="Values that two read"
        >
          <template #row="{ row }">
            <router-link
              :to="{ query: { ...route.query, cell: keyOf(row as Place) } }"
              class="entry small"
              :class="{ on: row === one }"
              :aria-current="row === one ? 'true' : undefined"
            >
              <span class="clip"
                ><b>{{ name(row as Place) }}</b> <span class="soft">{{ (row as Compared).label }}</span></span
              >
              <span class="clip"
                >{{ (row as Compared).said[0]!.text }}
                <span class="odd" aria-label="and">{{ (row as Compared).why.length ? '≠' : '=' }}</span>
                {{ (row as Compared).said[1]!.text }}</span
              >
            </router-link>
          </template>
        </LongList>
        <div v-else class="pad soft">
          <template v-if="!data?.length">
            <h2>Nothing was read by two yet</h2>
            <p>
              <router-link :to="`/reviews/${review}/chart/extractors`">Have values read by two</router-link>, each for
              themselves; where they differ it is settled here.
            </p>
          </template>
          <p v-else>
            {{
              {
                differ: 'Nothing is left to settle.',
                settled: 'Nothing was settled yet.',
                same: 'Nothing is the same yet.',
              }[state]
            }}
          </p>
        </div>
      </section>
      <section class="pane sheet whole" aria-label="The report">
        <ReportPane
          v-if="one && report"
          :key="report.id"
          :study="report"
          :item="one.item"
          :into="name(one as Place)"
          :quote="quote"
          :may-write="false"
        />
      </section>
      <aside class="pane pad verdicts" aria-label="What was read">
        <template v-if="one">
          <div>
            <h2>{{ name(one as Place) }}</h2>
            <router-link class="small" :to="`/reviews/${review}/chart?cell=${key}`">{{ one.label }}</router-link>
          </div>
          <div v-for="(each, k) in one.said" :key="each.account" class="said" :class="{ lit: lit === k }">
            <div class="row small">
              <b>{{ each.account ? each.by : 'Proposed' }}</b><span class="soft push">{{ moment(each.at) }}</span>
            </div>
            <b class="value">{{ each.text }}</b>
            <button v-if="each.quote" class="quote small" :aria-pressed="lit === k" @click="lit = k">
              “{{ each.quote }}”<span v-if="each.page" class="soft"> page {{ each.page }}</span>
            </button>
            <p v-else class="small soft">Without a quote</p>
            <v-btn v-if="may" class="main" @click="take(k)"
              >This stands<kbd>{{ k + 1 }}</kbd></v-btn
            >
          </div>
          <ul v-if="one.why.length && !plain" class="small odd why" aria-label="What differs">
            <li v-for="each in one.why" :key="each">{{ each }}</li>
          </ul>
          <p v-else-if="!one.why.length" class="small soft">Both count as the same.</p>
          <div v-if="one.stands" class="said">
            <b class="value">{{ one.stands.text }}</b>
            <p class="small soft">
              {{ one.stands.how === 'agreed' ? 'stands, as both read the same' : `settled by ${one.stands.by}` }},
              {{ moment(one.stands.at) }}
            </p>
            <v-btn v-if="may && one.state === 'settled'" @click="takeBack">Take back<kbd>⌫</kbd></v-btn>
          </div>
          <p v-if="barred && one.state !== 'same'" class="odd small">{{ barred }}</p>
          <form v-if="may && draft !== null" class="otherwise fields" @submit.prevent="settle(null, draft)">
            <TextField v-model="draft" label="What stands instead" @keydown.esc="draft = null" />
            <v-btn type="submit" class="main" :disabled="!draft.trim()">Settle it so</v-btn>
          </form>
          <v-btn v-else-if="may" @click="other">Something else<kbd>E</kbd></v-btn>
        </template>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 268px minmax(0, 1fr) 292px;
}
.whole {
  overflow: hidden;
}
.entry {
  height: 100%;
  display: grid;
  gap: 2px;
  align-content: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--ks-hair);
  color: inherit;
  text-decoration: none;
}
.entry.on {
  background: var(--ks-copper-wash);
}
.verdicts {
  display: grid;
  gap: 10px;
  align-content: start;
}
.said {
  display: grid;
  gap: 4px;
  justify-items: start;
  padding: 0 0 10px 8px;
  border-bottom: 1px solid var(--ks-hair);
  border-left: 3px solid transparent;
}
.said > .row {
  width: 100%;
}
.said.lit {
  border-left-color: var(--ks-copper);
}
.value {
  font-size: 17px;
  line-height: 24px;
  overflow-wrap: anywhere;
}
.quote {
  text-align: left;
  max-height: 120px;
  overflow: auto;
  overflow-wrap: anywhere;
}
.why {
  margin: 0;
  padding-left: 16px;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 220px minmax(0, 1fr) 252px;
  }
}
</style>
