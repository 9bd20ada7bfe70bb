<script setup lang="ts">
// Studies and their values as a grid, beside it the report that the value in focus comes from.
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import FirstStep from '@/common/FirstStep.vue'
import { complain, say } from '@/common/messages'
import { useLeaving } from '@/common/leaving'
import { useReview } from '@/common/review'
import { toggled } from '@/common/some'
import StateOf from '@/common/StateOf.vue'
import CellPane from './CellPane.vue'
import ColumnMenu from './ColumnMenu.vue'
import Grid from './Grid.vue'
import PasteDialog from './PasteDialog.vue'
import TogetherList from './TogetherList.vue'
import UnfitList from './UnfitList.vue'
import { useAnswers } from './answers'
import { useEvidence, type Cell } from './evidence'
import { useSelection } from './grid'
import {
  columnsOf,
  FACTOR_NAMES,
  FACTORS,
  keyOf,
  levelsOf,
  placeAt,
  rowsOf,
  type Column,
  type Factor,
  type Place,
  type Row,
} from './layout'
import { useTableView } from './view'

const { review, path, figures, mayWrite } = useReview()
const route = useRoute()
const router = useRouter()
const evidence = useEvidence()
const { data } = evidence
const { error, isPending, refetch } = evidence.query
const { view, change } = useTableView()
const { data: proposals } = useQuery({
  queryKey: ['proposals', review],
  queryFn: () => got(GET('/api/reviews/{review}/proposals', { params: path.value })),
})
const proposed = computed(() => new Map((proposals.value?.cells ?? []).map((cell) => [keyOf(cell), cell])))

const words = computed(() => String(route.query.words ?? '').toLowerCase())
const sort = computed(() => String(route.query.sort ?? ''))
/** Values that are let through, by column: ?only=<column>~<value>~<value>, several. */
// as a text, so that nothing is worked out anew while it is the same
const letThrough = computed(() => JSON.stringify([route.query.only ?? []].flat()))
const only = computed(
  () => new Map((JSON.parse(letThrough.value) as string[]).map((one) => [one.split('~')[0]!, one.split('~').slice(1)])),
)
const leaving = useLeaving()
const setQuery = async (changes: Record<string, string | string[]>) =>
  leaving() ||
  router.replace({
    query: Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value?.length)),
  })

const items = computed(() => {
  const all = data.value?.items ?? []
  const rank = new Map(view.value.order.map((id, k) => [id, k]))
  const shown = all.filter((one) => !view.value.hidden.includes(one.id!))
  const sorted = [...shown].sort((a, b) => (rank.get(a.id!) ?? 1e6) - (rank.get(b.id!) ?? 1e6))
  const pinned = (item: (typeof all)[number]) => view.value.pinned.includes(item.id!)
  return [...sorted.filter(pinned), ...sorted.filter((one) => !pinned(one))]
})
const levels = computed(() => data.value?.levels ?? [])
const columns = computed(() => columnsOf(items.value, levels.value, view.value.rows))
const pinned = computed(() => columns.value.filter((column) => view.value.pinned.includes(column.item.id!)).length)

