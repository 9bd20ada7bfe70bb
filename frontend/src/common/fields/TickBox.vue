<script setup lang="ts">
// Yes or no, with its label beside it.
defineProps<{ label: string; disabled?: boolean }>()
const value = defineModel<boolean>()
</script>

<template>
  <label class="tick"><input v-model="value" type="checkbox" :disabled="disabled" /> {{ label }}</label>
</template>
