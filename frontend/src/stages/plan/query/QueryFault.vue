<script setup lang="ts">
// What is wrong with a query: where, what was expected, and how to mend it.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

const props = defineProps<{ problem: Schemas['QueryProblem']; text: string }>()
const shown = computed(() => {
  const [begin, end] = [Math.max(0, props.problem.begin - 30), Math.min(props.text.length, props.problem.end + 30)]
  return {
    before: (begin ? '…' : '') + props.text.slice(begin, props.problem.begin),
    at: props.text.slice(props.problem.begin, props.problem.end) || '▯',
    after: props.text.slice(props.problem.end, end) + (end < props.text.length ? '…' : ''),
  }
})
</script>

<template>
  <div role="alert">
    <p>
      <b class="bad">{{ problem.message }}</b>
      <span class="mono"
        >{{ shown.before }}<u class="at">{{ shown.at }}</u
        >{{ shown.after }}</span
      >
    </p>
    <p class="small soft">Expected: {{ problem.expected }}. To mend it: {{ problem.mend }}. <slot /></p>
  </div>
</template>

<style scoped>
.at {
  text-decoration: underline wavy var(--ks-bad) 1.5px;
  text-underline-offset: 3px;
}
</style>
