<script setup lang="ts">
// Every record of the review: what every figure opens. Found as one types, filtered with counts, picked,
// and then labelled, exported or set aside.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { count } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { useFilter } from '@/common/filter'
import ExportDialog from './ExportDialog.vue'
import Facets from '@/common/Facets.vue'
import TypedBox from '@/common/TypedBox.vue'
import { usePicking, type List } from './picking'
import RecordActions from './RecordActions.vue'
import RecordRow from './RecordRow.vue'
import { COLUMNS, rowGrid, useColumns } from './records'

type Row = Schemas['Listed']
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const router = useRouter()
const { filter, narrowed, query, set, clear } = useFilter({ list: 'all' })
const filtering = ref(false)
const exporting = ref(false)
const { columns, toggle } = useColumns()
const grid = computed(() => rowGrid(columns.value))

// the list
const total = ref(0)
const list = ref<List | null>(null)
const { dataUpdatedAt } = useQuery({ queryKey: ['records', review], queryFn: () => Date.now() })
const version = computed(() => `${review.value} ${JSON.stringify(query.value)}|${dataUpdatedAt.value}`)
const { data: named, error: unknown } = useQuery({
  queryKey: ['lists', review, computed(() => filter.value.list)],
  queryFn: () => {
    const params = { ...path.value, query: { list: filter.value.list } }
    return got(GET('/api/reviews/{review}/lists', { params }))
  },
  placeholderData: keepPreviousData,
  retry: false,
})
const heading = computed(() => (unknown.value ? 'No such list' : (named.value?.heading ?? '')))
const ofCopies = computed(() => named.value?.of_copies ?? false)
const aside = computed(() => named.value?.aside ?? false)
async function load(offset: number, limit: number) {
  const params = { ...path.value, query: { ...query.value, offset, limit } }
  const page = await got(GET('/api/reviews/{review}/records', { params }))
  return { total: page.total, rows: page.records }
}
const { data: facets } = useQuery({
  queryKey: ['records', review, 'divided', query],
  queryFn: () => got(GET('/api/reviews/{review}/records/divided', { params: { ...path.value, query: query.value } })),
  enabled: filtering,
  placeholderData: keepPreviousData,
})

// typing finds
const box = ref<InstanceType<typeof TypedBox> | null>(null)

// picking, and then
const { cursor, picked, pick, pickNone, move, here, restart } = usePicking(list, total)
watch(version, (now, before) => now.split('|')[0] !== before?.split('|')[0] && restart())
const records = computed(() => [...picked.value])
const actions = ref<InstanceType<typeof RecordActions> | null>(null)
async function pickAll() {
  if (picked.value.size) return pickNone()
  await attempt(async () => {
    const params = { ...path.value, query: query.value }
    picked.value = new Set(await got(GET('/api/reviews/{review}/records/ids', { params })))
  })
}
const ofLabel = computed(() => (filter.value.list.startsWith('label:') ? Number(filter.value.list.slice(6)) : 0))
async function removeLabel() {
  const params = { path: { review: review.value, label: ofLabel.value } }
  const said = heading.value
  if (await attempt(() => got(DELETE('/api/reviews/{review}/labels/{label}', { params })))) {
    say(`The label is removed: ${said}.`, async () => {
      await got(POST('/api/reviews/{review}/labels/{label}/back', { params }))
      await refresh('labels', 'lists', 'records')
    })
    await set({ list: 'all' })
  }
  await refresh('labels', 'lists', 'records')
}
const openPage = (row: Row) => router.push(`/reviews/${review.value}/records/${row.id}`)
const narrow = () => {
  const rule = { new: '1', query: filter.value.query || undefined }
  return router.push({ path: `/reviews/${review.value}/gather/narrowing`, query: rule })
}
const pickHere = () => here((one) => pick(one.id))
useKeys({
  f: () => (filtering.value = !filtering.value),
  '/': () => box.value?.focus(),
  ArrowDown: (event) => move(1, event.shiftKey),
  ArrowUp: (event) => move(-1, event.shiftKey),
  PageDown: () => move(12, false),
  PageUp: () => move(-12, false),
  ' ': pickHere,
  x: pickHere,
  a: pickAll,
  Enter: () => here(openPage),
  t: () => actions.value?.ask('label'),
  s: () => actions.value?.ask('aside'),
  e: () => (exporting.value = true),
  Escape: () => {
    actions.value?.stop()
    pickNone()
  },
})
</script>

