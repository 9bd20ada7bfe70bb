<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref } from 'vue'
import { GET, got } from '@/api/client'
import { VERDICT_CHOICES } from '@/common/format'
import { useReview } from '@/common/review'
import type { Filter } from './filter'

const props = defineProps<{ filter: Filter; verdicts: boolean }>()
const emit = defineEmits<{ set: [changes: Partial<Filter>]; clear: [] }>()
const { review, path } = useReview()
const { data } = useQuery({
  queryKey: ['filter-values', review],
  queryFn: () => got(GET('/api/reviews/{review}/filter-values', { params: path.value })),
})
const { data: labels } = useQuery({
  queryKey: ['labels', review],
  queryFn: () => got(GET('/api/reviews/{review}/labels', { params: path.value })),
})
const box = ref<HTMLElement | null>(null)
void nextTick(() => box.value?.querySelector('input')?.focus())

const typed = useDebounceFn((key: keyof Filter, value: string | undefined) => emit('set', { [key]: value ?? '' }), 300)
const years = computed(() => (data.value?.first ? `${data.value.first}–${data.value.last}` : ''))
</script>

<template>
  <div ref="box" class="filters" role="search">
    <TextField
      :model-value="props.filter.words"
      label="Contains words; -word must not occur"
      clearable
      class="wide"
      @update:model-value="typed('words', $event)"
    />
    <TextField
      :model-value="props.filter.year_from"
      :label="`From ${years}`"
      inputmode="numeric"
      maxlength="4"
      @update:model-value="typed('year_from', $event)"
    />
    <TextField
      :model-value="props.filter.year_to"
      label="To year"
      inputmode="numeric"
      maxlength="4"
      @update:model-value="typed('year_to', $event)"
    />
    <ChoiceField
      :model-value="props.filter.source"
      :items="[{ value: '', title: 'Any source' }, ...(data?.sources ?? []).map((it) => ({ value: it, title: it }))]"
      label="Source"
      @update:model-value="emit('set', { source: $event })"
    />
    <ChoiceField
      :model-value="props.filter.abstract"
      :items="[
        { value: '', title: 'Abstract or not' },
        { value: 'yes', title: 'Has abstract' },
        { value: 'no', title: 'No abstract' },
      ]"
      label="Abstract"
      @update:model-value="emit('set', { abstract: $event })"
    />
    <ChoiceField
      v-if="labels?.length"
      :model-value="props.filter.label"
      :items="[{ value: '', title: 'Any label' }, ...labels.map((it) => ({ value: String(it.id), title: it.name }))]"
      label="Label"
      @update:model-value="emit('set', { label: $event })"
    />
    <ChoiceField
      v-if="verdicts"
      :model-value="props.filter.verdict"
      :items="VERDICT_CHOICES"
      label="Verdict"
      @update:model-value="emit('set', { verdict: $event })"
    />
    <v-btn @click="emit('clear')">Clear</v-btn>
  </div>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: minmax(150px, 2fr) 130px 84px repeat(auto-fit, minmax(110px, 1fr));
  gap: 8px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--ks-hair);
  align-items: end;
}
</style>