/** The values of a column in a study, over its rows. */
function valuesIn(rows: Row[], column: Column) {
  return rows.flatMap((row) => {
    const place = placeAt(row, column, levels.value)
    return place ? [evidence.value(place)] : []
  })
}
const textsIn = (rows: Row[], column: Column) => valuesIn(rows, column).map((one) => one?.shown ?? one?.text ?? '')
const grouped = computed(() => {
  const all = rowsOf(data.value?.studies ?? [], items.value, levels.value, view.value.rows)
  const byStudy = new Map<number, Row[]>()
  for (const row of all) byStudy.set(row.study.id, [...(byStudy.get(row.study.id) ?? []), row])
  return [...byStudy.values()]
})
const matching = computed(() => {
  const said = new Map<number, string>()
  if (words.value)
    for (const one of data.value?.values.values() ?? [])
      said.set(one.study, `${said.get(one.study) ?? ''} ${one.shown ?? ''} ${one.text}`)
  return grouped.value.filter((rows) => {
    const study = rows[0]!.study
    if (words.value && !`${study.label} ${said.get(study.id) ?? ''}`.toLowerCase().includes(words.value)) return false
    return columns.value.every((column) => {
      const wanted = only.value.get(column.key)
      return !wanted || textsIn(rows, column).some((one) => wanted.includes(one))
    })
  })
})
const rows = computed(() => {
  const [key, down] = [sort.value.replace(/^-/, ''), sort.value.startsWith('-')]
  const column = columns.value.find((column) => column.key === key)
  if (key !== 'study' && !column) return matching.value.flat()
  const compare = new Intl.Collator('en', { numeric: true }).compare
  const keyed = matching.value.map((some) => {
    const first = column ? valuesIn(some, column).find((one) => one?.text) : undefined
    return { some, text: column ? (first?.text ?? '') : some[0]!.study.label, number: first?.number }
  })
  keyed.sort((a, b) => {
    if (!a.text || !b.text) return a.text ? -1 : b.text ? 1 : 0
    const order =
      typeof a.number === 'number' && typeof b.number === 'number' ? a.number - b.number : compare(a.text, b.text)
    return down ? -order : order
  })
  return keyed.flatMap((one) => one.some)
})
const select = useSelection(
  computed(() => rows.value.length),
  computed(() => columns.value.length),
)
const grid = ref<InstanceType<typeof Grid> | null>(null)
const here = computed(() => {
  const [row, column] = [rows.value[select.at.row], columns.value[select.at.column]]
  return row && column ? placeAt(row, column, levels.value) : null
})
/** The cell in focus has an address, so that it can be sent to a colleague. */
const told = refDebounced(here, 150)
watch(told, (one) => {
  if (one) void setQuery({ cell: keyOf(one) })
})
function goTo(place: Place): boolean {
  const key = keyOf(place)
  for (const [r, row] of rows.value.entries()) {
    if (row.study.id !== place.study) continue
    for (const [c, column] of columns.value.entries()) {
      const at = column.item.id === place.item ? placeAt(row, column, levels.value) : null
      if (at && keyOf(at) === key) {
        select.go(r, c)
        grid.value?.focus()
        return true
      }
    }
  }
  return false
}
let arrived = false
watch(
  () => rows.value.length && columns.value.length,
  (ready) => {
    if (!ready || arrived) return
    arrived = true
    const [study, item, arm, outcome, time] = String(route.query.cell ?? '')
      .split(':')
      .map((one) => Number(one) || null)
    if (study && item) goTo({ study, item, arm, outcome, time })
  },
  { immediate: true },
)

const menu = ref<{ column: Column; at: HTMLElement } | null>(null)
const menuValues = computed((): [string, number][] => {
  if (!menu.value) return []
  const counts = new Map<string, number>()
  for (const some of grouped.value)
    for (const one of new Set(textsIn(some, menu.value.column))) counts.set(one, (counts.get(one) ?? 0) + 1)
  return [...counts].sort((a, b) => b[1] - a[1])
})
const filter = (column: Column, values: string[]) =>
  setQuery({
    only: [...only.value]
      .filter(([key]) => key !== column.key)
      .concat(values.length ? [[column.key, values]] : [])
      .map(([key, some]) => [key, ...some].join('~')),
  })
const filtered = computed(
  () => new Set(columns.value.filter((column) => only.value.has(column.key)).map((column) => column.item.id!)),
)
function moveColumn(item: number, by: number) {
  const order = items.value.map((item) => item.id!)
  const at = order.indexOf(item)
  const to = Math.max(0, Math.min(order.length - 1, at + by))
  order.splice(to, 0, order.splice(at, 1)[0]!)
  change({ order })
}
function sortBy(key: string) {
  void setQuery({ sort: sort.value === key ? `-${key}` : sort.value === `-${key}` ? '' : key })
}
const turn = (factor: Factor) =>
  change({
    rows: view.value.rows.includes(factor)
      ? view.value.rows.filter((row) => row !== factor)
      : [...view.value.rows, factor],
  })
const usedFactors = computed(() =>
  FACTORS.filter((factor) => (data.value?.items ?? []).some((item) => item.per?.includes(factor))),
)

const pasting = ref<{ cells: Cell[]; unfit: Schemas['NotTaken'][]; beyond: number } | null>(null)
const unfit = computed(() => [...(data.value?.values.values() ?? [])].filter((one) => one.unfit))
const showUnfit = computed(() => route.query.show === 'unfit')
const showTogether = computed(() => route.query.show === 'together')
const { data: pairs } = useQuery({
  queryKey: ['evidence', review, 'together'],
  queryFn: () => got(GET('/api/reviews/{review}/reports-together', { params: path.value })),
})