<template>
  <div class="whole" :class="{ filtering }">
    <Teleport to="#view-actions" defer>
      <TypedBox
        ref="box"
        :said="filter.typed"
        class="box find"
        placeholder="Find in title, abstract, authors"
        aria-label="Find in title, abstract, authors"
        maxlength="300"
        @typed="(typed) => set({ typed })"
        @keydown.esc="($event.target as HTMLInputElement).blur()"
      />
      <select
        :value="filter.list"
        class="box which"
        aria-label="List"
        @change="set({ list: ($event.target as HTMLSelectElement).value })"
      >
        <option v-if="unknown" :value="filter.list">No such list</option>
        <option v-for="one in named?.offered" :key="one.value" :value="one.value">{{ one.title }}</option>
      </select>
      <v-btn :aria-expanded="filtering" @click="filtering = !filtering"
        >Filter{{ narrowed ? ` (${narrowed})` : '' }} <kbd>F</kbd></v-btn
      >
      <v-menu :close-on-content-click="false">
        <template #activator="{ props }"><v-btn v-bind="props">Columns</v-btn></template>
        <v-list class="columns-menu">
          <label v-for="[key, title] in COLUMNS" :key="key" class="choice">
            <input type="checkbox" :checked="columns.includes(key)" @change="toggle(key)" /> {{ title }}
          </label>
        </v-list>
      </v-menu>
      <v-btn :disabled="!total" @click="exporting = true">Export <kbd>E</kbd></v-btn>
    </Teleport>
    <Facets v-if="filtering" :filter="filter" :facets="facets ?? {}" :verdicts="!ofCopies" @set="set" @clear="clear" />
    <section class="pane sheet list">
      <div class="head bar-head">
        <RecordActions
          v-if="picked.size"
          ref="actions"
          :records="records"
          :label="ofLabel || Number(filter.label)"
          :aside="aside"
          @export="exporting = true"
          @none="pickNone"
        />
        <template v-else>
          <h2>{{ heading }}</h2>
          <span v-if="filter.query" class="mono clip found" :title="filter.query">found by {{ filter.query }}</span>
          <v-btn v-if="mayWrite && ofLabel" @click="removeLabel">Remove this label</v-btn>
          <v-btn v-if="mayWrite && !ofCopies && !aside" class="push" @click="narrow">Set aside by a rule</v-btn>
        </template>
        <span class="soft small" :class="{ push: picked.size || ofCopies || aside || !mayWrite }" role="status">{{
          count(total)
        }}</span>
      </div>
      <div class="entry names small soft" :style="{ gridTemplateColumns: grid }">
        <input
          v-if="!ofCopies"
          type="checkbox"
          :checked="picked.size > 0"
          :indeterminate.prop="picked.size > 0 && picked.size < total"
          aria-label="Pick all of this list"
          @click.prevent="pickAll"
        />
        <span v-else />
        <span class="num">Rank</span>
        <span />
        <span>Title, authors, journal</span>
        <span v-for="key in columns" :key="key" class="clip">{{ COLUMNS.find(([name]) => name === key)?.[1] }}</span>
        <span>{{ ofCopies ? 'From' : 'State' }}</span>
        <span />
        <span />
      </div>
      <LongList
        ref="list"
        :load="load"
        :version="version"
        :row-height="50"
        :label="heading"
        :current="cursor"
        @total="total = $event"
      >
        <template #row="{ row, index }: { row: Row; index: number }">
          <div
            class="entry"
            :class="{ on: index === cursor || picked.has(row.id) }"
            :style="{ gridTemplateColumns: grid }"
            @click="cursor = index"
          >
            <RecordRow
              :row="row"
              :review="review"
              :may-write="mayWrite"
              :number="index + 1"
              :columns="columns"
              :of-copies="ofCopies"
              :picked="picked.has(row.id)"
              @pick="pick(row.id)"
              @seed="row.seed = $event"
            />
          </div>
        </template>
        <template #empty>
          <div class="pad soft">
            <template v-if="unknown">
              <h2>There is no such list</h2>
              <p>{{ unknown.message }} <button class="link" @click="set({ list: 'all' })">All records</button></p>
            </template>
            <template v-else>
              <h2>This list is empty</h2>
              <p>{{ narrowed ? 'No record fits the filter.' : 'Nothing stands here at the moment.' }}</p>
            </template>
          </div>
        </template>
      </LongList>
    </section>
    <ExportDialog v-model="exporting" :wanted="query" :records="records" :total="picked.size || total" />
  </div>
</template>

<style scoped>
.found {
  max-width: 50%;
  color: var(--ks-soft);
}
.whole {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
}
.whole.filtering {
  grid-template-columns: 240px minmax(0, 1fr);
}
.list {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  overflow: hidden;
}
.entry {
  display: grid;
  gap: 8px;
  padding: 4px 12px;
  align-items: center;
  height: 100%;
}
.entry.names {
  height: auto;
  padding: 2px 22px 2px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.which {
  width: 210px;
}
.find {
  width: 220px;
}
.columns-menu {
  padding: 6px 12px;
}
.choice {
  display: block;
  padding: 2px 0;
}
.bar-head {
  flex-wrap: nowrap;
}
</style>
