<script setup lang="ts">
// What the records of a list divide into: each value with its count, to keep.
import { useDebounceFn } from '@vueuse/core'
import { computed } from 'vue'
import { count, KIND_WORDS, plural, VERDICT_WORDS } from '@/common/format'
import type { Filter } from './filter'

type Value = { value: string; n: number }
const props = defineProps<{ filter: Filter; facets: Record<string, Value[]>; verdicts: boolean; total?: number }>()
const emit = defineEmits<{ set: [changes: Partial<Filter>]; clear: [] }>()
const HAVE: Record<string, string> = { yes: 'yes', no: 'no' }
/** Values with a number and a name, such as labels and people. */
const named = (some: Value[] | undefined) =>
  (some ?? []).map((it) => ({
    value: it.value.slice(0, it.value.indexOf(':')),
    n: it.n,
    name: it.value.slice(it.value.indexOf(':') + 1),
  }))
const plain = (it: string) => it
/** At least so many descriptors, and qualifiers at the same descriptor. */
const SHARED = [
  ['shared', 'descriptors'],
  ['shared_qualified', 'qualifiers'],
] as const
const yes = (it: string) => HAVE[it] ?? it
const groups = computed(() => {
  const all = [
    {
      key: 'verdict' as const,
      title: 'State',
      values: props.verdicts ? (props.facets.states ?? []) : [],
      word: (it: string) => VERDICT_WORDS[it] ?? it,
    },
    {
      key: 'person' as const,
      title: 'Decided by',
      values: props.verdicts ? named(props.facets.people) : [],
      word: plain,
    },
    {
      key: 'criterion' as const,
      title: 'Excluded because',
      values: props.verdicts ? named(props.facets.reasons) : [],
      word: plain,
    },
    { key: 'abstract' as const, title: 'Has an abstract', values: props.facets.abstract ?? [], word: yes },
    { key: 'pdf' as const, title: 'Has its full text', values: props.facets.pdf ?? [], word: yes },
    { key: 'doi' as const, title: 'Has a DOI', values: props.facets.doi ?? [], word: yes },
    { key: 'source' as const, title: 'Source', values: props.facets.sources ?? [], word: plain },
    { key: 'label' as const, title: 'Label', values: named(props.facets.labels), word: plain },
    {
      key: 'kind' as const,
      title: 'Kind',
      values: props.facets.kinds ?? [],
      word: (it: string) => KIND_WORDS[it] ?? it,
    },
    {
      key: 'language' as const,
      title: 'Language',
      values: (props.facets.languages ?? []).map((it) => ({ ...it, value: it.value || '-' })),
      word: (it: string) => (it === '-' ? 'not said' : it),
    },
  ]
  const descriptors = {
    key: 'descriptor' as const,
    title: 'Descriptor',
    values: props.facets.descriptors ?? [],
    word: plain,
  }
  return [...all, descriptors].filter((it) => it.values.length > 1 || props.filter[it.key])
})
const years = computed(() => (props.facets.years ?? []).filter((it) => it.value))
const unknown = computed(() => (props.facets.years ?? []).find((it) => !it.value)?.n ?? 0)
const most = computed(() => Math.max(1, ...years.value.map((it) => it.n)))
const typed = useDebounceFn((key: keyof Filter, value: string) => emit('set', { [key]: value }), 300)
const toggle = (key: keyof Filter, value: string) => emit('set', { [key]: props.filter[key] === value ? '' : value })
</script>

<template>
  <aside class="pane facets" role="search" aria-label="Filter" tabindex="0">
    <div class="head">
      <h2>Filter</h2>
      <span v-if="total !== undefined" class="small soft" role="status">{{ plural(total, 'fits', 'fit') }}</span>
      <v-btn class="push" @click="emit('clear')">Clear</v-btn>
    </div>
    <div class="pad small">
      <input
        class="box wide"
        :value="filter.words"
        placeholder="Contains words; -word not"
        aria-label="Contains words; -word must not occur"
        @input="typed('words', ($event.target as HTMLInputElement).value)"
      />
      <h3>Year</h3>
      <div class="row">
        <input
          class="box year"
          :value="filter.year_from"
          :placeholder="years[0]?.value ?? 'from'"
          aria-label="From year"
          inputmode="numeric"
          maxlength="4"
          @input="typed('year_from', ($event.target as HTMLInputElement).value)"
        />–<input
          class="box year"
          :value="filter.year_to"
          :placeholder="years.at(-1)?.value ?? 'to'"
          aria-label="To year"
          inputmode="numeric"
          maxlength="4"
          @input="typed('year_to', ($event.target as HTMLInputElement).value)"
        /><span v-if="unknown" class="soft">{{ count(unknown) }} without</span>
      </div>
      <div v-if="years.length > 1" class="years" aria-hidden="true">
        <span
          v-for="it in years"
          :key="it.value"
          :title="`${it.value}: ${count(it.n)}`"
          :style="{ height: `${Math.max(1, Math.round((28 * it.n) / most))}px` }"
        />
      </div>
      <template v-if="verdicts && (facets.descriptors?.length || filter.shared || filter.shared_qualified)">
        <h3>In common with the seeds</h3>
        <div class="row">
          <label v-for="[key, said] in SHARED" :key="key"
            ><input
              class="box few"
              :value="filter[key]"
              placeholder="0"
              inputmode="numeric"
              maxlength="2"
              :aria-label="`At least so many ${said} in common with the seeds`"
              @input="typed(key, ($event.target as HTMLInputElement).value.replace(/\D/g, ''))"
            />
            {{ said }}</label
          >
        </div>
      </template>
      <template v-for="group in groups" :key="group.key">
        <template v-if="group.values.length > 0">
          <h3>{{ group.title }}</h3>
          <button
            v-for="it in group.values.slice(0, 14)"
            :key="it.value"
            class="value"
            :class="{ kept: filter[group.key] === it.value }"
            :aria-pressed="filter[group.key] === it.value"
            @click="toggle(group.key, it.value)"
          >
            <span class="clip">{{ 'name' in it ? (it as { name: string }).name : group.word(it.value) }}</span><span
              class="num soft"
              >{{ count(it.n) }}</span
            >
          </button>
          <p v-if="group.values.length > 14" class="soft">and {{ group.values.length - 14 }} more</p>
        </template>
      </template>
    </div>
  </aside>
</template>

<style scoped>
.wide {
  width: 100%;
  margin-bottom: 6px;
}
h3 {
  margin: 12px 0 2px;
  font-size: 12px;
  color: var(--ks-soft);
}
.year {
  width: 64px;
}
.few {
  width: 38px;
}
.years {
  display: flex;
  align-items: flex-end;
  gap: 1px;
  height: 30px;
  margin-top: 6px;
}
.years span {
  flex: 1 1 0;
  background: var(--ks-pine);
  min-width: 1px;
}
.value {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 2px 4px;
}
.value:hover {
  background: var(--ks-wash);
}
.value.kept {
  background: var(--ks-copper-wash);
  font-weight: 600;
}
</style>
