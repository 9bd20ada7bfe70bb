<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, PUT, Refusal, type Schemas } from '@/api/client'
import { count } from '@/common/format'
import { choose } from '@/common/late'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import FirstStep from '@/common/FirstStep.vue'
import StateOf from '@/common/StateOf.vue'
import CellPane from './CellPane.vue'
import { asClipboard, cellsOf, useSelection } from './grid'

const ROW = 31
const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['evidence', review],
  queryFn: () => got(GET('/api/reviews/{review}/evidence', { params: path.value })),
})

const list = (key: string) =>
  computed(() =>
    String(route.query[key] ?? '')
      .split(',')
      .filter(Boolean)
      .map(Number),
  )
const hidden = list('hide')
const pinned = list('pin')
const sort = computed(() => String(route.query.sort ?? ''))
const words = computed(() => String(route.query.words ?? '').toLowerCase())
const setQuery = (changes: Record<string, string>) =>
  router.replace({
    query: Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value)),
  })
const toggled = (from: number[], id: number) =>
  (from.includes(id) ? from.filter((it) => it !== id) : [...from, id]).join(',')

const columns = computed(() => {
  const shown = (data.value?.items ?? []).filter((it) => !hidden.value.includes(it.id!))
  return [
    ...shown.filter((it) => pinned.value.includes(it.id!)),
    ...shown.filter((it) => !pinned.value.includes(it.id!)),
  ]
})
const numeric = (kind: string) => kind === 'number' || kind === 'events' || kind === 'date'
const textOf = (study: Schemas['Study'], item: Schemas['Item']) => study.values[String(item.id!)]?.text ?? ''
const rows = computed(() => {
  let found = (data.value?.studies ?? []).filter(
    (it) =>
      !words.value ||
      [it.label, ...Object.values(it.values).map((value) => value.text)].join(' ').toLowerCase().includes(words.value),
  )
  const [key, down] = [sort.value.replace(/^-/, ''), sort.value.startsWith('-')]
  const item = data.value?.items.find((it) => String(it.id) === key)
  if (key === 'study' || item) {
    const value = (study: Schemas['Study']) => (item ? textOf(study, item) : study.label)
    const compare = new Intl.Collator('en', { numeric: true }).compare
    found = [...found].sort((a, b) => {
      const [x, y] = [value(a), value(b)]
      if (!x || !y) return x ? -1 : y ? 1 : 0
      const order = item && item.kind === 'number' ? Number(x) - Number(y) : compare(x, y)
      return down ? -order : order
    })
  }
  return found
})
function sortBy(key: string) {
  void setQuery({ sort: sort.value === key ? `-${key}` : sort.value === `-${key}` ? '' : key })
}

