<script setup lang="ts">
// Proposals by key: left what waits, in the middle the report with the quote lit, right what is proposed.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got } from '@/api/client'
import FirstStep from '@/common/FirstStep.vue'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, complain, say } from '@/common/messages'
import { useLeaving } from '@/common/leaving'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { useAnswers } from './answers'
import { placeOf, useEvidence } from './evidence'
import { FACTORS, keyOf, nameOf, type Place, sureness } from './layout'
import LanguageModel from './LanguageModel.vue'
import ReadReports from './ReadReports.vue'
import ReportPane from './ReportPane.vue'

const { review, path, mayWrite } = useReview()
const route = useRoute()
const router = useRouter()
const evidence = useEvidence()
const table = computed(() => evidence.data.value)
const { data, error, isPending, refetch, dataUpdatedAt } = useQuery({
  queryKey: ['proposals', review],
  queryFn: () => got(GET('/api/reviews/{review}/proposals', { params: path.value })),
})
const byStudy = computed(() => route.query.by === 'study')
const leaving = useLeaving()
const setQuery = async (changes: Record<string, string>) =>
  leaving() ||
  router.replace({
    query: Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value)),
  })
/** Answered here, and not yet gone from what the server lists. */
const answered = ref(new Set<string>())
watch(dataUpdatedAt, () => (answered.value = new Set()))
const rank = computed(() => ({
  item: new Map((table.value?.items ?? []).map((item, k) => [item.id!, k])),
  study: new Map((table.value?.studies ?? []).map((study, k) => [study.id, k])),
  level: new Map((table.value?.levels ?? []).map((level, k) => [level.id, k])),
}))
const waiting = computed(() => {
  const { item, study, level } = rank.value
  const place = (one: Place) => level.get(one.arm ?? one.outcome ?? one.time ?? 0) ?? -1
  type Cell = Place & { confidence: number }
  const byItem = (a: Cell, b: Cell) => (item.get(a.item) ?? 0) - (item.get(b.item) ?? 0)
  const ofStudy = (a: Cell, b: Cell) => (study.get(a.study) ?? 0) - (study.get(b.study) ?? 0)
  const order = (a: Cell, b: Cell) =>
    byItem(a, b) || b.confidence - a.confidence || ofStudy(a, b) || place(a) - place(b)
  const orderByStudy = (a: Cell, b: Cell) => ofStudy(a, b) || byItem(a, b) || place(a) - place(b)
  return (data.value?.cells ?? [])
    .filter((cell) => !answered.value.has(keyOf(cell)))
    .sort(byStudy.value ? orderByStudy : order)
})
const chosen = computed(() => waiting.value.find((one) => keyOf(one) === route.query.cell) ?? waiting.value[0])
const current = computed(() => waiting.value.findIndex((one) => one === chosen.value))
const version = computed(() => `${dataUpdatedAt.value}:${byStudy.value}:${waiting.value.length}`)
const load = (offset: number, limit: number) =>
  Promise.resolve({ total: waiting.value.length, rows: waiting.value.slice(offset, offset + limit) })
const choose = (placeundefined: Place | undefined) => placeundefined && setQuery({ cell: keyOf(placeundefined) })
const step = (by: number) => choose(waiting.value[Math.max(0, Math.min(waiting.value.length - 1, current.value + by))])
const study = computed(() => table.value?.studies.find((study) => study.id === chosen.value?.study))
const item = computed(() => table.value?.items.find((item) => item.id === chosen.value?.item))
const name = (place: Place) => nameOf(place, table.value?.items ?? [], table.value?.levels ?? [])

const { data: some } = useQuery({
  queryKey: ['proposals', review, computed(() => (chosen.value ? keyOf(chosen.value) : ''))],
  enabled: computed(() => Boolean(chosen.value)),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/proposals/{study}/{item}', {
        params: {
          path: { review: review.value, study: chosen.value!.study, item: chosen.value!.item },
          query: Object.fromEntries(
            FACTORS.flatMap((factor) => (chosen.value![factor] ? [[factor, chosen.value![factor]]] : [])),
          ),
        },
      }),
    ),
})
const looked = ref(0)
watch(
  () => chosen.value && keyOf(chosen.value),
  () => ((looked.value = 0), (draft.value = null)),
)
const shown = computed(() => some.value?.[looked.value] ?? some.value?.[0])
const quote = computed(() =>
  shown.value ? { text: shown.value.quote, page: shown.value.page ?? null, record: shown.value.record } : null,
)
const draft = ref<string | null>(null)
const strokes = ref<number[]>([])
const answers = useAnswers()

