<script setup lang="ts">
// The grid: rows and columns in sight are drawn, the others not; what the hands know from spreadsheets.
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { complain, say } from '@/common/messages'
import { Refusal, type Schemas } from '@/api/client'
import { useDrawing, widthIn, type Shown } from './drawing'
import GridRow from './GridRow.vue'
import type { Cell, Evidence } from './evidence'
import { asClipboard, cellsOf, type Selection } from './grid'
import { isNumeric, keyOf, placeAt, type Column, type Place, type Row } from './layout'

const ROW = 31
const STUDY = 170
const props = defineProps<{
  rows: Row[]
  columns: Column[]
  /** So many of the first columns stay in sight. */
  pinned: number
  widths: Record<string, number>
  evidence: Evidence
  select: Selection
  /** The surest proposal for a cell that waits for a person. */
  proposed: Map<string, { text: string; confidence: number; model: string }>
  sort: string
  filtered: Set<number>
  mayWrite: boolean
}>()
const emit = defineEmits<{
  sort: [key: string]
  menu: [column: Column, at: HTMLElement]
  accept: [place: Place]
  widen: [item: number, width: number]
  block: [cells: Cell[], unfit: Schemas['NotTaken'][], beyond: number]
}>()
const box = ref<HTMLElement | null>(null)
const widthOf = (column: Column) => widthIn(props.widths, column)
const fixed = computed(() => props.columns.slice(0, props.pinned))
const free = computed(() => props.columns.slice(props.pinned))
const lefts = computed(() => {
  let at = STUDY
  return fixed.value.map((one) => (at += widthOf(one)) - widthOf(one))
})
const edge = computed(() => STUDY + fixed.value.reduce((sum, column) => sum + widthOf(column), 0))
const down = useVirtualizer(
  computed(() => ({
    count: props.rows.length,
    getScrollElement: () => box.value,
    estimateSize: () => ROW,
    overscan: 6,
    paddingStart: ROW,
    scrollPaddingStart: ROW,
  })),
)
const across = useVirtualizer(
  computed(() => ({
    horizontal: true,
    count: free.value.length,
    getScrollElement: () => box.value,
    estimateSize: (k: number) => widthOf(free.value[k]!),
    getItemKey: (k: number) => free.value[k]!.key,
    overscan: 4,
    paddingStart: edge.value,
    scrollPaddingStart: edge.value,
  })),
)
watch(
  () => [JSON.stringify(props.widths), free.value.map((one) => one.key).join(' '), edge.value],
  () => across.value.measure(),
)
const inSight = computed(() => down.value.getVirtualItems())
/** The same array while the same columns stand at the same places: what shows them is not drawn anew. */
const columnsInSight = computed((before?: Shown[]): Shown[] => {
  const known = new Map(before?.map((one) => [one.column, one]))
  const at = (column: Column, c: number, left: number, pin: boolean): Shown => {
    const one = known.get(column)
    return one?.c === c && one.left === left && one.pin === pin ? one : { column, c, left, pin }
  }
  const now = [
    ...fixed.value.map((column, k) => at(column, k, lefts.value[k]!, true)),
    ...across.value
      .getVirtualItems()
      .map((item) => at(free.value[item.index]!, item.index + props.pinned, item.start, false)),
  ]
  return before?.length === now.length && now.every((one, k) => one === before[k]) ? before : now
})
const levels = computed(() => props.evidence.data.value?.levels ?? [])
const placeOf = (r: number, c: number) => {
  const [row, column] = [props.rows[r], props.columns[c]]
  return row && column ? placeAt(row, column, levels.value) : null
}
const here = computed(() => placeOf(props.select.at.row, props.select.at.column))

/** Bring the cell in focus into sight. */
function bring() {
  down.value.scrollToIndex(props.select.at.row, { align: 'auto' })
  const c = props.select.at.column - props.pinned
  if (c >= 0) across.value.scrollToIndex(c, { align: 'auto' })
}
watch(() => [props.select.at.row, props.select.at.column], bring)
onMounted(() => setTimeout(bring))
const focus = () => box.value?.focus({ preventScroll: true })

