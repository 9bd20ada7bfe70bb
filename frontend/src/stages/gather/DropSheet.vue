<script setup lang="ts">
// Dropped files as lines of a sheet: what was understood of each, completed by hand, and all taken in with one key.
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { count, plural, SOURCE_KINDS } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh } from '@/common/review'
import type { Row, useDropped } from './dropping'

const props = defineProps<{ dropped: ReturnType<typeof useDropped> }>()
const refresh = useRefresh()
const { state, part, drop, forget, records, wrong, ready, takeAll, setAside, announced } = props.dropped

const COLUMNS = [
  { name: 'source', title: 'Source of', look: '', most: 200 },
  { name: 'kind', title: 'Kind of', look: '', most: 0 },
  { name: 'run_on', title: 'Date of', look: 'date', most: 10 },
  { name: 'announced', title: 'Announced for', look: 'num', most: 12 },
  { name: 'query', title: 'Query of', look: 'mono', most: 100_000 },
] as const
const body = ref<HTMLElement | null>(null)
const cell = (row: number, column: number) =>
  body.value?.querySelector<HTMLElement>(`[data-cell="${row}.${column}"]`) ?? null
function move(event: KeyboardEvent, row: number, column: number) {
  const down = event.key === 'ArrowDown' || (event.key === 'Enter' && !event.shiftKey)
  const up = event.key === 'ArrowUp' || (event.key === 'Enter' && event.shiftKey)
  if (event.ctrlKey || event.metaKey || event.altKey || (!down && !up)) return
  if (event.target instanceof HTMLSelectElement && event.key !== 'Enter') return
  const next = cell(row + (down ? 1 : -1), column)
  if (!next) return
  event.preventDefault()
  next.focus()
  if (next instanceof HTMLInputElement) next.select()
}
/** A block from a spreadsheet fills the cells from here to the right and down. */
function paste(event: ClipboardEvent, row: number, column: number) {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!/[\t\n]./.test(text)) return
  event.preventDefault()
  text
    .replace(/\r/g, '')
    .replace(/\n$/, '')
    .split('\n')
    .forEach((line, k) =>
      line.split('\t').forEach((value, m) => {
        const target = state.rows[row + k]
        const name = COLUMNS[column + m]?.name
        if (!target || !name) return
        const kind = SOURCE_KINDS.find((one) => one.title.toLowerCase() === value.trim().toLowerCase())
        if (name !== 'kind') target[name] = value.trim()
        else if (kind) target.kind = kind.value
      }),
    )
}
async function take() {
  if (!ready.value) return
  await attempt(async () => {
    const { records: taken, batches } = await takeAll()
    await refresh('searches', 'files', 'figures', 'records')
    if (taken)
      say(`${plural(taken, 'record')} of ${plural(batches.length, 'file')} are in.`, () =>
        Promise.all(batches.map(setAside)),
      )
  })
}
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    event.preventDefault()
    void take()
  }
})
const gap = (row: Row) => {
  const said = announced(row)
  return typeof said === 'number' ? records(row) - said : 0
}
const FATES = { looked: '', sending: 'being sent', reading: 'being read', in: 'in', failed: '' }
function leave() {
  const rows = state.rows
  state.rows = []
  state.looking = []
  say('The files are left out.', async () => (state.rows = rows))
}
</script>