/** Answer the cell in sight; the next one is on the screen before the answer has travelled. */
async function answer(work: () => Promise<{ stroke: number }>, told: string) {
  const cell = chosen.value
  if (!cell || !mayWrite.value) return
  const key = keyOf(cell)
  const next = waiting.value[current.value + 1] ?? waiting.value[current.value - 1]
  answered.value = new Set([...answered.value, key])
  if (next) await choose(next)
  try {
    const { stroke } = await work()
    strokes.value.push(stroke)
    say(told, () => takeBack(stroke, key), 'proposal')
    await answers.renewed()
  } catch (failure) {
    answered.value = new Set([...answered.value].filter((one) => one !== key))
    await choose(cell)
    complain(failure)
  }
}
async function takeBack(stroke?: number, key?: string) {
  const last = stroke ?? strokes.value.at(-1)
  if (last === undefined) return say('Nothing of yours is left to take back here.')
  strokes.value = strokes.value.filter((stroke) => stroke !== last)
  await attempt(() => answers.takeBack(last))
  if (key) await setQuery({ cell: key })
}
async function accept(k: number) {
  const proposal = some.value?.[k]
  if (proposal && chosen.value)
    await answer(() => one(proposal.id), `${name(chosen.value)}: ${proposal.text}, as proposed.`)
}
async function one(proposal: number, text?: string) {
  const done = await answers.accept([proposal], text)
  if (done.refused[0]) say(done.refused[0].message)
  return done
}
async function change() {
  draft.value = shown.value?.text ?? ''
  await nextTick()
  document.querySelector<HTMLInputElement>('.changing input')?.focus()
}
async function keep() {
  const [proposal, text] = [shown.value, draft.value]
  if (!proposal || text === null || !chosen.value) return
  draft.value = null
  await answer(() => one(proposal.id, text), `${name(chosen.value)}: ${text}, corrected.`)
}
async function refuse() {
  const cell = chosen.value
  if (cell) await answer(() => answers.refuse(cell), `${name(cell)}: none of it is right.`)
}
const take = (text: string, words: string, page: string, record: number) => {
  const cell = chosen.value
  if (!cell || !text) return say('Mark words that state the value.')
  void evidence.write([{ ...placeOf(cell), text, quote: words, page, record, how: 'marked' }])
}

// A whole column at once.
const SURE = [0.99, 0.95, 0.9, 0.8]
const column = computed(() => waiting.value.filter((one) => one.item === chosen.value?.item))
const sure = (least: number) => column.value.filter((one) => one.confidence >= least)
/** Bounds that take in different numbers of proposals. */
const bounds = computed(() =>
  SURE.filter((one, k) => sure(one).length && sure(one).length !== sure(SURE[k - 1] ?? 2).length),
)
async function acceptAll(least: number) {
  const cells = sure(least)
  if (!cells.length || !mayWrite.value) return
  try {
    const done = await answers.accept(cells.map((cell) => cell.proposal))
    strokes.value.push(done.stroke)
    say(
      `${plural(done.taken, 'value')} of ${item.value?.name} taken as proposed${done.refused.length ? `; ${done.refused.length} could not be` : ''}.`,
      () => takeBack(done.stroke),
      'proposal',
    )
  } catch (failure) {
    complain(failure)
  }
  await answers.renewed()
}
useKeys({
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  Enter: () => accept(looked.value),
  c: change,
  r: refuse,
  Backspace: () => takeBack(),
  ...Object.fromEntries(
    Array.from({ length: 5 }, (_, k) => [String(k + 1), () => some.value?.[k] && (looked.value = k)]),
  ),
})
const showReports = computed(() => route.query.show === 'reports')
</script>

