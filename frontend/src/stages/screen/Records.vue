<script setup lang="ts">
// Any list of records: what every figure opens.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { GET, got, PUT, type Schemas } from '@/api/client'
import { count, FULL_TEXT_WORDS, people } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt } from '@/common/messages'
import { useReview } from '@/common/review'
import VerdictMark from '@/common/VerdictMark.vue'
import FilterBar from './FilterBar.vue'
import { useFilter } from './filter'

const { review, path, mayWrite } = useReview()

const { filter, narrowed, query, set, clear } = useFilter({ list: 'all' })
const filtering = ref(false)
const total = ref(0)
const { dataUpdatedAt } = useQuery({ queryKey: ['records', review], queryFn: () => Date.now() })
const version = computed(() => `${review.value} ${JSON.stringify(query.value)}|${dataUpdatedAt.value}`)

const LISTS: [string, string][] = [
  ['all', 'All records'], ['open', 'To be decided'], ['unsure', 'Unsure'], ['excluded', 'Excluded in the first pass'], ['sought', 'Full texts sought'], ['waiting', 'Full texts still sought'],
  ['missing', 'Full texts not obtained'], ['assessed', 'Full texts assessed'], ['reports_excluded', 'Full texts excluded'], ['included', 'Included reports'], ['seeds', 'Seeds'], ['found', 'All copies, as found'], ['copies', 'Copies removed'],
]
const names: Record<string, string> = { ...Object.fromEntries(LISTS), decided: 'Decided in the first pass', studies: 'Reports of included studies', second_open: 'Full texts still to be decided', not_seeds: 'Records that are no seeds' }
const heading = computed(() => {
  const [key, ...rest] = filter.value.list.split(':')
  const more = rest.join(':').replace(/:?(main|other)$/, (_, route: string) => (route === 'main' ? ' from databases and registers' : ' from other methods'))
  if (key === 'reason') return `Full texts excluded: ${more}`
  if (key === 'source') return `Copies from ${more}`
  if (key === 'kind') return `Copies from sources of the kind “${more}”`
  if (key === 'search') return 'Copies of one search'
  if (key === 'batch') return 'Copies of one file'
  return (names[key ?? ''] ?? filter.value.list) + more
})
const items = computed(() => (LISTS.some(([key]) => key === filter.value.list) ? LISTS : [[filter.value.list, heading.value] as [string, string], ...LISTS]).map(([value, title]) => ({ value, title })))
const ofCopies = computed(() => /^(found|copies|source|kind|search|batch)/.test(filter.value.list))
const second = computed(() => /^(assessed|reports|included|studies|second|reason)/.test(filter.value.list))
async function load(offset: number, limit: number) {
  const page = await got(GET('/api/reviews/{review}/records', { params: { ...path.value, query: { ...query.value, pass_number: second.value ? 2 : 1, offset, limit } } }))
  return { total: page.total, rows: page.records }
}
async function seed(it: Schemas['Listed']) {
  if (await attempt(() => got(PUT('/api/reviews/{review}/records/{record}/seed', { params: { path: { review: review.value, record: it.id } }, body: { seed: !it.seed } })))) it.seed = !it.seed
}
const words = (it: Schemas['Listed']) => {
  if (it.first !== 'include') return it.first === 'exclude' ? `excluded${it.reason ? `: ${it.reason}` : ''}` : it.first === 'unsure' ? 'unsure' : 'not decided'
  if (it.fulltext !== 'obtained') return `full text ${FULL_TEXT_WORDS[it.fulltext]?.toLowerCase()}`
  return it.second === 'include' ? 'included' : it.second === 'exclude' ? `full text excluded${it.reason ? `: ${it.reason}` : ''}` : 'full text to be decided'
}
const mark = (it: Schemas['Listed']) => (it.first === 'include' && it.fulltext === 'obtained' && it.second !== 'open' ? it.second : it.first)
useKeys({ f: () => (filtering.value = !filtering.value) })
</script>

<template>
  <div class="whole" :class="{ filtering }">
    <Teleport to="#view-actions" defer>
      <v-select :model-value="filter.list" :items="items" aria-label="List" class="which" @update:model-value="set({ list: $event })" />
      <v-btn :aria-expanded="filtering" @click="filtering = !filtering">Filter{{ narrowed ? ` (${narrowed})` : '' }} <kbd>F</kbd></v-btn>
    </Teleport>
    <FilterBar v-if="filtering" :filter="filter" :verdicts="!ofCopies" @set="set" @clear="clear" />
    <section class="pane sheet list">
      <div class="head"><h2>{{ heading }}</h2><span v-if="filter.query" class="mono clip found" :title="filter.query">found by {{ filter.query }}</span><span class="soft small push" role="status">{{ count(total) }}</span></div>
      <LongList :load="load" :version="version" :row-height="50" :label="heading" @total="total = $event">
        <template #row="{ row, index }">
          <div class="entry">
            <span class="soft num small">{{ (row as Schemas['Listed']).rank ?? index + 1 }}</span>
            <VerdictMark :verdict="mark(row as Schemas['Listed'])" :words="words(row as Schemas['Listed'])" />
            <span class="what">
              <router-link class="clip read" :to="`/reviews/${review}/screen${second ? '/second' : ''}?record=${(row as Schemas['Listed']).id}`">{{ (row as Schemas['Listed']).title || 'Untitled' }}</router-link>
              <span class="soft small clip">{{ people((row as Schemas['Listed']).authors) || 'no authors' }} · {{ (row as Schemas['Listed']).year ?? 'no year' }} · {{ (row as Schemas['Listed']).journal || 'no journal' }}{{ (row as Schemas['Listed']).has_abstract ? '' : ' · no abstract' }}</span>
            </span>
            <span class="small soft state">{{ (row as Schemas['Listed']).origin || words(row as Schemas['Listed']) }}</span>
            <router-link v-if="(row as Schemas['Listed']).copies > 1" class="small" :to="`/reviews/${review}/match/groups?record=${(row as Schemas['Listed']).id}`">{{ (row as Schemas['Listed']).copies }} copies</router-link><span v-else />
            <v-btn v-if="mayWrite" :aria-pressed="(row as Schemas['Listed']).seed" :aria-label="`Seed: ${(row as Schemas['Listed']).title}`" @click="seed(row as Schemas['Listed'])">{{ (row as Schemas['Listed']).seed ? 'Seed ✓' : 'Seed' }}</v-btn>
          </div>
        </template>
        <template #empty><div class="pad soft"><h2>This list is empty</h2><p>{{ narrowed ? 'No record fits the filter.' : 'Nothing stands here at the moment.' }}</p></div></template>
      </LongList>
    </section>
  </div>
</template>

<style scoped>
.found { max-width: 60%; color: var(--ks-soft); }
.whole { display: grid; grid-template-rows: minmax(0, 1fr); height: 100%; }
.whole.filtering { grid-template-rows: auto minmax(0, 1fr); }
.list { display: grid; grid-template-rows: auto minmax(0, 1fr); overflow: hidden; }
.entry { display: grid; grid-template-columns: 44px 16px minmax(0, 1fr) 240px 64px 76px; gap: 8px; padding: 4px 12px; align-items: center; height: 100%; }
.what { display: grid; font-size: 14px; min-width: 0; }
.what a { color: var(--ks-ink); text-decoration: none; }
.what a:hover { text-decoration: underline; }
.state { display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; }
.which { width: 260px; }
</style>