const rowDrawn = useDrawing(props, columnsInSight, placeOf)
/** From which column to which the selection holds a row, '' for none. */
const heldOf = (r: number) => {
  const { top, bottom, left, right } = props.select.range.value
  return r >= top && r <= bottom ? `${left}-${right}` : ''
}

const draft = ref<string | null>(null)
/** What stood in the cell when the typing began. */
let stood = ''
async function edit(text?: string) {
  const place = here.value
  if (!place || !props.mayWrite) return
  stood = props.evidence.text(place)
  draft.value = text ?? props.evidence.wrong.get(keyOf(place))?.text ?? stood
  await nextTick()
  box.value?.querySelector<HTMLInputElement>('.cell input')?.focus()
}
defineExpose({ focus, here, placeOf, edit })
function commit(downwards: number, sideways: number) {
  const [text, place] = [draft.value, here.value]
  draft.value = null
  if (text !== null && place && text !== stood)
    void props.evidence.write([{ ...place, text, seen: stood, how: 'typed' }])
  go(props.select.at.row + downwards, props.select.at.column + sideways)
  focus()
}
/** Go to a cell; over those where nothing is asked. */
function go(row: number, column: number) {
  const step = Math.sign(row - props.select.at.row)
  let r = row
  while (step && r >= 0 && r < props.rows.length && !placeOf(r, column)) r += step
  props.select.go(r >= 0 && r < props.rows.length ? r : row, column)
}
function editing(event: KeyboardEvent) {
  event.stopPropagation()
  if (event.key === 'Escape') {
    draft.value = null
    if (here.value) props.evidence.wrong.delete(keyOf(here.value))
    focus()
  } else if (event.key === 'Enter') commit(event.shiftKey ? -1 : 1, 0)
  else if (event.key === 'Tab') {
    event.preventDefault()
    commit(0, event.shiftKey ? -1 : 1)
  }
}
const SHORTCUTS: Record<string, () => unknown> = {
  z: () => props.evidence.undo(),
  y: () => props.evidence.redo(),
  d: () => fillDown(),
  Enter: () => here.value && emit('accept', here.value),
}
function pressed(event: KeyboardEvent) {
  if (draft.value !== null || event.target !== box.value) return
  const far = event.ctrlKey || event.metaKey
  if (event.altKey && event.key === 'ArrowDown') {
    event.preventDefault()
    const column = props.columns[props.select.at.column]
    const head = box.value?.querySelector<HTMLElement>(`[data-head="${props.select.at.column}"]`)
    if (column && head) emit('menu', column, head)
  } else if (far && SHORTCUTS[event.key] && !event.altKey) {
    event.preventDefault()
    if (event.key === 'z' && event.shiftKey) void props.evidence.redo()
    else void SHORTCUTS[event.key]!()
  } else if (far && event.key === 'a') {
    event.preventDefault()
    props.select.go(0, 0)
    props.select.go(props.rows.length - 1, props.columns.length - 1, true)
  } else if (props.select.moved(event)) event.preventDefault()
  else if (far || event.altKey) return
  else if (event.key === 'Enter' || event.key === 'F2') {
    event.preventDefault()
    void edit()
  } else if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    void clear()
  } else if (event.key.length === 1) {
    event.preventDefault()
    void edit(event.key)
  }
}
function* chosen() {
  const { top, bottom, left, right } = props.select.range.value
  for (let r = top; r <= bottom; r++)
    for (let c = left; c <= right; c++) {
      const place = placeOf(r, c)
      if (place) yield place
    }
}
const clear = () =>
  props.evidence.write(
    [...chosen()]
      .filter((one) => props.evidence.text(one))
      .map((one) => ({ ...one, text: '', quote: '', page: '', how: 'typed' })),
  )
