<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, people, place } from '@/common/format'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const total = ref(0)
const version = computed(() => `groups|${figures.data.value?.copies}`)
const chosen = computed(() => Number(route.query.record) || null)
const { data: copies, error } = useQuery({
  queryKey: ['copies', review, chosen],
  queryFn: () => got(GET('/api/reviews/{review}/records/{record}/copies', { params: { path: { review: review.value, record: chosen.value! } } })),
  enabled: computed(() => chosen.value !== null),
})
const list = ref<{ at: (index: number) => Promise<Schemas['Group'] | undefined> } | null>(null)
const choose = (record: number) => router.replace({ query: { record: String(record) } })
async function counted(n: number) {
  total.value = n
  const first = chosen.value === null && n ? await list.value?.at(0) : undefined
  if (first && chosen.value === null) await choose(first.id)
}
async function load(offset: number, limit: number) {
  const page = await got(GET('/api/reviews/{review}/groups', { params: { ...path.value, query: { offset, limit } } }))
  return { total: page.total, rows: page.groups }
}
const deed = (copy: number, what: 'split' | 'unsplit') => got(POST(`/api/reviews/{review}/copies/{copy}/${what}`, { params: { path: { review: review.value, copy } } }))
async function takeOut(copy: Schemas['Side']) {
  if (await attempt(() => deed(copy.id, 'split'))) say('Taken out; it is a record of its own now.', () => deed(copy.id, 'unsplit'))
  await refresh('copies', 'figures', 'records')
}
function why(copy: number): string {
  const found = (copies.value?.rulings ?? []).filter((it) => it.same && (it.left_copy === copy || it.right_copy === copy))
  const weights = found.filter((it) => it.by_rule).map((it) => it.score ?? 0)
  const [least, most] = [Math.min(...weights).toFixed(1), Math.max(...weights).toFixed(1)]
  const rule = weights.length ? [least === most ? `by rule, weight ${least}` : `by rule, weights ${least} to ${most}`] : []
  return [...rule, ...new Set(found.filter((it) => !it.by_rule).map((it) => `by ${it.by}`))].join('; ')
}
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer><span class="soft small">{{ count(total) }} records have more than one copy</span></Teleport>
    <section class="pane">
      <LongList ref="list" :load="load" :version="version" :row-height="56" label="Groups of copies" @total="counted">
        <template #row="{ row }">
          <button class="group small" :class="{ on: (row as Schemas['Group']).id === chosen }" @click="choose((row as Schemas['Group']).id)">
            <span class="title">{{ (row as Schemas['Group']).title || 'Untitled' }}</span>
            <span class="soft clip">{{ (row as Schemas['Group']).copies }} copies · {{ (row as Schemas['Group']).sources.join(', ') }}{{ (row as Schemas['Group']).by_person ? ' · a person joined' : '' }}</span>
          </button>
        </template>
        <template #empty><div class="pad soft"><h2>No copies were joined</h2><p>Groups appear here as files are taken in and matched.</p></div></template>
      </LongList>
    </section>
    <section class="pane sheet">
      <p v-if="!chosen" class="pad soft">Choose a group to see its copies, and to take out one that does not belong.</p>
      <p v-else-if="error" class="pad bad" role="alert">{{ (error as Error).message }}</p>
      <template v-else-if="copies">
        <div class="head"><b>{{ copies.copies.length }} {{ copies.copies.length === 1 ? 'copy' : 'copies' }}</b><router-link class="push small" :to="`/reviews/${review}/screen?record=${chosen}`">The kept record</router-link></div>
        <table>
          <thead><tr><th>Copy</th><th>Reference</th><th>Joined</th><th>Gave the kept record</th><th><span class="unseen">Actions</span></th></tr></thead>
          <tbody>
            <tr v-for="it in copies.copies" :key="it.id">
              <td class="small">{{ it.origin }}</td>
              <td class="read">{{ it.record.title }}<div class="soft small">{{ people(it.record.authors, 6) }} · {{ it.record.journal }} · {{ it.record.year ?? 'no year' }} · {{ place(it.record) }} {{ it.record.doi }}</div></td>
              <td class="small">{{ why(it.id) }}</td>
              <td class="small soft">{{ Object.entries(copies.whose).filter(([, owner]) => owner === it.id).map(([field]) => field.replace('_', ' ')).join(', ') }}</td>
              <td class="num"><v-btn v-if="mayWrite && copies.copies.length > 1" :aria-label="`Take out the copy from ${it.origin}`" @click="takeOut(it)">Take out</v-btn></td>
            </tr>
          </tbody>
        </table>
      </template>
    </section>
  </div>
</template>

<style scoped>
.columns { grid-template-columns: 340px minmax(0, 1fr); }
.pane:first-child { overflow: hidden; }
.group { display: grid; width: 100%; height: 100%; text-align: left; padding: 6px 12px; align-content: start; color: inherit; }
.title { display: -webkit-box; -webkit-line-clamp: 1; -webkit-box-orient: vertical; overflow: hidden; font-size: 13px; line-height: 20px; }
</style>
