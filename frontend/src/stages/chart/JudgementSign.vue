<script setup lang="ts">
// The sign of a judgement: a hexagonal cell, the fuller the better; a bar where it has no order, a point for none.
import { computed } from 'vue'
import { filled, type Form } from './appraisal'

const props = defineProps<{ form: Form; judgement: string; open?: boolean }>()
const share = computed(() => filled(props.form, props.judgement))
const known = computed(() => share.value !== undefined)
const colour = computed(() =>
  share.value === null || share.value === undefined
    ? 'var(--ks-soft)'
    : share.value > 2 / 3
      ? 'var(--ks-pine)'
      : share.value > 1 / 3
        ? 'var(--ks-ochre)'
        : 'var(--ks-copper)',
)
const corners = (r: number) =>
  Array.from({ length: 6 }, (_, k) => `${10 + r * Math.sin((k * Math.PI) / 3)},${10 - r * Math.cos((k * Math.PI) / 3)}`)
const id = `cell${Math.random().toString(36).slice(2)}`
</script>

<template>
  <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true" class="sign">
    <circle v-if="!known" cx="10" cy="10" r="1.5" fill="var(--ks-soft)" />
    <template v-else>
      <clipPath :id="id"><rect x="0" :y="17 - 14 * (share ?? 0)" width="20" height="20" /></clipPath>
      <polygon
        :points="corners(9).join(' ')"
        fill="none"
        :stroke="colour"
        stroke-width="1.6"
        :stroke-dasharray="open ? '2 2' : undefined"
      />
      <path v-if="share === null" d="M5.5 10H14.5" :stroke="colour" stroke-width="1.6" />
      <polygon v-else-if="share" :points="corners(6.8).join(' ')" :fill="colour" :clip-path="`url(#${id})`" />
    </template>
  </svg>
</template>

<style scoped>
.sign {
  flex: none;
  vertical-align: -5px;
}
</style>
