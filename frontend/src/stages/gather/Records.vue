<script setup lang="ts">
// Every record of the review: what every figure opens. Found as one types, filtered with counts, picked, and then labelled, exported or set aside.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, GET, got, POST, PUT, type Schemas } from '@/api/client'
import { count, FULL_TEXT_WORDS, KIND_WORDS, people, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import VerdictMark from '@/common/VerdictMark.vue'
import { useFilter } from '../screen/filter'
import ExportDialog from './ExportDialog.vue'
import Facets from './Facets.vue'
import { COLUMNS, rowGrid, useColumns } from './records'

type Row = Schemas['Listed']
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const router = useRouter()
const { filter, narrowed, query, set, clear } = useFilter({ list: 'all' })
const filtering = ref(false)
const total = ref(0)
const { dataUpdatedAt } = useQuery({ queryKey: ['records', review], queryFn: () => Date.now() })
const version = computed(() => `${review.value} ${JSON.stringify(query.value)}|${dataUpdatedAt.value}`)
const { data: labels } = useQuery({ queryKey: ['labels', review], queryFn: () => got(GET('/api/reviews/{review}/labels', { params: path.value })) })
const { data: narrowings } = useQuery({ queryKey: ['narrowings', review], queryFn: () => got(GET('/api/reviews/{review}/narrowings', { params: path.value })) })
const { columns, toggle } = useColumns()

const LISTS: [string, string][] = [
  ['all', 'All records'], ['open', 'To be decided'], ['unsure', 'Unsure'], ['aside', 'Set aside by narrowing'], ['excluded', 'Excluded in the first pass'], ['sought', 'Full texts sought'], ['waiting', 'Full texts still sought'],
  ['missing', 'Full texts not obtained'], ['assessed', 'Full texts assessed'], ['reports_excluded', 'Full texts excluded'], ['included', 'Included reports'], ['seeds', 'Seeds'], ['found', 'All copies, as found'], ['copies', 'Copies removed'],
]
const names: Record<string, string> = { ...Object.fromEntries(LISTS), decided: 'Decided in the first pass', studies: 'Reports of included studies', second_open: 'Full texts still to be decided', not_seeds: 'Records that are no seeds', screened: 'Records to screen', in_play: 'Records that are not excluded', automated: 'Set aside by automation', removed: 'Set aside for other reasons', short_names: 'Authors by their initials, or none' }
const heading = computed(() => {
  const [key, ...rest] = filter.value.list.split(':')
  const more = rest.join(':').replace(/:?(main|other)$/, (_, route: string) => (route === 'main' ? ' from databases and registers' : ' from other methods'))
  if (key === 'reason') return `Full texts excluded: ${more}`
  if (key === 'source') return `Copies from ${more}`
  if (key === 'kind') return `Copies from sources of the kind “${more}”`
  if (key === 'search') return 'Copies of one search'
  if (key === 'batch') return 'Copies of one file'
  if (key === 'run') return 'Copies of one run'
  if (key === 'new') return 'Records that one run brought first'
  if (key === 'label') return `Labelled “${labels.value?.find((it) => String(it.id) === more)?.name ?? '…'}”`
  if (key === 'narrowed') return `Set aside: ${narrowings.value?.find((it) => String(it.id) === more)?.name ?? '…'}`
  return (names[key ?? ''] ?? filter.value.list) + more
})
const items = computed(() => {
  const all: [string, string][] = [...LISTS, ...(labels.value ?? []).map((it): [string, string] => [`label:${it.id}`, `Labelled “${it.name}”`])]
  return (all.some(([key]) => key === filter.value.list) ? all : [[filter.value.list, heading.value] as [string, string], ...all]).map(([value, title]) => ({ value, title }))
})
const ofCopies = computed(() => /^(found|copies|source|kind|search|batch|run)(:|$)/.test(filter.value.list))
const second = computed(() => /^(assessed|reports|included|studies|second|reason)/.test(filter.value.list))
const wanted = computed(() => ({ ...query.value, pass_number: second.value ? 2 : 1 }))
async function load(offset: number, limit: number) {
  const page = await got(GET('/api/reviews/{review}/records', { params: { ...path.value, query: { ...wanted.value, offset, limit } } }))
  return { total: page.total, rows: page.records }
}
const { data: facets } = useQuery({
  queryKey: ['records', review, 'divided', wanted],
  queryFn: () => got(GET('/api/reviews/{review}/records/divided', { params: { ...path.value, query: wanted.value } })),
  enabled: filtering,
  placeholderData: keepPreviousData,
})

// typing finds
const box = ref<HTMLInputElement | null>(null)
const typed = ref(filter.value.typed)
watch(() => filter.value.typed, (now) => (typed.value = now))
let pause: ReturnType<typeof setTimeout> | undefined
function type() {
  clearTimeout(pause)
  pause = setTimeout(() => set({ typed: typed.value }), 120)
}

// picking
const list = ref<{ at: (index: number) => Promise<unknown> } | null>(null)
const cursor = ref(-1)
const picked = ref(new Set<number>())
watch(version, (now, before) => now.split('|')[0] !== before?.split('|')[0] && ((picked.value = new Set()), (cursor.value = -1)))
function pick(id: number) {
  const next = new Set(picked.value)
  if (!next.delete(id)) next.add(id)
  picked.value = next
}
async function pickAll() {
  if (picked.value.size) return (picked.value = new Set())
  await attempt(async () => (picked.value = new Set(await got(GET('/api/reviews/{review}/records/ids', { params: { ...path.value, query: wanted.value } })))))
}
const rowAt = async (index: number) => (await list.value?.at(index)) as Row | undefined
async function move(by: number, picking: boolean) {
  cursor.value = Math.min(total.value - 1, Math.max(0, cursor.value + by))
  if (picking) {
    const it = await rowAt(cursor.value)
    if (it && !picked.value.has(it.id)) pick(it.id)
  }
}
async function here(act: (it: Row) => unknown) {
  const it = cursor.value < 0 ? undefined : await rowAt(cursor.value)
  if (it) act(it)
}
const openPage = (it: Row) => router.push(`/reviews/${review.value}/records/${it.id}`)

// and then
const naming = ref<false | 'label' | 'aside'>(false)
const name = ref('')
const nameBox = ref<HTMLInputElement | null>(null)
const exporting = ref(false)
const records = computed(() => [...picked.value])
function startNaming(what: 'label' | 'aside') {
  if (!mayWrite.value || !picked.value.size) return
  naming.value = what
  setTimeout(() => nameBox.value?.focus())
}
async function label() {
  const said = name.value.trim()
  if (!said) return
  await attempt(async () => {
    const made = await got(POST('/api/reviews/{review}/labels', { params: path.value, body: { name: said, records: records.value } }))
    say(`${plural(made.copies.length, 'record')} labelled “${said}”.`, async () => {
      if (made.copies.length) await got(POST('/api/reviews/{review}/labels/{label}/take', { params: { path: { review: review.value, label: made.label } }, body: { copies: made.copies, only: true } }))
      await refresh('records', 'labels')
    })
    naming.value = false
    name.value = ''
    picked.value = new Set()
  })
  await refresh('records', 'labels')
}
async function setAside() {
  const said = name.value.trim()
  if (!said) return
  await attempt(async () => {
    const made = await got(POST('/api/reviews/{review}/narrowings/picked', { params: path.value, body: { name: said, records: records.value } }))
    say(`${plural(made.records, 'record')} set aside as “${said}”.`, async () => {
      await got(POST('/api/reviews/{review}/narrowings/{narrowing}/withdraw', { params: { path: { review: review.value, narrowing: made.id } } }))
      await refresh('records', 'figures', 'narrowings')
    })
    naming.value = false
    name.value = ''
    picked.value = new Set()
  })
  await refresh('records', 'figures', 'narrowings')
}
async function unlabel() {
  const at = Number(filter.value.list.split(':')[1] ?? filter.value.label)
  const taken = records.value
  const known = labels.value?.find((it) => it.id === at)
  if (!known) return
  const params = { path: { review: review.value, label: at } }
  await attempt(async () => {
    const { copies } = await got(POST('/api/reviews/{review}/labels/{label}/take', { params, body: { copies: taken, only: false } }))
    say(`“${known.name}” is taken off ${plural(taken.length, 'record')}.`, () => got(POST('/api/reviews/{review}/labels/{label}/give', { params, body: { copies } })))
  })
  picked.value = new Set()
  await refresh('records', 'labels')
}
async function removeLabel() {
  const known = labels.value?.find((it) => `label:${it.id}` === filter.value.list)
  if (!known) return
  const params = { path: { review: review.value, label: known.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/labels/{label}', { params })))) {
    say(`The label “${known.name}” is removed.`, async () => {
      await got(POST('/api/reviews/{review}/labels/{label}/back', { params }))
      await refresh('labels', 'records')
    })
    await set({ list: 'all' })
  }
  await refresh('labels', 'records')
}
async function seed(it: Row) {
  if (await attempt(() => got(PUT('/api/reviews/{review}/records/{record}/seed', { params: { path: { review: review.value, record: it.id } }, body: { seed: !it.seed } })))) it.seed = !it.seed
}
async function letIn() {
  const all = records.value
  await attempt(async () => {
    const body = await got(POST('/api/reviews/{review}/records/let-in', { params: path.value, body: { records: all } }))
    say(`${plural(all.length, 'record')} let in again.`, () => got(POST('/api/reviews/{review}/records/hold-again', { params: path.value, body })))
  })
  picked.value = new Set()
  await refresh('records', 'figures', 'narrowings')
}
const aside = computed(() => /^(aside|narrowed|automated|removed)/.test(filter.value.list))
const narrow = () => router.push({ path: `/reviews/${review.value}/gather/narrowing`, query: { new: '1', query: filter.value.query || undefined } })

const words = (it: Row) => {
  if (it.first !== 'include') return it.first === 'exclude' ? `excluded${it.reason ? `: ${it.reason}` : ''}` : it.first === 'unsure' ? 'unsure' : it.first === 'aside' ? 'set aside' : 'not decided'
  if (it.fulltext !== 'obtained') return `full text ${FULL_TEXT_WORDS[it.fulltext]?.toLowerCase()}`
  return it.second === 'include' ? 'included' : it.second === 'exclude' ? `full text excluded${it.reason ? `: ${it.reason}` : ''}` : 'full text to be decided'
}
const mark = (it: Row) => (it.first === 'include' && it.fulltext === 'obtained' && it.second !== 'open' ? it.second : it.first)
const cell = (it: Row, column: string): string => {
  if (column === 'kind') return KIND_WORDS[it.kind] ?? it.kind
  if (column === 'labels' || column === 'sources') return it[column].join(', ')
  return String((it as unknown as Record<string, unknown>)[column] ?? '')
}
const grid = computed(() => rowGrid(columns.value))
useKeys({
  f: () => (filtering.value = !filtering.value), '/': () => box.value?.focus(), ArrowDown: (event) => move(1, event.shiftKey), ArrowUp: (event) => move(-1, event.shiftKey), PageDown: () => move(12, false), PageUp: () => move(-12, false),
  ' ': () => here((it) => pick(it.id)), x: () => here((it) => pick(it.id)), a: pickAll, Enter: () => here(openPage), t: () => startNaming('label'), s: () => !aside.value && startNaming('aside'), e: () => (exporting.value = true), Escape: () => ((picked.value = new Set()), (naming.value = false)),
})
</script>

<template>
  <div class="whole" :class="{ filtering }">
    <Teleport to="#view-actions" defer>
      <input ref="box" v-model="typed" class="box find" placeholder="Find in title, abstract, authors" aria-label="Find in title, abstract, authors" maxlength="300" @input="type" @keydown.esc="(($event.target as HTMLInputElement).blur())" />
      <select :value="filter.list" class="box which" aria-label="List" @change="set({ list: ($event.target as HTMLSelectElement).value })"><option v-for="it in items" :key="it.value" :value="it.value">{{ it.title }}</option></select>
      <v-btn :aria-expanded="filtering" @click="filtering = !filtering">Filter{{ narrowed ? ` (${narrowed})` : '' }} <kbd>F</kbd></v-btn>
      <v-menu :close-on-content-click="false">
        <template #activator="{ props }"><v-btn v-bind="props">Columns</v-btn></template>
        <v-list class="columns-menu"><label v-for="[key, title] in COLUMNS" :key="key" class="choice"><input type="checkbox" :checked="columns.includes(key)" @change="toggle(key)" /> {{ title }}</label></v-list>
      </v-menu>
      <v-btn :disabled="!total" @click="exporting = true">Export <kbd>E</kbd></v-btn>
    </Teleport>
    <Facets v-if="filtering" :filter="filter" :facets="facets ?? {}" :verdicts="!ofCopies" @set="set" @clear="clear" />
    <section class="pane sheet list">
      <div class="head bar-head">
        <template v-if="picked.size">
          <b role="status">{{ plural(picked.size, 'record') }} picked</b>
          <template v-if="naming"><input ref="nameBox" v-model="name" class="box" maxlength="100" :list="naming === 'label' ? 'known-labels' : undefined" :placeholder="naming === 'label' ? 'Label' : 'Name in the flow'" :aria-label="naming === 'label' ? 'Label' : 'Name in the flow'" @keydown.enter.prevent="naming === 'label' ? label() : setAside()" @keydown.esc="naming = false" /><datalist id="known-labels"><option v-for="it in labels" :key="it.id" :value="it.name" /></datalist>
            <v-btn class="main" @click="naming === 'label' ? label() : setAside()">{{ naming === 'label' ? 'Label them' : 'Set them aside' }}</v-btn></template>
          <template v-else-if="mayWrite"><v-btn @click="startNaming('label')">Label <kbd>T</kbd></v-btn><v-btn v-if="!aside" @click="startNaming('aside')">Set aside <kbd>S</kbd></v-btn><v-btn v-if="filter.list.startsWith('label:') || filter.label" @click="unlabel">Take the label off</v-btn><v-btn v-if="aside" @click="letIn">Let in again</v-btn></template>
          <v-btn @click="exporting = true">Export <kbd>E</kbd></v-btn><v-btn @click="picked = new Set()">None</v-btn>
        </template>
        <template v-else><h2>{{ heading }}</h2><span v-if="filter.query" class="mono clip found" :title="filter.query">found by {{ filter.query }}</span>
          <v-btn v-if="mayWrite && filter.list.startsWith('label:')" @click="removeLabel">Remove this label</v-btn>
          <v-btn v-if="mayWrite && !ofCopies && !aside" class="push" @click="narrow">Set aside by a rule</v-btn></template>
        <span class="soft small" :class="{ push: picked.size || ofCopies || aside || !mayWrite }" role="status">{{ count(total) }}</span>
      </div>
      <div class="entry names small soft" :style="{ gridTemplateColumns: grid }">
        <input v-if="!ofCopies" type="checkbox" :checked="picked.size > 0" :indeterminate.prop="picked.size > 0 && picked.size < total" aria-label="Pick all of this list" @click.prevent="pickAll" /><span v-else /><span class="num">Rank</span><span /><span>Title, authors, journal</span><span v-for="key in columns" :key="key" class="clip">{{ COLUMNS.find(([name_]) => name_ === key)?.[1] }}</span><span>{{ ofCopies ? 'From' : 'State' }}</span><span /><span />
      </div>
      <LongList ref="list" :load="load" :version="version" :row-height="50" :label="heading" :current="cursor" @total="total = $event">
        <template #row="{ row, index }">
          <div class="entry" :class="{ on: index === cursor || picked.has((row as Row).id) }" :style="{ gridTemplateColumns: grid }" @click="cursor = index">
            <input v-if="!ofCopies" type="checkbox" :checked="picked.has((row as Row).id)" :aria-label="`Pick ${(row as Row).title}`" @click.stop @change="pick((row as Row).id)" /><span v-else />
            <span class="soft num small">{{ (row as Row).rank ?? index + 1 }}</span>
            <VerdictMark :verdict="mark(row as Row)" :words="words(row as Row)" />
            <span class="what">
              <router-link class="clip read" :to="`/reviews/${review}/records/${(row as Row).id}`">{{ (row as Row).title || 'Untitled' }}</router-link>
              <span class="soft small clip">{{ people((row as Row).authors) || 'no authors' }} · {{ (row as Row).year ?? 'no year' }} · {{ (row as Row).journal || 'no journal' }}{{ (row as Row).has_abstract ? '' : ' · no abstract' }}</span>
            </span>
            <span v-for="key in columns" :key="key" class="small soft cell" :title="cell(row as Row, key)">{{ cell(row as Row, key) }}</span>
            <span class="small soft state">{{ (row as Row).origin || words(row as Row) }}</span>
            <router-link v-if="(row as Row).copies > 1" class="small" :to="`/reviews/${review}/match/groups?record=${(row as Row).id}`">{{ (row as Row).copies }} copies</router-link><span v-else />
            <v-btn v-if="mayWrite" :aria-pressed="(row as Row).seed" :aria-label="`Seed: ${(row as Row).title}`" @click.stop="seed(row as Row)">{{ (row as Row).seed ? 'Seed ✓' : 'Seed' }}</v-btn>
          </div>
        </template>
        <template #empty><div class="pad soft"><h2>This list is empty</h2><p>{{ narrowed ? 'No record fits the filter.' : 'Nothing stands here at the moment.' }}</p></div></template>
      </LongList>
    </section>
    <ExportDialog v-model="exporting" :wanted="wanted" :records="records" :total="picked.size || total" />
  </div>
</template>

<style scoped>
.found { max-width: 50%; color: var(--ks-soft); }
.whole { display: grid; grid-template-columns: minmax(0, 1fr); height: 100%; }
.whole.filtering { grid-template-columns: 240px minmax(0, 1fr); }
.list { display: grid; grid-template-rows: auto auto minmax(0, 1fr); overflow: hidden; }
.entry { display: grid; gap: 8px; padding: 4px 12px; align-items: center; height: 100%; }
.entry.names { height: auto; padding: 2px 22px 2px 12px; border-bottom: 1px solid var(--ks-hair); }
.what { display: grid; font-size: 14px; min-width: 0; }
.what a { color: var(--ks-ink); text-decoration: none; }
.what a:hover { text-decoration: underline; }
.state, .cell { display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; overflow-wrap: anywhere; }
.which { width: 210px; }
.find { width: 220px; }
.columns-menu { padding: 6px 12px; }
.choice { display: block; padding: 2px 0; }
.bar-head { flex-wrap: nowrap; }
</style>
