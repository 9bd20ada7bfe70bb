<script setup lang="ts">
// Where a review stands: a band as thick as the records in play, from found to included.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

const props = defineProps<{ it: Schemas['ReviewSummary'] }>()
const steps = computed(() => [props.it.found, props.it.records, props.it.open + props.it.sought, props.it.included])
const words = computed(
  () =>
    `${count(steps.value[0]!)} found, ${count(steps.value[1]!)} records, ${count(props.it.open)} to decide, ${count(steps.value[3]!)} included`,
)
const most = computed(() => Math.max(1, ...steps.value))
const thick = (n: number) => (n ? Math.max(2, 18 * Math.sqrt(n / most.value)) : 1)
const band = computed(() => {
  let top = ''
  let bottom = ''
  steps.value.forEach((n, k) => {
    const [x0, x1, y] = [k * 50 + (k ? 12 : 0), k * 50 + 50, thick(n) / 2]
    top += `${k ? 'L' : 'M'}${x0} ${12 - y} L${x1} ${12 - y} `
    bottom = `L${x1} ${12 + y} L${x0} ${12 + y} ${bottom}`
  })
  return `${top}${bottom}Z`
})
</script>

<template>
  <svg viewBox="0 0 200 24" width="200" height="24" role="img" :aria-label="words">
    <title>{{ words }}</title>
    <path :d="band" fill="var(--ks-copper)" fill-opacity=".22" stroke="var(--ks-copper)" stroke-opacity=".5" />
  </svg>
</template>