function fillDown() {
  const { top, bottom, left, right } = props.select.range.value
  if (top === bottom) return say('Mark the cells below first, with Shift and the arrows.')
  const cells: Cell[] = []
  for (let c = left; c <= right; c++) {
    const from = placeOf(top, c)
    for (let r = top + 1; from && r <= bottom; r++) {
      const place = placeOf(r, c)
      if (place) cells.push({ ...place, text: props.evidence.text(from), how: 'typed' })
    }
  }
  void props.evidence.write(cells)
}
function copied(event: ClipboardEvent): boolean {
  if (draft.value !== null || !props.rows.length || event.target instanceof HTMLInputElement) return false
  const { top, bottom, left, right } = props.select.range.value
  const block = Array.from({ length: bottom - top + 1 }, (_, r) =>
    Array.from({ length: right - left + 1 }, (__, c) => props.evidence.text(placeOf(top + r, left + c))),
  )
  event.clipboardData?.setData('text/plain', asClipboard(block))
  event.preventDefault()
  return true
}
function cut(event: ClipboardEvent) {
  if (copied(event) && props.mayWrite) void clear()
}
async function paste(event: ClipboardEvent) {
  if (draft.value !== null || !props.mayWrite) return
  event.preventDefault()
  const block = cellsOf(event.clipboardData?.getData('text/plain') ?? '')
  const { top, left, bottom, right } = props.select.range.value
  const one = block.length === 1 && block[0]!.length === 1
  const [height, width] = one
    ? [bottom - top + 1, right - left + 1]
    : [block.length, Math.max(...block.map((row) => row.length))]
  const cells: Cell[] = []
  let beyond = 0
  for (let r = 0; r < height; r++)
    for (let c = 0; c < width; c++) {
      const text = one ? block[0]![0]! : block[r]?.[c]
      if (text === undefined) continue
      const place = placeOf(top + r, left + c)
      if (place) cells.push({ ...place, text, how: 'pasted' })
      else if (text.trim()) beyond++
    }
  props.select.go(top, left)
  props.select.go(top + height - 1, left + width - 1, true)
  try {
    const unfit = cells.length > 1 ? await props.evidence.fitting(cells) : []
    if (unfit.length || beyond) emit('block', cells, unfit, beyond)
    else void props.evidence.write(cells)
  } catch (error) {
    complain(error instanceof Refusal ? error : new Refusal('The block could not be pasted.', 422))
  }
}
/** Drag the edge of a head to make its column wider. */
function drag(event: PointerEvent, column: Column) {
  const [from, was] = [event.clientX, widthOf(column)]
  const grip = event.target as HTMLElement
  grip.setPointerCapture(event.pointerId)
  const to = (one: PointerEvent) =>
    emit('widen', column.item.id!, Math.max(60, Math.min(600, was + one.clientX - from)))
  grip.addEventListener('pointermove', to)
  grip.addEventListener('pointerup', () => grip.removeEventListener('pointermove', to), { once: true })
}
const sorted = (key: string) => (props.sort === key ? 'ascending' : props.sort === `-${key}` ? 'descending' : 'none')
const arrow = (key: string) => (props.sort === key ? ' ↑' : props.sort === `-${key}` ? ' ↓' : '')
const headOf = (column: Column) => column.title + (column.item.unit ? ` (${column.item.unit})` : '')
</script>

