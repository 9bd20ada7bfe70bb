<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { wasLate } from '@/common/late'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

type Item = Omit<Schemas['Item'], 'choices'> & { choices: string }
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['codebook', review],
  queryFn: () => got(GET('/api/reviews/{review}/codebook', { params: path.value })),
})
const items = ref<Item[]>([])
const touched = ref(false)
/** The codebook as it was when these changes were begun. */
const seen = ref<Schemas['Item'][]>([])
function take(found: Schemas['Item'][]) {
  seen.value = found
  items.value = found.map((item) => ({ ...item, choices: (item.choices ?? []).join('; ') }))
}
watch(data, (it) => it && !touched.value && take(it), { immediate: true })

const KINDS = [
  { value: 'text', title: 'Text' },
  { value: 'number', title: 'Number' },
  { value: 'date', title: 'Date' },
  { value: 'choice', title: 'Choice' },
  { value: 'yesno', title: 'Yes or no' },
  { value: 'events', title: 'Events of total' },
]
function add() {
  items.value.push({ id: null, name: '', kind: 'text', unit: '', choices: '', instructions: '' })
  touched.value = true
}
function move(k: number, by: number) {
  const [moved] = items.value.splice(k, 1)
  if (moved) items.value.splice(k + by, 0, moved)
  touched.value = true
}
const said = () =>
  items.value.map((it) => ({
    ...it,
    choices: it.choices
      .split(/[;\n]/)
      .map((choice) => choice.trim())
      .filter(Boolean),
  }))
async function save(wanted: Schemas['Item'][] = said(), since: Schemas['Item'][] = seen.value) {
  try {
    await got(PUT('/api/reviews/{review}/codebook', { params: path.value, body: { items: wanted, seen: since } }))
  } catch (failure) {
    if (!wasLate<Schemas['Item'][]>(failure, save, again)) complain(failure)
    return
  }
  await again()
  say('The codebook is saved.')
}
/** What stands now. */
async function again() {
  touched.value = false
  await refresh('codebook', 'evidence', 'figures')
  if (data.value) take(data.value)
}
</script>

<template>
  <section class="pane pad full">
    <Teleport to="#view-actions" defer>
      <span v-if="touched" class="soft small" role="status">Not saved yet</span>
      <v-btn v-if="mayWrite" @click="add">Add an item</v-btn>
      <v-btn v-if="mayWrite" class="main" :disabled="!touched" @click="save()">Save the codebook</v-btn>
    </Teleport>
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <div v-if="!items.length" class="soft">
        <h2>The codebook is empty</h2>
        <p>
          Add one data item for each thing to extract from every study: a text, a number with its unit, a date, a
          choice, yes or no, or events of a total.
        </p>
      </div>
      <ol @input="touched = true">
        <li v-for="(it, k) in items" :key="it.id ?? `new-${k}`">
          <TextField v-model="it.name" :label="`Item ${k + 1}`" :readonly="!mayWrite" maxlength="120" />
          <ChoiceField
            v-model="it.kind"
            :items="KINDS"
            label="Kind"
            :readonly="!mayWrite"
            @update:model-value="touched = true"
          />
          <TextField v-if="it.kind === 'number'" v-model="it.unit" label="Unit" :readonly="!mayWrite" />
          <TextField
            v-else-if="it.kind === 'choice'"
            v-model="it.choices"
            label="Choices, separated by semicolons"
            :readonly="!mayWrite"
          />
          <span v-else />
          <TextArea v-model="it.instructions" label="Instructions" rows="1" :readonly="!mayWrite" />
          <span v-if="mayWrite" class="row beside">
            <v-btn :disabled="k === 0" :aria-label="`Move ${it.name} up`" @click="move(k, -1)">↑</v-btn>
            <v-btn :disabled="k === items.length - 1" :aria-label="`Move ${it.name} down`" @click="move(k, 1)">↓</v-btn>
            <v-btn :aria-label="`Remove ${it.name}`" @click="(items.splice(k, 1), (touched = true))">Remove</v-btn>
          </span>
        </li>
      </ol>
    </StateOf>
  </section>
</template>

<style scoped>
.full {
  height: 100%;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: grid;
  grid-template-columns: minmax(140px, 1.2fr) 150px minmax(120px, 1fr) minmax(200px, 2fr) auto;
  gap: 8px;
  padding: 10px 0;
  border-bottom: 1px solid var(--ks-hair);
  align-items: start;
}
</style>