const answers = useAnswers()
async function accept(place: Place) {
  const offer = proposed.value.get(keyOf(place))
  if (!offer) return say('Nothing is proposed for this cell.')
  try {
    const { stroke } = await answers.accept([offer.proposal])
    say(`${offer.text} is taken as proposed.`, () => answers.takeBack(stroke), 'proposal')
    select.go(select.at.row + 1, select.at.column)
  } catch (failure) {
    complain(failure)
  }
  await answers.renewed()
}
/** Whether any cell is empty, by counting. */
const incomplete = computed(() => {
  const ids = new Set(items.value.map((item) => item.id))
  let filled = 0
  for (const one of data.value?.values.values() ?? []) if (!one.unfit && ids.has(one.item)) filled++
  const cells = (study: number) =>
    items.value.reduce(
      (sum, item) => sum + (item.per ?? []).reduce((n, factor) => n * levelsOf(levels.value, factor, study).length, 1),
      0,
    )
  return filled < (data.value?.studies ?? []).reduce((sum, study) => sum + cells(study.id), 0)
})
function nextEmpty() {
  const width = columns.value.length
  const start = select.at.row * width + select.at.column
  for (let k = 1; k <= rows.value.length * width; k++) {
    const at = (start + k) % (rows.value.length * width)
    const place = placeAt(rows.value[Math.floor(at / width)]!, columns.value[at % width]!, levels.value)
    if (place && !evidence.text(place)) {
      select.go(Math.floor(at / width), at % width)
      grid.value?.focus()
      return
    }
  }
  say('No value is empty.')
}
const finder = ref<HTMLElement | null>(null)
function keyed(event: KeyboardEvent) {
  if (!(event.ctrlKey || event.metaKey) || event.key !== 'f') return
  event.preventDefault()
  finder.value?.querySelector('input')?.focus()
}
const study = computed(() => data.value?.studies.find((study) => study.id === told.value?.study))
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <div ref="finder" class="filter">
        <TextField
          :model-value="String(route.query.words ?? '')"
          label="Find in the table"
          bare
          clearable
          @update:model-value="setQuery({ words: String($event ?? '') })"
        />
      </div>
      <v-menu :close-on-content-click="false">
        <template #activator="{ props }"
          ><v-btn v-bind="props"
            >Columns{{ view.hidden.length ? ` (${view.hidden.length} hidden)` : '' }}</v-btn
          ></template
        >
        <v-list aria-label="Columns" max-height="480">
          <v-list-item v-for="factor in usedFactors" :key="factor">
            <TickBox
              :model-value="view.rows.includes(factor)"
              :label="`${FACTOR_NAMES[factor][1]} as rows below their study`"
              @update:model-value="turn(factor)"
            />
          </v-list-item>
          <v-divider v-if="usedFactors.length" />
          <v-list-item v-for="item in data?.items" :key="item.id!">
            <div class="row">
              <TickBox
                :model-value="!view.hidden.includes(item.id!)"
                :label="item.name"
                @update:model-value="change({ hidden: toggled(view.hidden, item.id!) })"
              /><TickBox
                class="push"
                :model-value="view.pinned.includes(item.id!)"
                label="Pin"
                :aria-label="`Pin ${item.name}`"
                @update:model-value="change({ pinned: toggled(view.pinned, item.id!) })"
              />
            </div>
          </v-list-item>
        </v-list>
      </v-menu>
      <v-menu>
        <template #activator="{ props }"><v-btn v-bind="props">Download</v-btn></template>
        <v-list aria-label="Download"
          ><v-list-item title="CSV" :href="`/api/reviews/${review}/evidence.csv`" download /><v-list-item
            title="XLSX"
            :href="`/api/reviews/${review}/evidence.xlsx`"
            download /><v-list-item
            title="CSV, one value a row"
            subtitle="for statistics programs"
            :href="`/api/reviews/${review}/evidence-long.csv`"
            download
        /></v-list>
      </v-menu>
      <v-btn v-if="mayWrite && incomplete" class="main" @click="nextEmpty">Next empty value</v-btn>
    </Teleport>
    <div class="panes columns" :style="{ '--pane': `${view.pane}px` }" @keydown="keyed">
      <section class="pane whole">
        <div v-if="!data?.items.length" class="pad soft">
          <h2>The codebook is empty</h2>
          <FirstStep stage="Chart" />
        </div>
        <div v-else-if="!data.studies.length" class="pad soft">
          <h2>No study is included yet</h2>
          <p>
            Reports that the <router-link :to="`/reviews/${review}/screen/second`">second pass</router-link> includes
            appear here as studies.
          </p>
        </div>
        <UnfitList v-else-if="showUnfit" :evidence="evidence" :may-write="mayWrite" @close="setQuery({ show: '' })" />
        <TogetherList v-else-if="showTogether" :may-write="mayWrite" @close="setQuery({ show: '' })" />
        <Grid
          v-else
          ref="grid"
          :rows="rows"
          :columns="columns"
          :pinned="pinned"
          :widths="view.widths"
          :evidence="evidence"
          :select="select"
          :proposed="proposed"
          :sort="sort"
          :filtered="filtered"
          :may-write="mayWrite"
          @sort="sortBy"
          @menu="(column, at) => (menu = { column, at })"
          @accept="accept"
          @widen="(item, width) => change({ widths: { ...view.widths, [item]: width } })"
          @block="(cells, some, beyond) => (pasting = { cells, unfit: some, beyond })"
        />
        <p v-if="data?.items.length && data.studies.length" class="small soft foot">
          {{ count(figures.data.value?.charted ?? 0) }} of
          {{ plural(data.studies.length, 'study', 'studies') }} charted<template
            v-if="matching.length < data.studies.length"
            >, {{ matching.length }} shown
            <button class="link" @click="setQuery({ only: [], words: '' })">show all</button></template
          >
          <template v-if="proposals?.cells.length">
            ·
            <router-link :to="`/reviews/${review}/chart/proposals`"
              >{{ plural(proposals.cells.length, 'proposal') }} to look at</router-link
            ></template
          >
          <template v-if="pairs?.length">
            ·
            <button class="link" @click="setQuery({ show: 'together' })">
              {{ plural(pairs.length, 'pair') }} of reports may be one study
            </button></template
          >
          <template v-if="unfit.length">
            ·
            <button class="link odd" @click="setQuery({ show: 'unfit' })">
              {{ plural(unfit.length, 'value does', 'values do') }} not fit the codebook any more
            </button></template
          >
          · <kbd>Enter</kbd> edits, <kbd>Ctrl</kbd> <kbd>Enter</kbd> takes what is proposed
        </p>
      </section>
      <CellPane
        v-if="told && study && data"
        :place="told"
        :study="study"
        :evidence="evidence"
        :proposed="proposed.has(keyOf(told))"
        :may-write="mayWrite"
        :wide="view.pane"
        @accept="accept(told!)"
        @widen="change({ pane: $event })"
      />
      <aside v-else class="pane sheet pad soft small">
        Nothing is asked in this cell: its item is asked for other parts of the study.
      </aside>
    </div>
    <ColumnMenu
      v-if="menu"
      :key="menu.column.key"
      :column="menu.column"
      :at="menu.at"
      :sort="sort"
      :pinned="view.pinned.includes(menu.column.item.id!)"
      :values="menuValues"
      :wanted="only.get(menu.column.key) ?? []"
      @close="((menu = null), grid?.focus())"
      @sort="(key) => setQuery({ sort: key })"
      @filter="(values) => filter(menu!.column, values)"
      @pin="change({ pinned: toggled(view.pinned, menu.column.item.id!) })"
      @hide="change({ hidden: toggled(view.hidden, menu.column.item.id!) })"
      @move="(by) => moveColumn(menu!.column.item.id!, by)"
    />
    <PasteDialog
      v-if="pasting"
      :cells="pasting.cells"
      :unfit="pasting.unfit"
      :beyond="pasting.beyond"
      :evidence="evidence"
      @close="((pasting = null), grid?.focus())"
    />
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) minmax(300px, min(var(--pane), 62vw));
}
.whole {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  overflow: hidden;
}
.filter {
  width: 190px;
}
.foot {
  padding: 8px 10px;
  border-top: 1px solid var(--ks-hair);
}
</style>
