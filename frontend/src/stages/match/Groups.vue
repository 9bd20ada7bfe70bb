<script setup lang="ts">
// Groups as a list with its filters; a group's copies side by side, a value chosen, a copy taken out, all with undo.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import TypedBox from '@/common/TypedBox.vue'
import CopyTable from './CopyTable.vue'
import type { Row } from './compare'

type Group = Schemas['Group']
const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const total = ref(0)
const raw = ref(false)
const text = (name: string) => String(route.query[name] ?? '')
const query = computed(() => ({
  how: (text('how') || undefined) as 'weights' | 'rule' | 'person' | undefined,
  source: text('source') || undefined,
  words: text('words') || undefined,
  within: text('within') ? text('within') === 'yes' : undefined,
  size: Number(text('size')) || undefined,
  below: text('below') && Number.isFinite(Number(text('below'))) ? Number(text('below')) : undefined,
  order: (['size', 'weakest', 'new', 'title'].includes(text('order')) ? text('order') : 'size') as
    'size' | 'weakest' | 'new' | 'title',
}))
const filtered = computed(() =>
  Object.entries(query.value).some(([name, value]) => value !== undefined && name !== 'order'),
)
const version = computed(() => `groups|${figures.data.value?.copies}|${JSON.stringify(query.value)}`)
const exported = computed(
  () =>
    `/api/reviews/${review.value}/groups/export?${new URLSearchParams(
      Object.entries(query.value)
        .filter(([, value]) => value !== undefined)
        .map(([name, value]) => [name, String(value)]),
    )}`,
)
const set = (changes: Record<string, string>) =>
  router.replace({
    query: {
      ...Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value)),
      ...('record' in changes ? {} : { record: undefined }),
    },
  })
const chosen = computed(() => Number(route.query.record) || null)
const { data: copies, error } = useQuery({
  queryKey: ['copies', review, chosen],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/records/{record}/copies', {
        params: { path: { review: review.value, record: chosen.value! } },
      }),
    ),
  enabled: computed(() => chosen.value !== null),
})
const { data: removed } = useQuery({
  queryKey: ['removed', review],
  queryFn: () => got(GET('/api/reviews/{review}/removed-copies', { params: path.value })),
})
const list = ref<{ at: (index: number) => Promise<Group | undefined> } | null>(null)
const choose = (record: number) => set({ record: String(record) })
async function counted(n: number) {
  total.value = n
  const first = chosen.value === null && n ? await list.value?.at(0) : undefined
  if (first && chosen.value === null) await choose(first.id)
}
async function load(offset: number, limit: number) {
  const page = await got(
    GET('/api/reviews/{review}/groups', { params: { ...path.value, query: { ...query.value, offset, limit } } }),
  )
  return { total: page.total, rows: page.groups }
}
const again = () => refresh('copies', 'figures', 'records', 'removed', 'people-said')
const deed = (copy: number, what: 'split' | 'unsplit') =>
  got(POST(`/api/reviews/{review}/copies/{copy}/${what}`, { params: { path: { review: review.value, copy } } }))
async function takeOut(copy: Schemas['Side']) {
  if (await attempt(() => deed(copy.id, 'split')))
    say('Taken out; it is a record of its own now.', async () => {
      await deed(copy.id, 'unsplit')
      await again()
    })
  await again()
}
async function takeApart() {
  await attempt(async () => {
    const n = copies.value?.copies.length
    const made = await got(
      POST('/api/reviews/{review}/records/{record}/apart', {
        params: { path: { review: review.value, record: chosen.value! } },
      }),
    )
    say(`Taken apart; they are ${n} records now.`, async () => {
      await got(POST('/api/reviews/{review}/rulings/take-back', { params: path.value, body: made }))
      await again()
    })
  })
  await again()
}
const owner = (field: string) => copies.value?.whose[field]
const unchoose = (choice: number) =>
  got(DELETE('/api/reviews/{review}/choices/{choice}', { params: { path: { review: review.value, choice } } }))
