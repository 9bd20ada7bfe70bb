<script setup lang="ts" generic="T extends string | number">
// Several of some, each with a tick, under one label.
import { toggled } from '@/common/some'

defineProps<{ label: string; items: readonly { value: T; title: string; label?: string }[]; disabled?: boolean }>()
const value = defineModel<T[]>({ required: true })
</script>

<template>
  <fieldset class="ticks">
    <legend class="small soft">{{ label }}</legend>
    <TickBox
      v-for="item in items"
      :key="item.value"
      :model-value="value.includes(item.value)"
      :label="item.title"
      :aria-label="item.label"
      :disabled="disabled"
      @update:model-value="value = toggled(value, item.value)"
    />
  </fieldset>
</template>

<style scoped>
.ticks {
  display: grid;
  min-width: 0;
  margin: 0;
  border: 0;
  padding: 0;
}
</style>
