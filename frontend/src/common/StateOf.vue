<script setup lang="ts">
// What a view shows while it waits, and when it fails.
import { sentenceOf } from './messages'

defineProps<{ pending: boolean; error: unknown; retry?: () => void }>()
</script>

<template>
  <div v-if="error" class="pad" role="alert">
    <p class="bad">{{ sentenceOf(error) }}</p>
    <v-btn v-if="retry" class="mt-3" @click="retry">Try again</v-btn>
  </div>
  <p v-else-if="pending" class="pad soft" role="status">Loading …</p>
  <slot v-else />
</template>