async function keep(copy: number, row: Row) {
  const has = copies.value?.copies.find((one) => one.id === copy)?.record
  const fields = row.fields.filter((field) => has?.[field as keyof typeof has])
  await attempt(async () => {
    const made: number[] = []
    for (const field of fields)
      made.push(
        (
          await got(
            POST('/api/reviews/{review}/copies/{copy}/choose', {
              params: { path: { review: review.value, copy } },
              body: { field },
            }),
          )
        ).id,
      )
    say('Kept; it stays so when other copies come.', async () => {
      for (const id of made) await unchoose(id)
      await again()
    })
  })
  await again()
}
async function undoChoice(choice: number) {
  await attempt(() => unchoose(choice))
  await again()
}
function how(group: Group): string {
  return [
    ...group.passes.map((name) => `pass “${name}”`),
    ...(group.by_weights ? ['weights'] : []),
    ...(group.by_person ? ['a person'] : []),
  ].join(', ')
}
function why(copy: number): string {
  const found = (copies.value?.rulings ?? []).filter(
    (ruling) => ruling.same && (ruling.left_copy === copy || ruling.right_copy === copy),
  )
  const rules = found
    .filter((one) => one.by_rule)
    .map((one) => `${one.how ? `pass “${one.how}”` : 'weights'} ${(one.score ?? 0).toFixed(1)}`)
  return [...new Set([...rules.slice(0, 2), ...found.filter((one) => !one.by_rule).map((one) => `by ${one.by}`)])].join(
    '; ',
  )
}
const SIZES = [
  ['', 'Any size'],
  ['3', '3 copies or more'],
  ['5', '5 or more'],
] as const
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <span v-if="removed" class="soft small"
        >Removed: {{ removed.by.map((one) => `${count(one.copies)} by ${one.by}`).join(', ') || 'none' }} ·
        {{ count(removed.within) }} within a source, {{ count(removed.between) }} between</span
      >
      <v-btn :href="exported" download>Export</v-btn>
    </Teleport>
    <section class="pane list">
      <div class="filters small" role="search" aria-label="Filter groups">
        <TypedBox
          class="box wide"
          :said="text('words')"
          placeholder="Words of the title"
          aria-label="Words of the title"
          @typed="(words) => set({ words })"
        />
        <select
          class="box"
          :value="text('how')"
          aria-label="Joined by"
          @change="set({ how: ($event.target as HTMLSelectElement).value })"
        >
          <option value="">Joined by any</option>
          <option value="weights">by the weights</option>
          <option value="rule">by a pass of the rule</option>
          <option value="person">by a person</option>
        </select>
        <select
          class="box"
          :value="text('within')"
          aria-label="Sources"
          @change="set({ within: ($event.target as HTMLSelectElement).value })"
        >
          <option value="">Any sources</option>
          <option value="no">between sources</option>
          <option value="yes">within one source</option>
        </select>
        <select
          class="box"
          :value="text('size')"
          aria-label="Size"
          @change="set({ size: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="[value, name] in SIZES" :key="value" :value="value">{{ name }}</option>
        </select>
        <select
          class="box"
          :value="query.order"
          aria-label="Order"
          @change="set({ order: ($event.target as HTMLSelectElement).value })"
        >
          <option value="size">largest first</option>
          <option value="weakest">weakest link first</option>
          <option value="new">newest first</option>
          <option value="title">by title</option>
        </select>
        <select
          class="box"
          :value="text('source')"
          aria-label="Source"
          @change="set({ source: ($event.target as HTMLSelectElement).value })"
        >
          <option value="">Any source</option>
          <option v-for="source in removed?.sources" :key="source.source" :value="source.source">
            {{ source.source }}
          </option>
        </select>
        <TypedBox
          class="box"
          :said="text('below')"
          inputmode="decimal"
          placeholder="Weakest link below"
          aria-label="Weakest link below"
          @typed="(below) => set({ below })"
        />
        <span class="soft"
          >{{ plural(total, 'group')
          }}<button v-if="filtered" class="link clear" @click="router.replace({ query: {} })">clear</button></span
        >
      </div>
      <LongList
        ref="list"
        class="rest"
        :load="load"
        :version="version"
        :row-height="56"
        label="Groups of copies"
        @total="counted"
      >
        <template #row="{ row }">
          <button class="group small" :class="{ on: (row as Group).id === chosen }" @click="choose((row as Group).id)">
            <span class="title">{{ (row as Group).title || 'Untitled' }}</span>
            <span class="soft clip" :title="(row as Group).sources.join(', ')"
              >{{ (row as Group).copies }} copies{{
                (row as Group).weakest === null ? '' : `, weakest link ${(row as Group).weakest!.toFixed(1)}`
              }}
              · {{ how(row as Group) }} · {{ (row as Group).sources.join(', ') }}</span
            >
          </button>
        </template>
        <template #empty
          ><div class="pad soft">
            <h2>{{ filtered ? 'No group is like that' : 'No copies were joined' }}</h2>
            <p>
              {{
                filtered
                  ? 'Clear the filter to see all groups.'
                  : 'Groups appear here as files are taken in and matched.'
              }}
            </p>
          </div></template
        >
      </LongList>
    </section>
    <section class="pane sheet" tabindex="0" aria-label="The group">
      <p v-if="!chosen" class="pad soft">Choose a group to see its copies, and to take out one that does not belong.</p>
      <p v-else-if="error" class="pad bad" role="alert">{{ (error as Error).message }}</p>
      <template v-else-if="copies">
        <div class="head">
          <b>{{ plural(copies.copies.length, 'copy', 'copies') }}</b><v-btn @click="raw = !raw"
            >{{ raw ? 'Hide' : 'Show' }} the files' own text</v-btn
          ><v-btn
            v-if="mayWrite && copies.copies.length > 1"
            title="All copies are different reports: each a record of its own"
            @click="takeApart"
            >Take all apart</v-btn
          ><router-link class="push small" :to="`/reviews/${review}/records/${chosen}`">The kept record</router-link>
        </div>
        <p v-for="conflict in copies.conflicts" :key="conflict" class="odd small line">
          {{ conflict }} <router-link :to="`/reviews/${review}/match/answers`">All such records</router-link>
        </p>
        <p v-for="copy in copies.related" :key="copy.ruling" class="small line">
          Another report of the same study, says {{ copy.by }}:
          <router-link :to="`/reviews/${review}/records/${copy.id}`">{{ copy.title }}</router-link> ({{
            copy.year ?? 'no year'
          }})
        </p>
        <CopyTable
          :copies="copies.copies"
          :kept="copies.kept"
          :owner="owner"
          :raw="raw"
          :choosable="mayWrite"
          :chosen="copies.chosen"
          @choose="keep"
          @unchoose="undoChoice"
        >
          <template #head="{ copy }">
            <div class="soft">{{ why(copy.id) }}</div>
            <v-btn
              v-if="mayWrite && copies.copies.length > 1"
              :aria-label="`Take out the copy from ${copy.origin}`"
              @click="takeOut(copy)"
              >Take out</v-btn
            >
          </template>
        </CopyTable>
        <p class="small soft pad">
          Tinted values are what the kept record says. “Keep this” beside another value lets it say that instead; a
          choice holds when other copies come, and goes with its copy when that is taken out.
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: 340px minmax(0, 1fr);
}
.list {
  overflow: hidden;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
}
.filters {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
  padding: 8px;
  border-bottom: 1px solid var(--ks-hair);
}
.filters .box {
  width: 100%;
}
.wide {
  grid-column: 1 / -1;
}
.clear {
  margin-left: 8px;
}
.group {
  display: grid;
  width: 100%;
  height: 100%;
  text-align: left;
  padding: 6px 12px;
  align-content: start;
  color: inherit;
}
.title {
  display: -webkit-box;
  -webkit-line-clamp: 1;
  -webkit-box-orient: vertical;
  overflow: hidden;
  font-size: 13px;
  line-height: 20px;
}
.line {
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
</style>
