<script setup lang="ts">
// The search log: what was searched where and when, what it announced and what came.
import { useQuery } from '@tanstack/vue-query'
import { useDropZone } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got } from '@/api/client'
import { count, day, plural, SOURCE_KINDS } from '@/common/format'
import { useKeys } from '@/common/keys'
import { useReview } from '@/common/review'
import FirstStep from '@/common/FirstStep.vue'
import StateOf from '@/common/StateOf.vue'
import CatalogueRun from './CatalogueRun.vue'
import DropSheet from './DropSheet.vue'
import { useDropped } from './dropping'
import { arranged, explained, gapOf, gapWords, RUN_STATES, SORTS, type SortKey } from './log'
import SearchForm from './SearchForm.vue'

const { review, path, mayWrite } = useReview()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['searches', review],
  queryFn: () => got(GET('/api/reviews/{review}/searches', { params: path.value })),
  refetchInterval: (query) =>
    query.state.data?.some((one) => one.runs.some((run) => run.state === 'fetching')) ? 1500 : false,
})
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const chosen = computed(() => (route.query.search === 'new' ? 'new' : Number(route.query.search) || null))
const fetching = computed(() => route.query.fetch === 'new')
const entry = computed(() => data.value?.find((one) => one.id === chosen.value))
const words = ref('')
const by = computed(() => (SORTS.some(([key]) => key === route.query.by) ? (route.query.by as SortKey) : 'number'))
const down = computed(() => route.query.down === '1')
const shown = computed(() => arranged(data.value ?? [], words.value, by.value, down.value))
const sort = (key: SortKey) =>
  router.replace({ query: { ...route.query, by: key, down: by.value === key && !down.value ? '1' : undefined } })
const choose = (search: number | 'new' | undefined) =>
  router.push({ query: { ...route.query, fetch: undefined, search: search ? String(search) : undefined } })
const sums = computed(() => ({
  announced: (data.value ?? []).reduce((n, search) => n + (search.announced_in_all ?? 0), 0),
  imported: (data.value ?? []).reduce((n, search) => n + search.imported, 0),
  open: (data.value ?? []).filter((one) => one.difference && !explained(one)).length,
}))
const filterBox = ref<HTMLInputElement | null>(null)

// files dropped anywhere here, or chosen, become lines of a sheet
const dropped = useDropped(() => review.value)
const input = ref<HTMLInputElement | null>(null)
function chosenFiles() {
  void dropped.add(Array.from(input.value?.files ?? []))
  if (input.value) input.value.value = ''
}
const whole = ref<HTMLElement | null>(null)
const { isOverDropZone } = useDropZone(whole, {
  multiple: true,
  preventDefaultForUnhandled: true,
  onDrop: (files) => mayWrite.value && files && void dropped.add(files),
})
const anyDropped = computed(() => dropped.state.rows.length + dropped.state.looking.length > 0)
useKeys({
  f: () => filterBox.value?.focus(),
  n: () => mayWrite.value && choose('new'),
  u: () => mayWrite.value && input.value?.click(),
})
const downloads = [
  ['searches.csv', 'CSV'],
  ['searches.xlsx', 'XLSX'],
  ['search-appendix.docx', 'Search appendix, DOCX'],
  ['search-appendix.md', 'Search appendix, Markdown'],
] as const
</script>

