<script setup lang="ts">
// The concepts of the query, each with its number key, for what is put into one of them.
import { useKeys } from '@/common/keys'
import { plural } from '@/common/format'
import type { Concept } from './draft'

const props = defineProps<{ concepts: Concept[] }>()
const emit = defineEmits<{ into: [place: number] }>()
const into = (k: number) => (k < props.concepts.length ? emit('into', k) : undefined)
useKeys({
  0: () => emit('into', -1),
  ...Object.fromEntries(Array.from({ length: 9 }, (_, k) => [String(k + 1), () => into(k)])),
})
</script>

<template>
  <ol class="concepts">
    <li v-for="(concept, k) in concepts.slice(0, 9)" :key="k">
      <button @click="into(k)">
        <kbd>{{ k + 1 }}</kbd> {{ concept.label || concept.terms.join(' OR ').slice(0, 40) || `Concept ${k + 1}` }}
        <span class="soft small">{{ plural(concept.terms.length, 'term') }}</span>
      </button>
    </li>
    <li>
      <button @click="emit('into', -1)"><kbd>0</kbd> A new concept</button>
    </li>
  </ol>
</template>

<style scoped>
.concepts {
  list-style: none;
  margin: 0;
  padding: 0;
}
.concepts li {
  border-bottom: 1px solid var(--ks-hair);
}
.concepts button {
  width: 100%;
  padding: 5px 0;
}
</style>
