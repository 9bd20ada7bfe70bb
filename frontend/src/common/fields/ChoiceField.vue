<script setup lang="ts" generic="T">
// One of several, by the browser's own list: it opens by key, and typing finds an entry.
import { computed } from 'vue'
import FieldFrame from './FieldFrame.vue'
import { useField, type FieldProps } from './describe'

type Item = T | { value: T; title: string }
defineOptions({ inheritAttrs: false })
const props = defineProps<FieldProps & { items: readonly Item[] }>()
const value = defineModel<T>()
const { frame, inside } = useField(props)
const entries = computed(() =>
  props.items.map((item) =>
    item !== null && typeof item === 'object' && 'title' in item ? item : { value: item, title: String(item) },
  ),
)
</script>

<template>
  <FieldFrame v-bind="frame">
    <select ref="box" v-bind="inside" v-model="value" :disabled="disabled || readonly" class="box">
      <option v-for="(entry, k) in entries" :key="k" :value="entry.value">{{ entry.title }}</option>
    </select>
  </FieldFrame>
</template>