<template>
  <StateOf :pending="isPending || evidence.query.isPending.value" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <span class="soft small"
        >{{ count(data?.accepted ?? 0) }} accepted, {{ count(data?.changed ?? 0) }} corrected,
        {{ count(data?.refused ?? 0) }} refused</span
      >
      <button class="link small" @click="setQuery({ show: showReports ? '' : 'reports' })">
        {{
          showReports
            ? 'Back to the proposals'
            : `${plural(data?.reports.filter((report) => report.state === 'read').length ?? 0, 'report')} read`
        }}
      </button>
      <ReadReports v-if="data && mayWrite" :reports="data.reports" :reading="data.reading" button />
    </Teleport>
    <div v-if="showReports && data" class="pane pad all">
      <LanguageModel />
      <ReadReports :reports="data.reports" :studies="table?.studies ?? []" />
    </div>
    <div v-else-if="!waiting.length" class="pane pad all soft">
      <template v-if="!table?.items.length">
        <h2>The codebook is empty</h2>
        <FirstStep stage="Chart" />
      </template>
      <template v-else>
        <h2>Nothing is proposed that nobody has answered</h2>
        <p>
          Reports are read for the items of the
          <router-link :to="`/reviews/${review}/chart/codebook`">codebook</router-link>: each value that a report states
          is proposed with the words that it comes from. Nothing enters the table before somebody accepts it.
        </p>
        <LanguageModel />
        <ReadReports v-if="data" :reports="data.reports" :studies="table?.studies ?? []" />
      </template>
    </div>
    <div v-else class="panes columns">
      <section class="pane filled" aria-label="Proposals that wait">
        <div class="row small sorts">
          <button class="link" :class="{ chosen: !byStudy }" :aria-pressed="!byStudy" @click="setQuery({ by: '' })">
            By item
          </button>
          <button class="link" :class="{ chosen: byStudy }" :aria-pressed="byStudy" @click="setQuery({ by: 'study' })">
            By study
          </button>
          <span class="push soft">{{ count(waiting.length) }} wait</span>
        </div>
        <LongList :load="load" :version="version" :row-height="44" :current="current" label="Proposals that wait">
          <template #row="{ row }">
            <button
              class="entry small"
              :class="{ on: row === chosen }"
              :aria-current="row === chosen"
              @click="choose(row as Place)"
            >
              <span class="what"
                ><span class="clip">{{
                  byStudy
                    ? name(row as Place)
                    : table?.studies.find((study) => study.id === (row as Place).study)?.label
                }}</span
                ><span class="clip soft">{{
                  byStudy
                    ? table?.studies.find((study) => study.id === (row as Place).study)?.label
                    : name(row as Place)
                }}</span></span
              >
              <span class="what end"
                ><b class="clip">{{ (row as (typeof waiting)[number]).text }}</b
                ><span class="soft"
                  ><span v-if="(row as (typeof waiting)[number]).model" class="by-model">model</span>
                  {{ sureness((row as (typeof waiting)[number]).confidence) }}</span
                ></span
              >
            </button>
          </template>
        </LongList>
      </section>
      <section v-if="chosen && study" class="pane sheet whole">
        <ReportPane
          :study="study"
          :item="chosen.item"
          :into="name(chosen)"
          :quote="quote"
          :may-write="mayWrite"
          @take="take"
        />
      </section>
      <section v-if="chosen" class="pane pad fields side" aria-label="What is proposed">
        <div>
          <h2>{{ name(chosen) }}</h2>
          <p class="soft small">{{ study?.label }}</p>
        </div>
        <p v-if="item?.instructions" class="small">{{ item.instructions }}</p>
        <ol class="values">
          <li v-for="(offer, k) in some ?? []" :key="offer.id" :class="{ on: k === looked }">
            <button class="value" :aria-pressed="k === looked" @click="looked = k">
              <kbd>{{ k + 1 }}</kbd><b>{{ offer.text }}</b
              ><span class="soft small"
                >{{ sureness(offer.confidence) }}{{ offer.page ? `, page ${offer.page}` : ', abstract' }}</span
              >
              <span v-if="offer.model" class="whole-line small"
                ><span class="by-model">model</span> proposed by {{ offer.model }}, not by the reader</span
              >
              <span class="sure" aria-hidden="true"><i :style="{ width: `${100 * offer.confidence}%` }" /></span>
            </button>
          </li>
        </ol>
        <form v-if="draft !== null" class="fields changing" @submit.prevent="keep">
          <TextField v-model="draft" label="The value as it should be" @keydown.esc="draft = null" />
          <v-btn type="submit" class="main">Keep this value</v-btn>
        </form>
        <div v-else-if="mayWrite" class="row wrap">
          <v-btn class="main" @click="accept(looked)">Accept<kbd>Enter</kbd></v-btn>
          <v-btn @click="change">Change<kbd>C</kbd></v-btn>
          <v-btn @click="refuse">Refuse<kbd>R</kbd></v-btn>
        </div>
        <p class="small soft">
          <kbd>1</kbd> to <kbd>5</kbd> look at one of several · <kbd>↑</kbd> <kbd>↓</kbd> move ·
          <kbd>Backspace</kbd> takes the last answer back
        </p>
        <div v-if="mayWrite && column.length > 1 && bounds.length" class="at-once">
          <h3>All of {{ item?.name }} at once</h3>
          <div class="row wrap">
            <v-btn v-for="least in bounds" :key="least" class="small" @click="acceptAll(least)"
              >Accept the {{ sure(least).length }} of at least {{ Math.round(100 * least) }} %</v-btn
            >
          </div>
        </div>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(240px, 300px) minmax(0, 1fr) minmax(260px, 320px);
}
.all {
  height: 100%;
  display: grid;
  gap: 12px;
  align-content: start;
}
.whole {
  overflow: hidden;
}
.sorts {
  gap: 16px;
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.entry {
  display: flex;
  gap: 10px;
  width: 100%;
  height: 44px;
  padding: 5px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.entry.on {
  background: var(--ks-copper-wash);
}
.what {
  display: grid;
  flex: 1 1 0;
  min-width: 0;
}
.what.end {
  flex: 0 1 auto;
  max-width: 55%;
  text-align: right;
}
.side {
  align-content: start;
}
.values {
  list-style: none;
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--ks-hair);
}
.values li {
  border-bottom: 1px solid var(--ks-hair);
}
.values li.on {
  background: var(--ks-copper-wash);
}
.value {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  align-items: baseline;
  gap: 2px 8px;
  width: 100%;
  padding: 7px 8px;
}
.value b {
  overflow-wrap: anywhere;
}
.whole-line {
  grid-column: 2 / 4;
}
.sure {
  grid-column: 2 / 4;
  height: 3px;
  background: var(--ks-wash);
}
.sure i {
  display: block;
  height: 3px;
  background: var(--ks-pine);
}
.at-once {
  display: grid;
  gap: 8px;
  border-top: 1px solid var(--ks-hair);
  padding-top: 12px;
}
</style>
