<script setup lang="ts">
// The query as concepts: any of these terms, and all of these concepts.
import { nextTick, reactive, ref } from 'vue'
import { say } from '@/common/messages'
import ConceptSuggestions from './ConceptSuggestions.vue'
import type { Concept } from './draft'
import TermOffers from './TermOffers.vue'

const concepts = defineModel<Concept[]>({ required: true })
const props = defineProps<{ may: boolean; wrong: { concept: number | null; term: number | null } | null }>()
const emit = defineEmits<{ changed: [] }>()
const PLACES = [
  ['', 'everywhere'],
  ['title', 'in title'],
  ['title,abstract', 'in title, abstract'],
  ['keyword', 'in descriptors'],
  ['author', 'in authors'],
  ['journal', 'in journal'],
] as const
const typed = reactive<Record<number, string>>({})
const box = ref<HTMLElement | null>(null)
const looked = ref<{ k: number; n: number } | null>(null)
const suggesting = ref(false)
const suggestFor = ref(0)

function put(k: number, term: string) {
  const concept = concepts.value[k]!
  if (!concept.terms.includes(term)) concept.terms.push(term)
  emit('changed')
}

function add(k: number) {
  const concept = concepts.value[k]!
  const parts = (typed[k] ?? '').split(/[;\n]/).map((one) => one.trim())
  const terms = parts.filter((part) => part && !concept.terms.includes(part))
  typed[k] = ''
  if (!terms.length) return
  concept.terms.push(...terms)
  emit('changed')
}
function remove(k: number, n: number) {
  const concept = concepts.value[k]!
  const [gone] = concept.terms.splice(n, 1)
  emit('changed')
  say(`${gone} is out of the query.`, async () => {
    concept.terms.splice(n, 0, gone!)
    emit('changed')
  })
}
function rewrite(k: number, n: number, text: string) {
  if (!text.trim()) return remove(k, n)
  concepts.value[k]!.terms[n] = text.trim()
  emit('changed')
}
async function addConcept() {
  concepts.value.push({ label: '', joint: 'any', terms: [], left_out: false, fields: [] })
  await nextTick()
  box.value?.querySelectorAll<HTMLInputElement>('.name')[concepts.value.length - 1]?.focus()
}
function drop(k: number) {
  const [gone] = concepts.value.splice(k, 1)
  emit('changed')
  if (gone?.terms.length)
    say(`The concept ${gone.label || k + 1} is out of the query.`, async () => {
      concepts.value.splice(k, 0, gone)
      emit('changed')
    })
}
function move(k: number, by: number) {
  const [moved] = concepts.value.splice(k, 1)
  if (moved) concepts.value.splice(k + by, 0, moved)
  emit('changed')
}
const odd = (k: number, n: number) => props.wrong?.concept === k && props.wrong?.term === n
</script>

