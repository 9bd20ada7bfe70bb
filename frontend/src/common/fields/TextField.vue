<script setup lang="ts">
// One line of text, a number, a date or a password.
import FieldFrame from './FieldFrame.vue'
import { useField, type FieldProps } from './describe'

defineOptions({ inheritAttrs: false })
const props = defineProps<FieldProps & { clearable?: boolean }>()
const value = defineModel<string>()
const { frame, inside } = useField(props)
const typed = (event: Event) => (value.value = (event.target as HTMLInputElement).value)
</script>

<template>
  <FieldFrame v-bind="frame">
    <div class="line" :class="{ clearable }">
      <input ref="box" v-bind="inside" :value="value ?? ''" :readonly="readonly" class="box" @input="typed" />
      <button v-if="clearable && value" type="button" :aria-label="`Empty “${label}”`" @click="value = ''">×</button>
    </div>
  </FieldFrame>
</template>

<style scoped>
.line {
  position: relative;
  display: grid;
}
.line button {
  position: absolute;
  right: 1px;
  top: 1px;
  width: 24px;
  height: 26px;
  text-align: center;
  color: var(--ks-soft);
}
.clearable .box {
  padding-right: 26px;
}
</style>
