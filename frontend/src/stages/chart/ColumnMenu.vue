<script setup lang="ts">
// What can be done with a column: sorted, filtered by its values with their counts, pinned, hidden, moved.
import { computed, ref, watch } from 'vue'
import { count } from '@/common/format'
import type { Column } from './layout'

const props = defineProps<{
  column: Column
  at: HTMLElement
  sort: string
  pinned: boolean
  /** Each value of the column with its number of studies. */
  values: [string, number][]
  /** Values that are let through; all, if none is named. */
  wanted: string[]
}>()
const emit = defineEmits<{
  close: []
  sort: [key: string]
  filter: [values: string[]]
  pin: []
  hide: []
  move: [by: number]
}>()
const open = ref(true)
watch(open, (one) => !one && emit('close'))
const find = ref('')
const shown = computed(() =>
  props.values.filter(([value]) => value.toLowerCase().includes(find.value.trim().toLowerCase())).slice(0, 200),
)
const toggle = (value: string) =>
  emit('filter', props.wanted.includes(value) ? props.wanted.filter((one) => one !== value) : [...props.wanted, value])
const done = (work: () => void) => {
  work()
  open.value = false
}
</script>

<template>
  <v-menu v-model="open" :target="at" :close-on-content-click="false" location="bottom start">
    <v-list :aria-label="column.title" min-width="260" max-height="460">
      <v-list-item title="Sort upwards" :active="sort === column.key" @click="done(() => emit('sort', column.key))" />
      <v-list-item
        title="Sort downwards"
        :active="sort === `-${column.key}`"
        @click="done(() => emit('sort', `-${column.key}`))"
      />
      <v-list-item :title="pinned ? 'Unpin' : 'Pin at the left'" @click="done(() => emit('pin'))" />
      <v-list-item title="Hide" @click="done(() => emit('hide'))" />
      <v-list-item title="Move to the left" @click="emit('move', -1)" />
      <v-list-item title="Move to the right" @click="emit('move', 1)" />
      <v-divider />
      <div class="values">
        <div class="row">
          <b class="small">Only studies with</b>
          <button v-if="wanted.length" class="link small push" @click="emit('filter', [])">any</button>
        </div>
        <TextField v-if="values.length > 8" v-model="find" label="Find a value" bare />
        <TickBox
          v-for="[value, n] in shown"
          :key="value"
          :model-value="wanted.includes(value)"
          :label="`${value || 'no value'} (${count(n)})`"
          @update:model-value="toggle(value)"
        />
      </div>
    </v-list>
  </v-menu>
</template>

<style scoped>
.values {
  display: grid;
  gap: 6px;
  padding: 10px 16px;
}
</style>