<template>
  <ol ref="box" class="cards">
    <li v-for="(concept, k) in concepts" :key="k" class="card" :class="{ out: concept.left_out }">
      <div class="top">
        <span class="soft small joint">{{ concept.left_out ? 'and none of' : k ? 'and' : 'all of' }}</span>
        <input
          v-model="concept.label"
          class="name"
          :aria-label="`Name of concept ${k + 1}`"
          :placeholder="`Concept ${k + 1}`"
          maxlength="120"
          :readonly="!may"
          @change="emit('changed')"
        />
        <button v-if="may" class="soft drop" :aria-label="`Remove concept ${concept.label || k + 1}`" @click="drop(k)">
          ×
        </button>
        <span v-if="may" class="deeds small">
          <button
            :aria-label="`Concept ${k + 1}: ${concept.joint === 'any' ? 'any of its terms' : 'all of its terms'}; change`"
            @click="((concept.joint = concept.joint === 'any' ? 'all' : 'any'), emit('changed'))"
          >
            {{ concept.joint === 'any' ? 'any of' : 'all of' }}
          </button>
          <select
            :value="(concept.fields ?? []).join(',')"
            :aria-label="`Where concept ${k + 1} is looked for`"
            @change="
              ((concept.fields = ($event.target as HTMLSelectElement).value.split(',').filter(Boolean)),
              emit('changed'))
            "
          >
            <option v-for="[value, words] in PLACES" :key="value" :value="value">{{ words }}</option>
            <option
              v-if="!PLACES.some(([value]) => value === (concept.fields ?? []).join(','))"
              :value="(concept.fields ?? []).join(',')"
            >
              in {{ (concept.fields ?? []).join(', ') }}
            </option>
          </select>
          <button :aria-pressed="concept.left_out" @click="((concept.left_out = !concept.left_out), emit('changed'))">
            {{ concept.left_out ? 'look for it' : 'leave out' }}
          </button>
          <button :disabled="k === 0" :aria-label="`Move concept ${k + 1} before`" @click="move(k, -1)">←</button>
          <button :disabled="k === concepts.length - 1" :aria-label="`Move concept ${k + 1} after`" @click="move(k, 1)">
            →
          </button>
        </span>
      </div>
      <ul class="terms">
        <li v-for="(term, n) in concept.terms" :key="`${n}-${term}`" class="term" :class="{ wrong: odd(k, n) }">
          <input
            class="mono"
            :value="term"
            :size="Math.min(60, Math.max(3, term.length))"
            :aria-label="`Term ${n + 1} of ${concept.label || `concept ${k + 1}`}`"
            :aria-invalid="odd(k, n)"
            :readonly="!may"
            @focus="looked = { k, n }"
            @change="rewrite(k, n, ($event.target as HTMLInputElement).value)"
          />
          <button v-if="may" class="soft" :aria-label="`Remove ${term}`" @click="remove(k, n)">×</button>
        </li>
        <li v-if="may">
          <input
            v-model="typed[k]"
            class="more"
            :aria-label="`Add a term to ${concept.label || `concept ${k + 1}`}`"
            :placeholder="concept.terms.length ? 'or …' : 'a word or a phrase, then Enter'"
            @keydown.enter.prevent="add(k)"
            @blur="add(k)"
          />
          <button
            class="small suggest"
            :aria-label="`Suggest terms for ${concept.label || `concept ${k + 1}`}`"
            @click="((suggestFor = k), (suggesting = true))"
          >
            suggest
          </button>
        </li>
      </ul>
      <TermOffers
        v-if="may && looked?.k === k && concept.terms[looked.n]"
        :term="concept.terms[looked.n]!"
        :present="concept.terms"
        @add="put(k, $event)"
      />
    </li>
    <li v-if="may" class="card new"><button @click="addConcept">Add a concept</button></li>
  </ol>
  <ConceptSuggestions
    v-if="concepts[suggestFor]"
    v-model="suggesting"
    :concepts="concepts"
    :place="suggestFor"
    @add="put(suggestFor, $event)"
  />
</template>

<style scoped>
.cards {
  list-style: none;
  margin: 0;
  padding: 12px 16px;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(280px, 1fr));
  gap: 8px;
  align-items: start;
}
.card {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  background: var(--ks-ground);
}
.out {
  border-style: dashed;
}
.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  padding: 6px 8px;
  border-bottom: 1px solid var(--ks-hair);
}
.name {
  flex: 1;
  min-width: 90px;
  font-weight: 600;
  background: none;
  border: 0;
  color: inherit;
}
.name::placeholder,
.more::placeholder {
  color: var(--ks-soft);
  opacity: 1;
  font-weight: 400;
}
.drop {
  padding: 0 5px;
}
.deeds {
  display: flex;
  flex-basis: 100%;
  flex-wrap: wrap;
  gap: 2px 10px;
  color: var(--ks-soft);
}
.deeds button {
  white-space: nowrap;
}
.deeds button:hover:not(:disabled),
.new button {
  color: var(--ks-pine);
}
.deeds button:disabled {
  opacity: 0.4;
}
.terms {
  list-style: none;
  margin: 0;
  padding: 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.term {
  display: inline-flex;
  align-items: center;
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  background: var(--ks-sheet);
  padding: 0 2px 0 6px;
  max-width: 100%;
}
.term input {
  border: 0;
  background: none;
  color: inherit;
  line-height: 22px;
  min-width: 0;
  max-width: 100%;
}
.term button {
  padding: 0 5px;
}
.wrong {
  border-color: var(--ks-bad);
}
.more {
  border: 0;
  background: none;
  color: inherit;
  line-height: 24px;
  width: 150px;
  padding: 0 4px;
}
.suggest {
  color: var(--ks-pine);
}
.deeds select {
  background: none;
  color: inherit;
  border: 0;
  font: inherit;
  width: 92px;
}
.new {
  border-style: dashed;
  padding: 8px;
}
</style>
