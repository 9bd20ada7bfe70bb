<script setup lang="ts">
// Words and phrases of the seeds, beside how common they are elsewhere, on their way into the query.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, nextTick, onBeforeUnmount, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, Refusal, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { say } from '@/common/messages'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { useDraft } from './query/draft'
import IntoConcept from './query/IntoConcept.vue'

type Word = Schemas['MinedWord']
const { review, path, mayWrite } = useReview()
const route = useRoute()
const router = useRouter()
const one = (name: string, otherwise: string) => String(route.query[name] ?? otherwise)
const settings = computed(() => ({
  longest: Number(one('longest', '3')),
  least: Number(one('least', '2')),
  title: Number(one('title', '3')),
  abstract: Number(one('abstract', '1')),
  keyword: Number(one('keyword', '2')),
  common: one('common', '') === 'yes',
  stems: one('stems', '') === 'yes',
}))
const set = (name: string, value: string) => router.replace({ query: { ...route.query, [name]: value || undefined } })
const { data, error, isPending, isFetching, refetch } = useQuery({
  queryKey: ['trial', review, 'words', settings],
  queryFn: () => got(GET('/api/reviews/{review}/query/words', { params: { ...path.value, query: settings.value } })),
  placeholderData: keepPreviousData,
})
const { data: history } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
const { state, into: putInto } = useDraft(
  review,
  computed(() => (history.value ? (history.value.steps[0]?.text ?? '') : undefined)),
)

const COLUMNS: { key: keyof Word; name: string; title: string }[] = [
  { key: 'term', name: 'Word or phrase', title: '' },
  { key: 'seeds', name: 'Seeds', title: 'Seeds that have it' },
  { key: 'title', name: 'Title', title: 'Occurrences in titles of seeds' },
  { key: 'abstract', name: 'Abstract', title: 'Occurrences in abstracts of seeds' },
  { key: 'keyword', name: 'Descriptor', title: 'Occurrences in descriptors of seeds' },
  { key: 'weight', name: 'Weight', title: 'Occurrences, each times the weight of its field' },
  { key: 'records', name: 'Other records', title: 'Other records of the review that have it' },
  {
    key: 'special',
    name: 'Special',
    title: 'Log-likelihood ratio: how much more often in seeds than in other records',
  },
]
const sort = computed(() => one('sort', '-weight'))
const sortBy = (key: string) =>
  set('sort', sort.value === `-${key}` || (key === 'term' && sort.value !== 'term') ? key : `-${key}`)
const words = computed(() => one('words', ''))
const shown = computed(() => {
  const [key, sign] = sort.value.startsWith('-')
    ? [sort.value.slice(1) as keyof Word, -1]
    : [sort.value as keyof Word, 1]
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (data.value?.words ?? [])
    .filter((one) => wanted.every((word) => one.term.includes(word)))
    .sort(
      (a, b) =>
        sign *
        (typeof a[key] === 'string' ? String(a[key]).localeCompare(String(b[key])) : Number(a[key]) - Number(b[key])),
    )
})
const MOST = 400

