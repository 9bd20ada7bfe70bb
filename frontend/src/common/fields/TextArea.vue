<script setup lang="ts">
// Several lines of text; it grows with them.
import { useElementSize } from '@vueuse/core'
import { onMounted, watch } from 'vue'
import FieldFrame from './FieldFrame.vue'
import { useField, type FieldProps } from './describe'

defineOptions({ inheritAttrs: false })
const props = withDefaults(defineProps<FieldProps & { rows?: number | string }>(), { rows: 2 })
const value = defineModel<string>()
const { box, frame, inside } = useField(props)
const { width } = useElementSize(box)
function grow() {
  if (!box.value) return
  box.value.style.minHeight = ''
  box.value.style.minHeight = `${box.value.scrollHeight + 2}px`
}
watch([value, width], grow, { flush: 'post' })
onMounted(() => document.fonts?.ready.then(grow))
</script>

<template>
  <FieldFrame v-bind="frame">
    <textarea
      ref="box"
      v-bind="inside"
      :value="value ?? ''"
      :rows="rows"
      :readonly="readonly"
      class="box"
      @input="value = ($event.target as HTMLTextAreaElement).value"
    />
  </FieldFrame>
</template>
