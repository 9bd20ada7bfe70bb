<script setup lang="ts">
// One pass of the rule: which fields must agree, which must not differ, for which kinds and sources.
import { computed } from 'vue'
import { KIND_WORDS } from '@/common/format'
import { FIELD_WORDS, THEN_WORDS, type How, type Pass } from './rule'

const props = defineProps<{
  pass: Pass
  number: number
  last: boolean
  fields: string[]
  closely: string[]
  sources: string[]
  readonly: boolean
}>()
const emit = defineEmits<{ change: [pass: Pass]; remove: []; move: [by: number] }>()
const change = (changes: Partial<Pass>) => emit('change', { ...props.pass, ...changes })
type Part = 'agree' | 'not_differ'
const conditions = computed(() =>
  (['agree', 'not_differ'] as const).flatMap((part) =>
    Object.entries(props.pass[part] ?? {}).map(([field, how]) => ({ part, field, how: how })),
  ),
)
const unused = computed(() =>
  props.fields.filter((field) => !conditions.value.some((condition) => condition.field === field)),
)
function put(part: Part, field: string, how: How | null, from?: Part) {
  const next = { agree: { ...props.pass.agree }, not_differ: { ...props.pass.not_differ } }
  if (from) delete next[from][field]
  if (how === null) delete next[part][field]
  else next[part][field] = how
  change(next)
}
const hows = (field: string) =>
  field === 'year'
    ? ['exactly', '± 1', '± 2', '± 3']
    : props.closely.includes(field)
      ? ['exactly', 'closely']
      : ['exactly']
const shown = (how: How) => (typeof how === 'number' ? (how ? `± ${how}` : 'exactly') : how)
const read = (text: string): How => (text.startsWith('±') ? Number(text.slice(2)) : (text as 'exactly' | 'closely'))
const value = (event: Event) => (event.target as HTMLSelectElement).value
const toggle = (all: readonly string[] | undefined, value: string) =>
  (all ?? []).includes(value) ? (all ?? []).filter((one) => one !== value) : [...(all ?? []), value]
</script>

<template>
  <fieldset class="pass small" :disabled="readonly">
    <legend class="unseen">Pass {{ number }}</legend>
    <div class="row">
      <b>{{ number }}</b><input
        class="box name"
        :value="pass.name"
        :aria-label="`Name of pass ${number}`"
        maxlength="80"
        @change="change({ name: value($event) })"
      />
      <select
        class="box"
        :value="pass.then"
        :aria-label="`What pass ${number} does`"
        @change="change({ then: value($event) as Pass['then'] })"
      >
        <option v-for="(word, then) in THEN_WORDS" :key="then" :value="then">{{ word }}</option>
      </select>
      <span class="push" /><button
        class="link"
        :disabled="number === 1"
        :aria-label="`Move pass ${number} up`"
        @click="emit('move', -1)"
      >
        up</button
      ><button class="link" :disabled="last" :aria-label="`Move pass ${number} down`" @click="emit('move', 1)">
        down</button
      ><button class="link" :aria-label="`Remove pass ${number}`" @click="emit('remove')">remove</button>
    </div>
    <div v-for="condition in conditions" :key="condition.field" class="row condition">
      <span class="field">{{ FIELD_WORDS[condition.field] ?? condition.field }}</span>
      <select
        class="box"
        :value="condition.part"
        :aria-label="`${condition.field} must`"
        @change="put(value($event) as Part, condition.field, condition.how, condition.part)"
      >
        <option value="agree">must agree</option>
        <option value="not_differ">must not differ</option>
      </select>
      <select
        class="box"
        :value="shown(condition.how)"
        :aria-label="`How ${condition.field} agrees`"
        @change="put(condition.part, condition.field, read(value($event)))"
      >
        <option v-for="how in hows(condition.field)" :key="how" :value="how">{{ how }}</option>
      </select>
      <button
        class="link"
        :aria-label="`Remove the condition on ${condition.field}`"
        @click="put(condition.part, condition.field, null)"
      >
        remove
      </button>
    </div>
    <div class="row condition">
      <select class="box" value="" aria-label="Add a condition" @change="put('agree', value($event), 'exactly')">
        <option value="" disabled>Add a condition …</option>
        <option v-for="field in unused" :key="field" :value="field">{{ FIELD_WORDS[field] ?? field }}</option>
      </select>
      <details>
        <summary class="soft">
          {{
            pass.kinds?.length || pass.sources?.length
              ? `Only ${[...(pass.kinds ?? []).map((one) => KIND_WORDS[one] ?? one), ...(pass.sources ?? [])].join(', ')}`
              : 'For all kinds and sources'
          }}
        </summary>
        <div class="picks">
          <label v-for="(word, kind) in KIND_WORDS" :key="kind"
            ><input
              type="checkbox"
              :checked="pass.kinds?.includes(kind)"
              @change="change({ kinds: toggle(pass.kinds, kind) })"
            />
            {{ word }}</label
          >
        </div>
        <div class="picks">
          <label v-for="source in sources" :key="source"
            ><input
              type="checkbox"
              :checked="pass.sources?.includes(source)"
              @change="change({ sources: toggle(pass.sources, source) })"
            />
            {{ source }}</label
          >
        </div>
      </details>
    </div>
  </fieldset>
</template>

<style scoped>
.pass {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  padding: 8px 10px;
  margin: 0 0 8px;
  min-width: 0;
}
.row {
  flex-wrap: wrap;
}
.name {
  width: 220px;
}
.condition {
  margin: 6px 0 0 18px;
}
.field {
  width: 90px;
}
.picks {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin-top: 4px;
}
</style>
