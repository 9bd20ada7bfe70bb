<script setup lang="ts">
// A report in the second pass: its PDF in place, or its title and abstract, one key apart.
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { useKeys } from '@/common/keys'
import PdfReader from '@/common/PdfReader.vue'
import RecordSheet from './RecordSheet.vue'
import { termsOf } from './terms'

const props = defineProps<{ sheet: Schemas['Sheet']; review: number; mayWrite: boolean }>()
const emit = defineEmits<{ seed: [value: boolean] }>()
const whole = ref(true)
const terms = computed(() => termsOf(props.sheet))
useKeys({ t: () => (whole.value = !whole.value) })
</script>

<template>
  <article class="report" :aria-label="sheet.record.title || 'Untitled'">
    <div class="head row small">
      <h1 v-if="whole" class="clip read" :title="sheet.record.title">{{ sheet.record.title || 'Untitled' }}</h1>
      <nav class="row push" aria-label="What is shown of the report">
        <button class="link" :aria-pressed="whole" :class="{ chosen: whole }" @click="whole = true">Full text</button>
        <button class="link" :aria-pressed="!whole" :class="{ chosen: !whole }" @click="whole = false">Abstract</button>
        <kbd>T</kbd>
      </nav>
    </div>
    <PdfReader
      v-if="whole"
      :address="`/api/reviews/${review}/pdfs/${sheet.full_text!.file_id}`"
      :name="sheet.full_text!.filename || 'full text'"
      :terms="terms"
    />
    <RecordSheet v-else :sheet="sheet" :review="review" :may-write="mayWrite" :pass="2" @seed="emit('seed', $event)" />
  </article>
</template>

<style scoped>
.report {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
}
.head {
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
h1 {
  min-width: 0;
  font-size: 14px;
  line-height: 20px;
  font-weight: 600;
}
.row.push {
  flex: none;
}
</style>