<template>
  <section class="sheet-of-files" aria-label="Dropped files">
    <div v-if="state.rows.length" class="head">
      <b
        >{{
          plural(
            state.rows.reduce((n, row) => n + row.files.length, 0),
            'file',
          )
        }}
        of {{ plural(state.rows.length, 'search', 'searches') }}</b
      >
      <span class="soft small"
        >Complete what the files do not say. <kbd>↑</kbd> <kbd>↓</kbd> <kbd>Tab</kbd> move; a block from a spreadsheet
        can be pasted.</span
      >
      <span class="push row">
        <v-btn :disabled="state.taking" @click="leave">Leave them out</v-btn>
        <v-btn class="main" :disabled="!ready" @click="take">Take all in <kbd>Ctrl ⏎</kbd></v-btn>
      </span>
    </div>
    <p v-for="one in state.looking" :key="one.key" class="small looking" :role="one.failure ? 'alert' : 'status'">
      <template v-if="one.failure"
        ><span class="bad">{{ one.failure }}</span> <button class="link" @click="forget(one)">Close</button></template
      >
      <template v-else
        >{{ one.file.name }}: {{ one.share < 1 ? `${Math.round(one.share * 100)} % sent` : 'being read' }}</template
      >
    </p>
    <table v-if="state.rows.length">
      <thead>
        <tr>
          <th>Files of the search</th>
          <th class="num">Records</th>
          <th>Source</th>
          <th>Kind</th>
          <th>Run on</th>
          <th class="num">Announced</th>
          <th class="grow">Query as run</th>
          <th><span class="unseen">Actions</span></th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr v-for="(row, k) in state.rows" :key="row.key">
          <td>
            <div v-for="file in row.files" :key="file.key" class="small">
              <b>{{ file.file.name }}</b>
              <span class="soft">
                · {{ file.found?.format }}{{ file.found?.certainty === 'guess' ? ', a guess' : '' }},
                {{ count(file.found?.records ?? 0) }}</span
              >
              <span v-if="file.found && file.found.problems + file.found.odd" class="odd">
                · {{ count(file.found.problems + file.found.odd) }} to look at</span
              >
              <span v-if="FATES[file.fate]" class="pine" role="status"> · {{ FATES[file.fate] }}</span>
              <span v-if="file.failure" class="bad" role="alert"> · {{ file.failure }}</span>
              <button
                v-if="row.files.length > 1 && !state.taking"
                class="link"
                :aria-label="`A search of its own for ${file.file.name}`"
                @click="part(row, file)"
              >
                apart
              </button>
            </div>
          </td>
          <td class="num">
            {{ count(records(row)) }}
            <div v-if="gap(row)" class="odd small">
              {{ count(Math.abs(gap(row))) }} {{ gap(row) < 0 ? 'fewer' : 'more' }}
            </div>
          </td>
          <td v-for="(column, m) in COLUMNS" :key="column.name" :class="column.look">
            <select
              v-if="column.name === 'kind'"
              v-model="row.kind"
              class="box"
              :data-cell="`${k}.${m}`"
              :aria-label="`Kind of ${row.files[0]?.file.name}`"
              @keydown="move($event, k, m)"
            >
              <option v-for="one in SOURCE_KINDS" :key="one.value" :value="one.value">{{ one.title }}</option>
            </select>
            <input
              v-else
              v-model="row[column.name]"
              class="box"
              :class="[column.look, { lacking: column.name === 'source' && !row.source.trim() }]"
              :placeholder="column.name === 'run_on' ? 'YYYY-MM-DD' : ''"
              :inputmode="column.name === 'announced' ? 'numeric' : 'text'"
              :maxlength="column.most"
              :data-cell="`${k}.${m}`"
              :aria-label="`${column.title} ${row.files[0]?.file.name}`"
              @keydown="move($event, k, m)"
              @paste="paste($event, k, m)"
            />
            <div v-if="column.name === 'query' && wrong(row)" class="odd small">{{ wrong(row) }}</div>
          </td>
          <td>
            <button
              class="link"
              :disabled="state.taking"
              :aria-label="`Leave out ${row.files[0]?.file.name}`"
              @click="drop(row)"
            >
              ✕
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.sheet-of-files {
  border-bottom: 2px solid var(--ks-pine);
  background: var(--ks-sheet);
}
.looking {
  padding: 4px 16px;
}
.row {
  display: flex;
  gap: 8px;
}
td {
  vertical-align: top;
}
td .box {
  width: 100%;
  min-width: 110px;
}
td select.box {
  min-width: 158px;
}
td .date {
  min-width: 104px;
  width: 104px;
}
td .num {
  min-width: 72px;
  width: 80px;
}
td .mono {
  min-width: 150px;
}
.grow {
  width: 30%;
}
.lacking {
  border-color: var(--ks-copper);
}
.pine {
  color: var(--ks-pine);
}
</style>
