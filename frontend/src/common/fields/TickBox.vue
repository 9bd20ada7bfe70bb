<script setup lang="ts">
// Yes or no, with its label beside it.
defineOptions({ inheritAttrs: false })
defineProps<{ label: string; disabled?: boolean }>()
const value = defineModel<boolean>()
</script>

<template>
  <label class="tick" :class="$attrs.class"
    ><input v-bind="{ ...$attrs, class: undefined }" v-model="value" type="checkbox" :disabled="disabled" />
    {{ label }}</label
  >
</template>
