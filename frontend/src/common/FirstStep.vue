<script setup lang="ts">
// What an empty stage says: what comes first here, and what the made-up review did.
import { computed } from 'vue'
import { useReview } from '@/common/review'
import { FIRST } from './guide'

const props = defineProps<{ stage: string; here?: boolean }>()
const { review } = useReview()
const step = computed(() => FIRST[props.stage]!)
</script>

<template>
  <div class="first">
    <section>
      <h2>First</h2>
      <p>{{ step.first }}</p>
      <slot>
        <v-btn v-if="!here" :to="`/reviews/${review}/${step.to}`">{{ step.go }}</v-btn>
      </slot>
    </section>
    <section class="soft">
      <h2>In the made-up review</h2>
      <p>{{ step.demo }}</p>
    </section>
  </div>
</template>

<style scoped>
.first {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  max-width: 860px;
}
.first:not(:first-child) {
  margin-top: 16px;
}
section:first-child {
  color: var(--ks-ink);
}
section {
  display: grid;
  gap: 8px;
  align-content: start;
  justify-items: start;
  padding-right: 24px;
}
section + section {
  padding: 0 0 0 24px;
  border-left: 1px solid var(--ks-hair);
}
</style>