// beside a catalogue, the rows in sight are asked for one by one
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const catalogue = computed(
  () => catalogues.value?.find((catalogue) => String(catalogue.id) === one('beside', '')) ?? null,
)
const AT_FIRST = 40
const there = reactive(new Map<string, { records: number; special: number } | string>())
const key = (word: Word) => `${catalogue.value?.id} ${word.forms.join('|')}`
const asked = ref(0)
let turn = 0
watch(
  [catalogue, () => shown.value.slice(0, AT_FIRST)],
  async ([place, rows]) => {
    const mine = ++turn
    asked.value = 0
    if (!place) return
    for (const row of rows) {
      if (mine !== turn) return
      asked.value++
      if (typeof there.get(key(row)) === 'object') continue
      try {
        there.set(
          key(row),
          await got(
            POST('/api/reviews/{review}/catalogues/{number}/compare', {
              params: { path: { review: review.value, number: place.id } },
              body: { forms: row.forms, seeds: row.seeds },
            }),
          ),
        )
      } catch (error) {
        there.set(key(row), error instanceof Refusal ? error.message : 'It could not be asked.')
      }
    }
    if (mine === turn) asked.value = 0
  },
  { immediate: true },
)
onBeforeUnmount(() => turn++)
const beside = (word: Word) => {
  const found = there.get(key(word))
  return typeof found === 'object' ? found : null
}
/** Beside a catalogue two columns are of it; their order is that of the review's records, which are counted whole. */
const named = (column: (typeof COLUMNS)[number]) => {
  if (!catalogue.value || !['records', 'special'].includes(column.key)) return column
  return column.key === 'records'
    ? {
        name: 'In the catalogue',
        title: 'Records of the catalogue that have it; sorted by the other records of the review',
      }
    : { name: 'Special there', title: 'Log-likelihood ratio beside the catalogue; sorted by that beside the review' }
}
const trouble = (word: Word) => {
  const found = there.get(key(word))
  return typeof found === 'string' ? found : ''
}
const known = computed(
  () =>
    new Set(state.concepts.flatMap((concept) => concept.terms.map((term) => term.replaceAll('"', '').toLowerCase()))),
)
const chosen = ref(new Set<string>())
const at = ref(0)
const list = ref<HTMLElement | null>(null)
function toggle(term: string) {
  const next = new Set(chosen.value)
  if (!next.delete(term)) next.add(term)
  chosen.value = next
}
async function go(to: number) {
  at.value = Math.max(0, Math.min(shown.value.length - 1, to))
  await nextTick()
  list.value?.querySelectorAll('tbody tr')[at.value]?.scrollIntoView({ block: 'nearest' })
}
/** Put what is chosen, or the row where one stands, into a concept; -1 makes a new one. */
async function into(k: number) {
  const picked = chosen.value.size
    ? shown.value.filter((one) => chosen.value.has(one.term))
    : shown.value.slice(at.value, at.value + 1)
  if (!picked.length || !mayWrite.value) return
  const terms = picked.flatMap((one) => one.terms)
  const done = await putInto(k, terms)
  if (!done) return
  chosen.value = new Set()
  say(`${plural(terms.length, 'term')} in ${done.name}.`, done.undo)
}
const WEIGHTS = [
  ['title', 'Weight in a title'],
  ['abstract', 'in an abstract'],
  ['keyword', 'in a descriptor'],
] as const
const besides = computed(() => [
  { value: '', title: 'the other records of the review' },
  ...(catalogues.value ?? []).map((one) => ({
    value: String(one.id),
    title: `${one.name}, the first ${AT_FIRST} rows`,
  })),
])
const number = (key: string, event: Event) => set(key, (event.target as HTMLInputElement).value)
const csv = computed(
  () =>
    `/api/reviews/${review.value}/query/words.csv?${new URLSearchParams(Object.entries(settings.value).map(([key, value]) => [key, String(value)]))}`,
)
useKeys({
  ArrowDown: () => go(at.value + 1),
  ArrowUp: () => go(at.value - 1),
  ' ': () => shown.value[at.value] && toggle(shown.value[at.value]!.term),
})
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <span v-if="isFetching" class="soft small" role="status">Counting …</span>
      <v-btn :href="csv" download>Download CSV</v-btn>
      <v-btn class="main" :to="`/reviews/${review}/plan/query`">To the query</v-btn>
    </Teleport>
    <section ref="list" class="pane sheet" tabindex="0" aria-label="Words and phrases">
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="data && !data.seeds" class="pad soft">
          <h2>No seeds, no words</h2>
          <p>
            <router-link :to="`/reviews/${review}/plan/seeds`">Name studies that you know belong</router-link>. Their
            words and phrases are counted here, beside how common each is in the other records.
          </p>
        </div>
        <table v-else>
          <thead>
            <tr>
              <th class="pick"><span class="unseen">Chosen</span></th>
              <th
                v-for="column in COLUMNS"
                :key="column.key"
                :class="{ num: column.key !== 'term' }"
                :aria-sort="sort === column.key ? 'ascending' : sort === `-${column.key}` ? 'descending' : 'none'"
              >
                <button :title="named(column).title" @click="sortBy(column.key)">
                  {{ named(column).name }}{{ sort === column.key ? ' ↑' : sort === `-${column.key}` ? ' ↓' : '' }}
                </button>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(mined, k) in shown.slice(0, MOST)" :key="mined.term" :class="{ on: k === at }" @click="at = k">
              <td class="pick">
                <input
                  type="checkbox"
                  :checked="chosen.has(mined.term)"
                  :aria-label="`Choose ${mined.term}`"
                  @change="toggle(mined.term)"
                />
              </td>
              <td>
                <span class="term">{{ mined.term }}</span><span v-if="mined.forms.length > 1" class="soft small">
                  also {{ mined.forms.slice(1).join(', ') }}</span
                ><span v-if="known.has(mined.term)" class="tag">in the query</span>
              </td>
              <td class="num">{{ mined.seeds }} of {{ data?.seeds }}</td>
              <td class="num">{{ mined.title || '' }}</td>
              <td class="num">{{ mined.abstract || '' }}</td>
              <td class="num">{{ mined.keyword || '' }}</td>
              <td class="num">{{ count(mined.weight) }}</td>
              <template v-if="catalogue"
                ><td class="num" :title="trouble(mined)">
                  {{ beside(mined) ? count(beside(mined)!.records) : trouble(mined) ? '?' : k < AT_FIRST ? '…' : '' }}
                </td>
                <td class="num" :class="{ pine: (beside(mined)?.special ?? 0) > 10.83 }">
                  {{ beside(mined)?.special.toFixed(1) ?? '' }}
                </td></template
              >
              <template v-else>
                <td class="num">
                  <router-link
                    :to="{
                      path: `/reviews/${review}/records`,
                      query: { list: 'not_seeds', query: mined.found_by },
                    }"
                    >{{ count(mined.records) }}</router-link
                  >
                </td>
                <td class="num" :class="{ pine: mined.special > 10.83 }">{{ mined.special.toFixed(1) }}</td>
              </template>
            </tr>
            <tr v-if="shown.length > MOST">
              <td />
              <td colspan="8" class="soft">
                {{ count(shown.length - MOST) }} more: narrow them by a word, or by the least number of seeds. The CSV
                has all.
              </td>
            </tr>
            <tr v-if="!shown.length">
              <td />
              <td colspan="8" class="soft">No word fits. Lower the least number of seeds, or clear the filter.</td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside class="pane pad side">
      <p class="small soft">
        {{ plural(data?.seeds ?? 0, 'seed') }} beside {{ plural(data?.others ?? 0, 'other record') }} of the review.
        {{ plural(shown.length, 'row') }}.
      </p>
      <ChoiceField
        v-if="catalogues?.length"
        :model-value="String(catalogue?.id ?? '')"
        :items="besides"
        label="Beside"
        @update:model-value="set('beside', $event ?? '')"
      />
      <p v-if="asked" class="small soft" role="status">{{ asked }} of {{ Math.min(AT_FIRST, shown.length) }} asked</p>
      <TextField :model-value="words" label="Contains" @update:model-value="set('words', $event ?? '')" />
      <div class="pairs">
        <TextField
          :model-value="String(settings.longest)"
          label="Longest phrase, words"
          type="number"
          min="1"
          max="6"
          @change="number('longest', $event)"
        />
        <TextField
          :model-value="String(settings.least)"
          label="In at least so many seeds"
          type="number"
          min="1"
          max="1000"
          @change="number('least', $event)"
        />
        <TextField
          v-for="[field, name] in WEIGHTS"
          :key="field"
          :model-value="String(settings[field])"
          :label="name"
          type="number"
          min="0"
          max="100"
          step="0.5"
          @change="number(field, $event)"
        />
      </div>
      <label class="row small"
        ><input type="checkbox" :checked="settings.stems" @change="set('stems', settings.stems ? '' : 'yes')" /> Join
        the forms of a word</label
      >
      <label class="row small"
        ><input type="checkbox" :checked="settings.common" @change="set('common', settings.common ? '' : 'yes')" /> Show
        common words too</label
      >
      <template v-if="mayWrite">
        <h2 class="below">Into the query</h2>
        <p class="small soft">
          {{ chosen.size ? `${plural(chosen.size, 'row')} chosen` : 'The row where you stand' }}; choose several with
          the space bar.
        </p>
        <IntoConcept :concepts="state.concepts" @into="into" />
      </template>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 300px;
}
.pick {
  width: 28px;
}
.term {
  font-size: 14px;
}
.tag {
  margin-left: 8px;
}
.pine {
  color: var(--ks-pine);
  font-weight: 600;
}
.num a {
  color: inherit;
}
.side {
  display: grid;
  gap: 10px;
  align-content: start;
}
.pairs {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  align-items: end;
}
.box {
  display: block;
  width: 100%;
}
.below {
  margin-top: 12px;
}
</style>