<template>
  <div ref="whole" class="panes" :class="{ columns: chosen || fetching, over: isOverDropZone }">
    <Teleport to="#view-actions" defer>
      <input
        v-if="data?.length"
        ref="filterBox"
        v-model="words"
        class="box find"
        placeholder="Filter the log"
        aria-label="Filter the log"
      />
      <v-menu v-if="data?.length">
        <template #activator="{ props }"><v-btn v-bind="props">Download</v-btn></template>
        <v-list
          ><v-list-item
            v-for="[name, title] in downloads"
            :key="name"
            :href="`/api/reviews/${review}/${name}`"
            download
            >{{ title }}</v-list-item
          ></v-list
        >
      </v-menu>
      <template v-if="mayWrite">
        <v-btn :to="`/reviews/${review}/gather/one`">One record</v-btn>
        <v-btn v-if="catalogues?.length" @click="router.push({ query: { fetch: 'new' } })"
          >Fetch from a catalogue</v-btn
        >
        <v-btn @click="choose('new')">New search <kbd>N</kbd></v-btn>
        <v-btn :class="{ main: !anyDropped }" @click="input?.click()">Add files <kbd>U</kbd></v-btn>
      </template>
    </Teleport>
    <section class="pane sheet">
      <DropSheet v-if="anyDropped" :dropped="dropped" />
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="!data?.length" class="pad soft">
          <h2>The search log is empty</h2>
          <FirstStep stage="Gather" here>
            <p v-if="mayWrite" class="soft">
              Each file becomes a line in which you complete what it does not say; one key takes all in. Or write down a
              search first, as it was run.
            </p>
          </FirstStep>
        </div>
        <table v-else>
          <thead>
            <tr>
              <th
                v-for="[key, title, right] in SORTS"
                :key="key"
                :class="{ num: right }"
                :aria-sort="by === key ? (down ? 'descending' : 'ascending') : 'none'"
              >
                <button :class="{ sorted: by === key }" @click="sort(key)">
                  {{ title }}{{ by === key ? (down ? ' ↓' : ' ↑') : '' }}
                </button>
              </th>
              <th class="wide">Query as run</th>
              <th class="num">Files</th>
            </tr>
          </thead>
          <tbody v-for="one in shown" :key="one.id" :class="{ on: one.id === chosen }">
            <tr>
              <td class="num">{{ one.number }}</td>
              <td>
                <router-link :to="{ query: { ...route.query, fetch: undefined, search: String(one.id) } }"
                  ><b>{{ one.source }}</b></router-link
                >
                <div class="soft small">
                  {{ SOURCE_KINDS.find((kind) => kind.value === one.kind)?.title
                  }}{{ one.runs.length > 1 ? ` · ${one.runs.length} runs` : '' }}
                </div>
              </td>
              <td class="small nowrap">
                {{ one.run_on ? day(one.run_on) : '—' }}
                <div class="soft">{{ one.run_by }}</div>
              </td>
              <td class="num">
                {{
                  one.announced_in_all === null || one.announced_in_all === undefined
                    ? '—'
                    : count(one.announced_in_all)
                }}
              </td>
              <td class="num">
                <router-link
                  :to="`/reviews/${review}/records?list=search:${one.id}`"
                  :aria-label="`${count(one.imported)} copies of search ${one.number}`"
                  >{{ count(one.imported) }}</router-link
                >
              </td>
              <td v-if="one.waiting" class="small">
                <router-link class="odd" :to="`/reviews/${review}/gather/files?search=${one.id}`"
                  >{{ plural(one.waiting, 'file') }} to look at</router-link
                >
              </td>
              <td v-else class="small" :class="one.difference && !explained(one) ? 'odd' : 'soft'">
                {{ one.difference === null || one.difference === undefined ? '' : gapWords(one.difference) }}
                <div v-if="one.difference" class="clip note" :title="one.notes">
                  {{ one.notes || (explained(one) ? 'explained in a run' : 'not explained yet') }}
                </div>
              </td>
              <td>
                <div class="mono query">{{ one.query || '—' }}</div>
                <div v-if="one.limits" class="soft small query" :title="one.limits">{{ one.limits }}</div>
              </td>
              <td class="num">
                <router-link
                  :to="`/reviews/${review}/gather/files?search=${one.id}`"
                  :aria-label="`${one.files} files of search ${one.number}`"
                  >{{ one.files }}</router-link
                >
              </td>
            </tr>
            <template v-if="one.runs.length > 1 || one.runs.some((run) => run.state)">
              <tr v-for="run in one.runs" :key="run.id" class="run small soft">
                <td class="num">{{ one.number }}.{{ run.number }}</td>
                <td>
                  {{ run.catalogue ? `in ${run.catalogue}` : '' }}
                  <span :class="run.state === 'failed' ? 'bad' : ''"
                    >{{ RUN_STATES[run.state]
                    }}{{
                      run.state === 'fetching' || run.state === 'failed'
                        ? `, ${count(run.fetched)} of ${run.announced === null ? '?' : count(run.announced ?? 0)}`
                        : ''
                    }}</span
                  >
                </td>
                <td class="nowrap">{{ run.run_on ? day(run.run_on) : '—' }}</td>
                <td class="num">
                  {{ run.announced === null || run.announced === undefined ? '—' : count(run.announced) }}
                </td>
                <td class="num">
                  <router-link
                    :to="`/reviews/${review}/records?list=run:${run.id}`"
                    :aria-label="`${count(run.imported)} copies of run ${one.number}.${run.number}`"
                    >{{ count(run.imported) }}</router-link
                  >
                </td>
                <td>
                  <router-link :to="`/reviews/${review}/records?list=new:${run.id}`"
                    >{{ count(run.new) }} new</router-link
                  >{{ !run.catalogue && gapOf(run) ? `, ${gapWords(gapOf(run)!)}` : '' }}
                </td>
                <td class="mono clip run-query">{{ run.query === one.query ? '' : run.query }}</td>
                <td class="num">{{ run.files }}</td>
              </tr>
            </template>
          </tbody>
          <tfoot>
            <tr class="small">
              <td />
              <td class="soft">
                {{ plural(data.length, 'search', 'searches')
                }}{{ shown.length < data.length ? `, ${shown.length} shown` : '' }}
              </td>
              <td />
              <td class="num">{{ count(sums.announced) }}</td>
              <td class="num">
                <router-link
                  :to="`/reviews/${review}/records?list=found`"
                  :aria-label="`${count(sums.imported)} copies of all searches`"
                  >{{ count(sums.imported) }}</router-link
                >
              </td>
              <td :class="sums.open ? 'odd' : 'soft'">
                {{ sums.open ? `${plural(sums.open, 'difference')} open` : 'no difference open' }}
              </td>
              <td />
              <td />
            </tr>
          </tfoot>
        </table>
      </StateOf>
    </section>
    <aside v-if="fetching" class="pane pad">
      <CatalogueRun :searches="data ?? []" @close="router.push({ query: {} })" @begun="choose($event)" />
    </aside>
    <aside v-else-if="chosen" class="pane pad">
      <SearchForm :key="String(chosen)" :entry="entry" @close="choose(undefined)" @made="choose($event)" />
    </aside>
    <input
      ref="input"
      type="file"
      multiple
      class="unseen"
      tabindex="-1"
      aria-label="Files of any searches"
      @change="chosenFiles"
    />
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 408px;
}
.find {
  width: 150px;
}
.query {
  max-height: 36px;
  overflow: hidden;
  min-width: 140px;
}
.wide {
  width: 34%;
}
.nowrap {
  white-space: nowrap;
}
.note {
  max-width: 150px;
}
.run td {
  padding-top: 1px;
  padding-bottom: 3px;
}
.run-query {
  max-width: 240px;
}
th button {
  font-weight: 600;
  color: var(--ks-soft);
}
th button.sorted {
  color: var(--ks-ink);
}
tfoot td {
  border-bottom: 0;
  position: sticky;
  bottom: 0;
  background: var(--ks-sheet);
  border-top: 1px solid var(--ks-hair);
}
</style>
