<script setup lang="ts">
// A verdict as a shape before it is a colour: disc, ring with a bar, half disc, dot; two shapes where verdicts differ.
import { computed } from 'vue'
import { VERDICT_WORDS } from './format'

const props = defineProps<{ verdict: string; words?: string }>()
const label = computed(() => props.words ?? VERDICT_WORDS[props.verdict] ?? props.verdict)
</script>

<template>
  <svg
    viewBox="0 0 12 12"
    width="12"
    height="12"
    class="mark"
    :role="label ? 'img' : undefined"
    :aria-label="label || undefined"
    :aria-hidden="label ? undefined : true"
  >
    <title v-if="label">{{ label }}</title>
    <circle v-if="verdict === 'include'" cx="6" cy="6" r="5.5" fill="var(--ks-pine)" />
    <template v-else-if="verdict === 'exclude'">
      <circle cx="6" cy="6" r="4.75" fill="none" stroke="var(--ks-slate)" stroke-width="1.5" />
      <path d="M2.6 9.4 9.4 2.6" stroke="var(--ks-slate)" stroke-width="1.5" />
    </template>
    <template v-else-if="verdict === 'unsure'">
      <circle cx="6" cy="6" r="4.75" fill="none" stroke="var(--ks-ochre)" stroke-width="1.5" />
      <path d="M6 1.25a4.75 4.75 0 0 1 0 9.5z" fill="var(--ks-ochre)" />
    </template>
    <template v-else-if="verdict === 'differs'">
      <circle cx="3.4" cy="3.4" r="2.9" fill="var(--ks-pine)" />
      <circle cx="8.4" cy="8.4" r="2.5" fill="none" stroke="var(--ks-slate)" stroke-width="1.5" />
    </template>
    <circle v-else cx="6" cy="6" r="1.75" fill="var(--ks-soft)" />
  </svg>
</template>

<style scoped>
.mark {
  vertical-align: -1px;
  flex: none;
}
</style>
