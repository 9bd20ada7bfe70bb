<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import { got, PATCH, PUT, type Schemas } from '@/api/client'
import { SOURCE_KINDS } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import CriteriaList from './CriteriaList.vue'

const { path, protocol, mayLead } = useReview()
const refresh = useRefresh()

const form = reactive({ title: '', question: '', year_from: '', year_to: '', languages: '' })
const elements = ref<{ label: string; terms: string }[]>([])
const criteria = ref<Schemas['Criterion'][]>([])
const sources = ref<Schemas['PlannedSource'][]>([])
const touched = reactive({ question: false, elements: false, criteria: false, sources: false })

watch(
  () => protocol.data.value,
  (it) => {
    if (!it) return
    if (!touched.question)
      Object.assign(form, { title: it.title, question: it.question, year_from: it.year_from ?? '', year_to: it.year_to ?? '', languages: it.languages })
    if (!touched.elements) elements.value = it.elements.map((element) => ({ label: element.label, terms: element.terms.join('; ') }))
    if (!touched.criteria) criteria.value = it.criteria.map((criterion) => ({ ...criterion }))
    if (!touched.sources) sources.value = it.sources.map((source) => ({ ...source }))
  },
  { immediate: true },
)

const year = (text: string | number) => (String(text).trim() ? Number(text) : null)

async function save() {
  try {
    if (touched.question)
      await got(PATCH('/api/reviews/{review}/protocol', { params: path.value, body: { title: form.title, question: form.question, languages: form.languages, year_from: year(form.year_from), year_to: year(form.year_to) } }))
    if (touched.elements)
      await got(PUT('/api/reviews/{review}/elements', { params: path.value, body: elements.value.map((it) => ({ label: it.label, terms: it.terms.split(/[;\n]/).map((term) => term.trim()).filter(Boolean) })) }))
    if (touched.criteria) await got(PUT('/api/reviews/{review}/criteria', { params: path.value, body: criteria.value }))
    if (touched.sources) await got(PUT('/api/reviews/{review}/planned-sources', { params: path.value, body: sources.value.filter((it) => it.name.trim()) }))
    Object.assign(touched, { question: false, elements: false, criteria: false, sources: false })
    await refresh('protocol', 'reviews')
    say('The protocol is saved.')
  } catch (error) {
    complain(error)
  }
}
const changed = () => Object.values(touched).some(Boolean)
const FRAMEWORK = ['Population', 'Intervention', 'Comparator', 'Outcome', 'Design']
function addElement() {
  touched.elements = true
  const next = FRAMEWORK.find((label) => !elements.value.some((it) => it.label === label)) ?? ''
  elements.value.push({ label: next, terms: '' })
}
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <span v-if="changed()" class="soft small" role="status">Not saved yet</span>
      <v-btn v-if="mayLead" class="main" :disabled="!changed()" @click="save">Save the protocol</v-btn>
      <span v-else class="soft small">Only a lead changes the protocol</span>
    </Teleport>
    <section class="pane pad">
      <fieldset :disabled="!mayLead" class="fields" @input="touched.question = true">
        <legend class="unseen">Question and limits</legend>
        <h2>Question</h2>
        <v-text-field v-model="form.title" label="Title" maxlength="300" />
        <v-textarea v-model="form.question" label="Question" maxlength="5000" class="read" />
        <h2>Limits</h2>
        <div class="row">
          <v-text-field v-model="form.year_from" label="Published from (year)" inputmode="numeric" maxlength="4" />
          <v-text-field v-model="form.year_to" label="to (year)" inputmode="numeric" maxlength="4" />
          <v-text-field v-model="form.languages" label="Languages" placeholder="any" />
        </div>
      </fieldset>
      <fieldset :disabled="!mayLead" class="fields block" @input="touched.elements = true">
        <div class="row"><h2>Elements of the question</h2><v-btn v-if="mayLead" class="push" @click="addElement">Add an element</v-btn></div>
        <p v-if="!elements.length" class="soft">Who or what is studied, what is done, compared with what, to which end: one element each, with the words that authors use for it.</p>
        <div v-for="(it, k) in elements" :key="k" class="element">
          <v-text-field v-model="it.label" :label="`Element ${k + 1}`" />
          <v-textarea v-model="it.terms" label="Terms, separated by semicolons" rows="1" />
          <v-btn v-if="mayLead" :aria-label="`Remove element ${it.label}`" @click="(elements.splice(k, 1), (touched.elements = true))">Remove</v-btn>
        </div>
      </fieldset>
      <fieldset :disabled="!mayLead" class="fields block" @input="touched.sources = true">
        <div class="row"><h2>Planned sources</h2><v-btn v-if="mayLead" class="push" @click="(sources.push({ name: '', kind: 'database' }), (touched.sources = true))">Add a source</v-btn></div>
        <p v-if="!sources.length" class="soft">Databases, registers and other places that will be searched.</p>
        <div v-for="(it, k) in sources" :key="k" class="source">
          <v-text-field v-model="it.name" :label="`Source ${k + 1}`" />
          <v-select v-model="it.kind" :items="[...SOURCE_KINDS]" label="Kind" :disabled="!mayLead" @update:model-value="touched.sources = true" />
          <v-btn v-if="mayLead" :aria-label="`Remove source ${it.name}`" @click="(sources.splice(k, 1), (touched.sources = true))">Remove</v-btn>
        </div>
      </fieldset>
    </section>
    <section class="pane pad">
      <CriteriaList v-model="criteria" :may="mayLead" @touched="touched.criteria = true" />
    </section>
  </div>
</template>

<style scoped>
.columns { grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); }
fieldset { border: 0; padding: 0; margin: 0; min-width: 0; }
.block { margin-top: 28px; }
.element { display: grid; grid-template-columns: 140px minmax(0, 1fr) auto; gap: 8px; align-items: start; }
.source { display: grid; grid-template-columns: minmax(0, 1fr) 190px auto; gap: 8px; align-items: center; }
</style>
