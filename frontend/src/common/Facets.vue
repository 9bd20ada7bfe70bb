<script setup lang="ts">
// What the records of a list divide into: each value with its count, to keep.
import { computed } from 'vue'
import { count, KIND_WORDS, plural, VERDICT_WORDS } from '@/common/format'
import type { Filter } from './filter'
import TypedBox from './TypedBox.vue'

type Value = { value: string; n: number }
const props = defineProps<{ filter: Filter; facets: Record<string, Value[]>; verdicts: boolean; total?: number }>()
const emit = defineEmits<{ set: [changes: Partial<Filter>]; clear: [] }>()
const HAVE: Record<string, string> = { yes: 'yes', no: 'no' }
/** Values with a number and a name, such as labels and people. */
const named = (some: Value[] | undefined) =>
  (some ?? []).map((one) => ({
    value: one.value.slice(0, one.value.indexOf(':')),
    n: one.n,
    name: one.value.slice(one.value.indexOf(':') + 1),
  }))
const plain = (word: string) => word
/** At least so many descriptors, and qualifiers at the same descriptor. */
const SHARED = [
  ['shared', 'descriptors'],
  ['shared_qualified', 'qualifiers'],
] as const
const yes = (word: string) => HAVE[word] ?? word
const groups = computed(() => {
  const all = [
    {
      key: 'verdict' as const,
      title: 'State',
      values: props.verdicts ? (props.facets.states ?? []) : [],
      word: (word: string) => VERDICT_WORDS[word] ?? word,
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
      word: (word: string) => KIND_WORDS[word] ?? word,
    },
    {
      key: 'language' as const,
      title: 'Language',
      values: (props.facets.languages ?? []).map((language) => ({ ...language, value: language.value || '-' })),
      word: (word: string) => (word === '-' ? 'not said' : word),
    },
  ]
  const descriptors = {
    key: 'descriptor' as const,
    title: 'Descriptor',
    values: props.facets.descriptors ?? [],
    word: plain,
  }
  return [...all, descriptors].filter((descriptor) => descriptor.values.length > 1 || props.filter[descriptor.key])
})
const years = computed(() => (props.facets.years ?? []).filter((year) => year.value))
const unknown = computed(() => (props.facets.years ?? []).find((year) => !year.value)?.n ?? 0)
const most = computed(() => Math.max(1, ...years.value.map((year) => year.n)))
const typed = (key: keyof Filter, value: string) => emit('set', { [key]: value })
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
      <TypedBox
        class="box wide"
        :said="filter.words"
        placeholder="Contains words; -word not"
        aria-label="Contains words; -word must not occur"
        @typed="(text) => typed('words', text)"
      />
      <h3>Year</h3>
      <div class="row">
        <TypedBox
          class="box year"
          :said="filter.year_from"
          :placeholder="years[0]?.value ?? 'from'"
          aria-label="From year"
          digits
          inputmode="numeric"
          maxlength="4"
          @typed="(text) => typed('year_from', text)"
        />–<TypedBox
          class="box year"
          :said="filter.year_to"
          :placeholder="years.at(-1)?.value ?? 'to'"
          aria-label="To year"
          digits
          inputmode="numeric"
          maxlength="4"
          @typed="(text) => typed('year_to', text)"
        /><span v-if="unknown" class="soft">{{ count(unknown) }} without</span>
      </div>
      <div v-if="years.length > 1" class="years" aria-hidden="true">
        <span
          v-for="year in years"
          :key="year.value"
          :title="`${year.value}: ${count(year.n)}`"
          :style="{ height: `${Math.max(1, Math.round((28 * year.n) / most))}px` }"
        />
      </div>
      <template v-if="verdicts && (facets.descriptors?.length || filter.shared || filter.shared_qualified)">
        <h3>In common with the seeds</h3>
        <div class="row">
          <label v-for="[key, said] in SHARED" :key="key"
            ><TypedBox
              class="box few"
              :said="filter[key]"
              placeholder="0"
              digits
              inputmode="numeric"
              maxlength="2"
              :aria-label="`At least so many ${said} in common with the seeds`"
              @typed="(text) => typed(key, text)"
            />
            {{ said }}</label
          >
        </div>
      </template>
      <template v-for="group in groups" :key="group.key">
        <template v-if="group.values.length > 0">
          <h3>{{ group.title }}</h3>
          <button
            v-for="one in group.values.slice(0, 14)"
            :key="one.value"
            class="value"
            :class="{ kept: filter[group.key] === one.value }"
            :aria-pressed="filter[group.key] === one.value"
            @click="toggle(group.key, one.value)"
          >
            <span class="clip">{{ 'name' in one ? (one as { name: string }).name : group.word(one.value) }}</span><span
              class="num soft"
              >{{ count(one.n) }}</span
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
