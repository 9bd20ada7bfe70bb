<script setup lang="ts">
// A box that filters while somebody types: what is typed stays, however late the answer to its beginning comes.
import { useDebounceFn } from '@vueuse/core'
import { ref, watch } from 'vue'

const { said, digits } = defineProps<{ said: string; digits?: boolean }>()
const emit = defineEmits<{ typed: [text: string] }>()
const text = ref(said)
const box = ref<HTMLInputElement | null>(null)
let underWay: string[] = [] // told, and not yet said back

const tell = useDebounceFn(() => {
  if (digits) text.value = text.value.replace(/\D/g, '')
  if (text.value === (underWay.at(-1) ?? said)) return
  underWay.push(text.value)
  emit('typed', text.value)
}, 150)

// what comes from elsewhere (Clear, the way back) takes the place of what is typed; an echo does not
watch(
  () => said,
  (now) => {
    const echo = underWay.indexOf(now)
    underWay = echo < 0 ? [] : underWay.slice(echo + 1)
    if (echo < 0) text.value = now
  },
)
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <input ref="box" v-model="text" @input="tell" />
</template>