const box = ref<HTMLElement | null>(null)
const select = useSelection(
  computed(() => rows.value.length),
  computed(() => columns.value.length),
)
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => box.value,
    estimateSize: () => ROW,
    overscan: 16,
    paddingStart: ROW,
  })),
)
const inSight = computed(() => virtual.value.getVirtualItems())
const above = computed(() => (inSight.value[0]?.start ?? ROW) - ROW)
const below = computed(() => virtual.value.getTotalSize() - (inSight.value.at(-1)?.end ?? 0))
const cell = computed(() => {
  const [study, item] = [rows.value[select.at.row], columns.value[select.at.column]]
  return study && item ? { study, item } : null
})
watch(
  () => [select.at.row, select.at.column],
  async () => {
    virtual.value.scrollToIndex(select.at.row, { align: 'auto' })
    await nextTick()
    box.value?.querySelector('[data-current]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  },
)

const draft = ref<string | null>(null)
/** What stood in the cell when the typing began. */
const stood = ref('')
const wrong = reactive(new Map<string, { text: string; message: string }>())
const key = (study: number, item: number) => `${study}:${item}`
async function edit(text?: string) {
  if (!cell.value || !mayWrite.value) return
  const typed = wrong.get(key(cell.value.study.id, cell.value.item.id!))?.text
  stood.value = textOf(cell.value.study, cell.value.item)
  draft.value = text ?? typed ?? stood.value
  await nextTick()
  box.value?.querySelector<HTMLInputElement>('td input')?.focus()
}
type Cell = Schemas['Cell']
async function write(cells: Cell[], undoable = true) {
  if (!cells.length) return
  const before = cells.map((it) => {
    const value = data.value?.studies.find((study) => study.id === it.study)?.values[String(it.item)]
    return { study: it.study, item: it.item, text: value?.text ?? '' }
  })
  try {
    const refused = await got(PUT('/api/reviews/{review}/evidence/values', { params: path.value, body: cells }))
    for (const it of cells) wrong.delete(key(it.study, it.item))
    const overtaken = refused.filter((it) => it.theirs !== null && it.theirs !== undefined)
    if (overtaken.length) ask(overtaken, cells)
    for (const it of refused.filter((it) => !overtaken.includes(it)))
      wrong.set(key(it.study, it.item), {
        text: cells.find((other) => other.study === it.study && other.item === it.item)!.text,
        message: it.message,
      })
    if (overtaken.length) await refresh('evidence')
    else if (refused.length)
      say(
        `${refused.length === 1 ? refused[0]!.message : `${refused.length} values do not fit their item; they are marked and not saved.`}`,
      )
    else if (undoable && cells.length > 1) say(`${cells.length} values written.`, () => write(before, false))
  } catch (failure) {
    for (const it of cells) wrong.set(key(it.study, it.item), { text: it.text, message: 'Not saved' })
    complain(failure)
  }
  await refresh('evidence', 'figures', 'cell')
}
/** Cells that somebody else changed while these were typed: both are shown, and one is chosen. */
function ask(overtaken: Schemas['NotTaken'][], cells: Cell[]) {
  const mine = cells.filter((it) => overtaken.some((other) => other.study === it.study && other.item === it.item))
  const theirs = (it: Cell) => overtaken.find((other) => other.study === it.study && other.item === it.item)!.theirs!
  const name = (it: Cell) =>
    `${data.value?.studies.find((study) => study.id === it.study)?.label}: ${data.value?.items.find((item) => item.id === it.item)?.name}`
  const message =
    overtaken.length === 1 ? overtaken[0]!.message : `${overtaken.length} cells were changed by others meanwhile.`
  choose(
    message,
    mine.map((it) => ({ what: name(it), theirs: theirs(it) || 'empty', yours: it.text || 'empty' })),
    () => write(mine.map((it) => ({ ...it, seen: theirs(it) }))),
    () => undefined,
  )
}
function commit(downwards: number, sideways: number) {
  const [text, here] = [draft.value, cell.value]
  draft.value = null
  if (text !== null && here && text !== stood.value)
    void write([{ study: here.study.id, item: here.item.id!, text, seen: stood.value }])
  select.go(select.at.row + downwards, select.at.column + sideways)
  box.value?.focus()
}
function editing(event: KeyboardEvent) {
  event.stopPropagation()
  if (event.key === 'Escape') {
    draft.value = null
    if (cell.value) wrong.delete(key(cell.value.study.id, cell.value.item.id!))
    box.value?.focus()
  } else if (event.key === 'Enter') commit(event.shiftKey ? -1 : 1, 0)
  else if (event.key === 'Tab') {
    event.preventDefault()
    commit(0, event.shiftKey ? -1 : 1)
  }
}
function pressed(event: KeyboardEvent) {
  if (draft.value !== null || event.target !== box.value) return
  if (select.moved(event)) event.preventDefault()
  else if (event.ctrlKey || event.metaKey || event.altKey) return
  else if (event.key === 'Enter' || event.key === 'F2') {
    event.preventDefault()
    void edit()
  } else if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    void clearRange()
  } else if (event.key.length === 1) {
    event.preventDefault()
    void edit(event.key)
  }
}
function* chosen() {
  const { top, bottom, left, right } = select.range.value
  for (let r = top; r <= bottom; r++)
    for (let c = left; c <= right; c++) yield { study: rows.value[r]!, item: columns.value[c]! }
}
const clearRange = () =>
  mayWrite.value &&
  write(
    [...chosen()]
      .filter((it) => textOf(it.study, it.item))
      .map((it) => ({ study: it.study.id, item: it.item.id!, text: '' })),
  )
function copy(event: ClipboardEvent) {
  if (draft.value !== null || !rows.value.length) return
  const { top, bottom, left, right } = select.range.value
  event.clipboardData?.setData(
    'text/plain',
    asClipboard(
      rows.value
        .slice(top, bottom + 1)
        .map((study) => columns.value.slice(left, right + 1).map((item) => textOf(study, item))),
    ),
  )
  event.preventDefault()
}
function paste(event: ClipboardEvent) {
  if (draft.value !== null || !mayWrite.value) return
  event.preventDefault()
  const block = cellsOf(event.clipboardData?.getData('text/plain') ?? '')
  const { top, left, bottom, right } = select.range.value
  const one = block.length === 1 && block[0]!.length === 1
  const [height, width] = one
    ? [bottom - top + 1, right - left + 1]
    : [block.length, Math.max(...block.map((row) => row.length))]
  const cells: Cell[] = []
  let beyond = 0
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const [study, item] = [rows.value[top + r], columns.value[left + c]]
      const text = one ? block[0]![0]! : block[r]?.[c]
      if (text === undefined) continue
      if (study && item) cells.push({ study: study.id, item: item.id!, text })
      else beyond++
    }
  void write(cells)
  if (beyond)
    complain(
      new Refusal(
        `${beyond} values lie beyond the table and were not pasted. Add studies or items for them first.`,
        422,
      ),
    )
  select.go(top, left)
  select.go(top + height - 1, left + width - 1, true)
}
function nextEmpty() {
  const width = columns.value.length
  const start = select.at.row * width + select.at.column
  for (let k = 1; k <= rows.value.length * width; k++) {
    const at = (start + k) % (rows.value.length * width)
    const [study, item] = [rows.value[Math.floor(at / width)]!, columns.value[at % width]!]
    if (!textOf(study, item)) {
      select.go(Math.floor(at / width), at % width)
      box.value?.focus()
      return
    }
  }
  say('No value is empty.')
}
const stickyLeft = (k: number) => 150 + k * 140
const isPinned = (item: Schemas['Item']) => pinned.value.includes(item.id!)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <TextField
        :model-value="String(route.query.words ?? '')"
        label="Filter studies"
        bare
        class="filter"
        clearable
        @update:model-value="setQuery({ words: String($event ?? '') })"
      />
      <v-menu :close-on-content-click="false">
        <template #activator="{ props }"
          ><v-btn v-bind="props">Columns{{ hidden.length ? ` (${hidden.length} hidden)` : '' }}</v-btn></template
        >
        <v-list aria-label="Columns">
          <v-list-item v-for="it in data?.items" :key="it.id!">
            <div class="row">
              <TickBox
                :model-value="!hidden.includes(it.id!)"
                :label="it.name"
                @update:model-value="setQuery({ hide: toggled(hidden, it.id!) })"
              /><TickBox
                class="push"
                :model-value="isPinned(it)"
                label="Pin"
                :aria-label="`Pin ${it.name}`"
                @update:model-value="setQuery({ pin: toggled(pinned, it.id!) })"
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
            download
        /></v-list>
      </v-menu>
      <v-btn v-if="mayWrite && rows.length && columns.length" class="main" @click="nextEmpty">Next empty value</v-btn>
    </Teleport>
    <div class="panes columns">
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
        <div
          v-else
          ref="box"
          class="grid sheet"
          role="grid"
          tabindex="0"
          aria-label="Evidence table"
          :aria-rowcount="rows.length + 1"
          :aria-colcount="columns.length + 1"
          :aria-activedescendant="cell ? `cell-${select.at.row}-${select.at.column}` : undefined"
          @keydown="pressed"
          @copy="copy"
          @paste="paste"
        >
          <table role="presentation">
            <thead role="rowgroup">
              <tr role="row">
                <th
                  role="columnheader"
                  class="study"
                  :aria-sort="sort === 'study' ? 'ascending' : sort === '-study' ? 'descending' : 'none'"
                >
                  <button tabindex="-1" @click="sortBy('study')">
                    Study {{ sort === 'study' ? '↑' : sort === '-study' ? '↓' : '' }}
                  </button>
                </th>
                <th
                  v-for="(it, c) in columns"
                  :key="it.id!"
                  role="columnheader"
                  :class="{ num: numeric(it.kind), pin: isPinned(it) }"
                  :style="isPinned(it) ? { left: `${stickyLeft(c)}px` } : {}"
                  :title="it.instructions"
                  :aria-sort="sort === String(it.id) ? 'ascending' : sort === `-${it.id}` ? 'descending' : 'none'"
                >
                  <button tabindex="-1" @click="sortBy(String(it.id))">
                    {{ it.name }}{{ it.unit ? ` (${it.unit})` : '' }}
                    {{ sort === String(it.id) ? '↑' : sort === `-${it.id}` ? '↓' : '' }}
                  </button>
                </th>
              </tr>
            </thead>
            <tbody role="rowgroup">
              <tr v-if="above > 0" aria-hidden="true">
                <td :style="{ height: `${above}px`, padding: 0 }" />
              </tr>
              <tr
                v-for="it in inSight"
                :key="String(it.key)"
                role="row"
                :aria-rowindex="it.index + 2"
                :class="{ here: it.index === select.at.row }"
              >
                <th
                  role="rowheader"
                  class="study"
                  :title="rows[it.index]!.reports.map((report) => report.title).join('\n')"
                >
                  {{ rows[it.index]!.label }}
                </th>
                <td
                  v-for="(item, c) in columns"
                  :id="`cell-${it.index}-${c}`"
                  :key="item.id!"
                  role="gridcell"
                  :class="{
                    num: numeric(item.kind),
                    pin: isPinned(item),
                    held: select.holds(it.index, c),
                    now: it.index === select.at.row && c === select.at.column,
                    wrong: wrong.has(key(rows[it.index]!.id, item.id!)),
                  }"
                  :style="isPinned(item) ? { left: `${stickyLeft(c)}px` } : {}"
                  :data-current="it.index === select.at.row && c === select.at.column ? '' : undefined"
                  :aria-selected="select.holds(it.index, c)"
                  @mousedown="(select.go(it.index, c, $event.shiftKey), box?.focus())"
                  @mouseenter="$event.buttons === 1 && select.go(it.index, c, true)"
                  @dblclick="edit()"
                >
                  <input
                    v-if="draft !== null && it.index === select.at.row && c === select.at.column"
                    v-model="draft"
                    :aria-label="`${item.name} of ${rows[it.index]!.label}`"
                    @keydown="editing"
                    @blur="commit(0, 0)"
                    @mousedown.stop
                  />
                  <template v-else
                    >{{ wrong.get(key(rows[it.index]!.id, item.id!))?.text ?? textOf(rows[it.index]!, item)
                    }}<sup
                      v-if="rows[it.index]!.values[String(item.id)]?.quote"
                      class="soft"
                      title="Has a quote"
                      aria-label="has a quote"
                      >”</sup
                    ></template
                  >
                </td>
              </tr>
              <tr v-if="below > 0" aria-hidden="true">
                <td :style="{ height: `${below}px`, padding: 0 }" />
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="rows.length" class="small soft foot">
          {{ count(figures.data.value?.charted ?? 0) }} of {{ count(data?.studies.length ?? 0) }} studies charted{{
            rows.length < (data?.studies.length ?? 0) ? `, ${rows.length} shown` : ''
          }}
          · arrows move, Enter edits, typing replaces, Shift selects, copy and paste from and to a spreadsheet
        </p>
      </section>
      <CellPane
        v-if="cell"
        :key="`${cell.study.id}:${cell.item.id}`"
        :study="cell.study"
        :item="cell.item"
        :studies="data?.studies ?? []"
        :wrong="wrong.get(key(cell.study.id, cell.item.id!))?.message"
        :review="review"
        :may-write="mayWrite"
        @write="(it) => write([it])"
        @changed="refresh('evidence', 'figures')"
      />
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.whole {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  overflow: hidden;
}
.grid {
  overflow: auto;
  min-height: 0;
  scroll-padding: 31px 0 0 150px;
}
.grid table {
  width: max-content;
  min-width: 100%;
  user-select: none;
}
th,
td {
  height: 31px;
  min-width: 110px;
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  background: var(--ks-sheet);
}
thead th {
  z-index: 3;
}
thead button {
  font-weight: 600;
  color: inherit;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
.study {
  position: sticky;
  left: 0;
  width: 150px;
  min-width: 150px;
  max-width: 150px;
  z-index: 2;
  color: var(--ks-ink);
  font-size: 13px;
}
thead .study {
  z-index: 4;
  color: var(--ks-soft);
  font-size: 12px;
}
.pin {
  position: sticky;
  width: 140px;
  min-width: 140px;
  max-width: 140px;
  z-index: 1;
}
thead .pin {
  z-index: 3;
}
tr.here > th,
tr.here > td {
  background: var(--ks-copper-wash);
}
.held {
  background: var(--ks-copper-wash);
}
.now {
  outline: 2px solid var(--ks-copper);
  outline-offset: -2px;
}
.wrong {
  color: var(--ks-bad);
  text-decoration: underline wavy;
}
td input {
  width: 100%;
  font: inherit;
  color: inherit;
  outline: 0;
  user-select: text;
}
.filter {
  width: 190px;
}
.foot {
  padding: 8px 10px;
  border-top: 1px solid var(--ks-hair);
}
sup {
  line-height: 1;
}
</style>
