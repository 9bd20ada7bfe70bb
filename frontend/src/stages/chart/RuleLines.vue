<script setup lang="ts">
// Rules in their order: a condition, and the judgement that it leads to.
import type { Schemas } from '@/api/client'

defineProps<{ words: string[]; mayWrite: boolean }>()
const rules = defineModel<Schemas['JudgementRule'][]>({ required: true })
const emit = defineEmits<{ touched: [] }>()
function add(words: string[]) {
  rules.value.push({ when: '', judgement: words[0] ?? '' })
  emit('touched')
}
function remove(k: number) {
  rules.value.splice(k, 1)
  emit('touched')
}
function earlier(k: number) {
  if (k) rules.value.splice(k - 1, 0, rules.value.splice(k, 1)[0]!)
  emit('touched')
}
</script>

<template>
  <div v-for="(rule, k) in rules" :key="k" class="rule">
    <TextField v-model="rule.when" :label="`Rule ${k + 1}: when`" class="code" :readonly="!mayWrite" />
    <ChoiceField v-model="rule.judgement" :items="words" :label="`Rule ${k + 1}: then`" :disabled="!mayWrite" />
    <span v-if="mayWrite" class="row">
      <button class="link small" :aria-label="`Rule ${k + 1} earlier`" @click="earlier(k)">↑</button
      ><button class="link small" :aria-label="`Remove rule ${k + 1}`" @click="remove(k)">×</button>
    </span>
  </div>
  <p v-if="mayWrite"><v-btn @click="add(words)">Add a rule</v-btn></p>
</template>

<style scoped>
.rule {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px 48px;
  gap: 8px;
  align-items: end;
}
</style>
