<script setup lang="ts">
// A row of the evidence table. What it shows comes as it is, so that a key draws only those rows anew that it touches.
import { computed } from 'vue'
import { READ, widthIn, type DrawnCell } from './drawing'
import { isNumeric, type Row } from './layout'

const props = defineProps<{
  row: Row
  index: number
  start: number
  studyWidth: number
  cells: DrawnCell[]
  widths: Record<string, number>
  /** From which column to which the selection holds it, '' for none. */
  held: string
  /** The column in focus, if it is in this row, and what is typed there. */
  now: number | null
  draft: string | null
}>()
const emit = defineEmits<{
  go: [column: number, extend: boolean]
  drag: [column: number]
  edit: []
  typed: [text: string]
  editing: [event: KeyboardEvent]
  left: []
}>()
const range = computed(() => (props.held ? props.held.split('-').map(Number) : null))
const holds = (column: number) => !!range.value && column >= range.value[0]! && column <= range.value[1]!
const isTyped = (column: number) => props.draft !== null && column === props.now
</script>

<template>
  <div
    class="line"
    role="row"
    :aria-rowindex="index + 2"
    :class="{ here: now !== null }"
    :style="{ transform: `translateY(${start}px)` }"
  >
    <div
      role="rowheader"
      class="cell study clip"
      :class="{ below: !row.first }"
      :style="{ width: `${studyWidth}px` }"
      :title="row.first ? row.study.reports.map((report) => report.title).join('\n') : ''"
    >
      {{ row.label }}
    </div>
    <div
      v-for="one in cells"
      :id="`cell-${index}-${one.at.c}`"
      :key="one.at.column.key"
      v-memo="[one, index, widths, holds(one.at.c), one.at.c === now, one.at.c === now ? draft : null]"
      role="gridcell"
      class="cell clip"
      :class="[
        isTyped(one.at.c) ? 'plain' : one.kind,
        { num: isNumeric(one.at.column.item.kind), pin: one.at.pin, held: holds(one.at.c), now: one.at.c === now },
      ]"
      :style="{ left: `${one.at.left}px`, width: `${widthIn(widths, one.at.column)}px` }"
      :title="one.title"
      :aria-colindex="one.at.c + 2"
      :aria-selected="holds(one.at.c)"
      @mousedown="emit('go', one.at.c, $event.shiftKey)"
      @mouseenter="$event.buttons === 1 && emit('drag', one.at.c)"
      @dblclick="emit('edit')"
    >
      <input
        v-if="isTyped(one.at.c)"
        :value="draft"
        :aria-label="`${one.at.column.title} of ${row.study.label}`"
        @input="emit('typed', ($event.target as HTMLInputElement).value)"
        @keydown="emit('editing', $event)"
        @blur="emit('left')"
        @mousedown.stop
      />
      <template v-else
        ><span v-if="one.model" class="by-model" :title="`Proposed by ${one.model}`"
          >m<span class="unseen">proposed by a language model: </span></span
        >{{ one.text }}<sup v-if="one.quoted" class="soft" title="Has a quote" aria-label="has a quote">”</sup
        ><span v-if="one.kind === 'proposed'" class="unseen">proposed</span
        ><span v-if="one.kind in READ" class="unseen">{{ READ[one.kind] }}</span></template
      >
    </div>
  </div>
</template>