<template>
  <div
    ref="box"
    class="grid sheet"
    role="grid"
    tabindex="0"
    aria-label="Evidence table"
    :aria-rowcount="rows.length + 1"
    :aria-colcount="columns.length + 1"
    :aria-activedescendant="`cell-${select.at.row}-${select.at.column}`"
    aria-multiselectable="true"
    @keydown="pressed"
    @copy="copied"
    @cut="cut"
    @paste="paste"
  >
    <div
      :style="{ height: `${down.getTotalSize()}px`, width: `${across.getTotalSize()}px` }"
      class="area"
      role="presentation"
    >
      <div class="line heads" role="row" aria-rowindex="1">
        <div
          role="columnheader"
          class="cell study head-cell"
          :style="{ width: `${STUDY}px` }"
          :aria-sort="sorted('study')"
        >
          <button tabindex="-1" @click="emit('sort', 'study')">Study{{ arrow('study') }}</button>
        </div>
        <div
          v-for="one in columnsInSight"
          :key="one.column.key"
          role="columnheader"
          class="cell head-cell"
          :class="{ num: isNumeric(one.column.item.kind), pin: one.pin, filtered: filtered.has(one.column.item.id!) }"
          :style="{ left: `${one.left}px`, width: `${widthOf(one.column)}px` }"
          :title="[headOf(one.column), one.column.item.instructions].filter(Boolean).join('\n')"
          :aria-colindex="one.c + 2"
          :aria-sort="sorted(one.column.key)"
          :data-head="one.c"
        >
          <button
            class="clip"
            tabindex="-1"
            @click="emit('menu', one.column, ($event.currentTarget as HTMLElement).parentElement!)"
          >
            {{ headOf(one.column) }}{{ arrow(one.column.key) }}{{ filtered.has(one.column.item.id!) ? ' ·' : '' }}
          </button>
          <span class="grip" @pointerdown.prevent="drag($event, one.column)" />
        </div>
      </div>
      <GridRow
        v-for="each in inSight"
        :key="rows[each.index]!.key"
        :row="rows[each.index]!"
        :index="each.index"
        :start="each.start"
        :study-width="STUDY"
        :cells="rowDrawn(each.index)"
        :widths="widths"
        :held="heldOf(each.index)"
        :now="each.index === select.at.row ? select.at.column : null"
        :draft="each.index === select.at.row ? draft : null"
        @go="(column, extend) => (select.go(each.index, column, extend), focus())"
        @drag="(column) => select.go(each.index, column, true)"
        @edit="edit()"
        @typed="draft = $event"
        @editing="editing"
        @left="draft !== null && commit(0, 0)"
      />
    </div>
  </div>
</template>

<style scoped>
.grid {
  overflow: auto;
  min-height: 0;
  user-select: none;
  outline-offset: -2px;
}
.area {
  position: relative;
  min-width: 100%;
}
.grid :deep(.line) {
  position: absolute;
  top: 0;
  left: 0;
  right: 0;
  height: 31px;
  display: flex;
}
.grid :deep(.heads) {
  position: sticky;
  top: 0;
  z-index: 3;
  background: var(--ks-sheet);
}
.grid :deep(.cell) {
  position: absolute;
  top: 0;
  height: 31px;
  padding: 5px 10px;
  border-bottom: 1px solid var(--ks-hair);
  background: var(--ks-sheet);
}
.grid :deep(.study),
.grid :deep(.pin) {
  position: sticky;
  z-index: 2;
  flex: none;
}
.grid :deep(.study) {
  left: 0;
  font-weight: 600;
}
.grid :deep(.below) {
  padding-left: 24px;
  font-weight: 400;
  color: var(--ks-soft);
}
.grid :deep(.head-cell) {
  font-size: 12px;
  font-weight: 600;
  color: var(--ks-soft);
}
.grid :deep(.head-cell button) {
  font-weight: 600;
  color: inherit;
  max-width: 100%;
}
.grid :deep(.filtered button) {
  color: var(--ks-copper);
}
.grid :deep(.grip) {
  position: absolute;
  top: 0;
  right: 0;
  width: 7px;
  height: 30px;
  cursor: col-resize;
  border-right: 1px solid var(--ks-hair);
}
.grid :deep(.none) {
  background: var(--ks-wash);
}
.grid :deep(.here > .cell:not(.none)) {
  background: var(--ks-copper-wash);
}
.grid :deep(.held) {
  background: var(--ks-copper-wash) !important;
}
.grid :deep(.now) {
  outline: 2px solid var(--ks-copper);
  outline-offset: -2px;
}
.grid :deep(.wrong) {
  color: var(--ks-bad);
  text-decoration: underline wavy;
}
.grid :deep(.absent) {
  color: var(--ks-soft);
}
.grid :deep(.proposed) {
  color: var(--ks-soft);
  font-style: italic;
}
.grid :deep(.proposed::after) {
  content: ' ?';
}
.grid :deep(.mine::after),
.grid :deep(.unlike::after) {
  color: var(--ks-soft);
  content: ' ½';
}
.grid :deep(.unlike::after) {
  color: var(--ks-ochre);
  content: ' ≠';
}
.grid :deep(.cell input) {
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  outline: 0;
  user-select: text;
}
.grid :deep(sup) {
  line-height: 1;
}
.grid :deep(.by-model) {
  margin-right: 4px;
}
</style>
