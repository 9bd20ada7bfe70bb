<script setup lang="ts">
// One record, or copy, of a list: picking, rank, mark, what it is, the chosen columns, where it stands, copies, seed.
import { got, PUT, type Schemas } from '@/api/client'
import { KIND_WORDS, people, plain } from '@/common/format'
import { attempt } from '@/common/messages'
import VerdictMark from '@/common/VerdictMark.vue'

type Row = Schemas['Listed']
const props = defineProps<{
  row: Row
  review: number
  number: number
  columns: string[]
  ofCopies: boolean
  picked: boolean
  mayWrite: boolean
}>()
const emit = defineEmits<{ pick: []; seed: [seed: boolean] }>()

function cell(column: string): string {
  const value = props.row[column as keyof Row]
  return column === 'kind' ? (KIND_WORDS[props.row.kind] ?? props.row.kind) : plain(value, ', ')
}
async function seed() {
  const params = { path: { review: props.review, record: props.row.id } }
  const wanted = !props.row.seed
  if (await attempt(() => got(PUT('/api/reviews/{review}/records/{record}/seed', { params, body: { seed: wanted } }))))
    emit('seed', wanted)
}
</script>

<template>
  <input
    v-if="!ofCopies"
    type="checkbox"
    :checked="picked"
    :aria-label="`Pick ${row.title}`"
    @click.stop
    @change="emit('pick')"
  />
  <span v-else />
  <span class="soft num small">{{ row.rank ?? number }}</span>
  <VerdictMark :verdict="row.mark" :words="row.state" />
  <span class="what">
    <router-link class="clip read" :to="`/reviews/${review}/records/${row.id}`">{{
      row.title || 'Untitled'
    }}</router-link>
    <span class="soft small clip"
      >{{ people(row.authors) || 'no authors' }} · {{ row.year ?? 'no year' }} · {{ row.journal || 'no journal'
      }}{{ row.has_abstract ? '' : ' · no abstract' }}</span
    >
  </span>
  <span v-for="key in columns" :key="key" class="small soft two" :title="cell(key)">{{ cell(key) }}</span>
  <span class="small soft two">{{ row.origin || row.state }}</span>
  <router-link v-if="row.copies > 1" class="small" :to="`/reviews/${review}/match/groups?record=${row.id}`"
    >{{ row.copies }} copies</router-link
  ><span v-else />
  <v-btn v-if="mayWrite" :aria-pressed="row.seed" :aria-label="`Seed: ${row.title}`" @click.stop="seed">{{
    row.seed ? 'Seed ✓' : 'Seed'
  }}</v-btn>
</template>

<style scoped>
.what {
  display: grid;
  font-size: 14px;
  min-width: 0;
}
.what a {
  color: var(--ks-ink);
  text-decoration: none;
}
.what a:hover {
  text-decoration: underline;
}
.two {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
  overflow-wrap: anywhere;
}
</style>
