<script setup lang="ts">
// What every field has round it: its label above, a hint or what is wrong below.
defineProps<{ id: string; label?: string; hint?: string; problem?: string }>()
</script>

<template>
  <div class="field-frame">
    <label v-if="label" :for="id">{{ label }}</label>
    <slot />
    <p v-if="problem" :id="`${id}-problem`" class="small bad" role="alert">{{ problem }}</p>
    <p v-else-if="hint" :id="`${id}-hint`" class="small soft">{{ hint }}</p>
  </div>
</template>
