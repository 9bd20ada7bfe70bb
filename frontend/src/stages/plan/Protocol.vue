<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { got, PUT, type Schemas } from '@/api/client'
import { plural, SOURCE_KINDS } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import FirstStep from '@/common/FirstStep.vue'
import CriteriaList from './CriteriaList.vue'

const { review, path, protocol, mayLead } = useReview()
const refresh = useRefresh()

const PLAIN = [
  'title',
  'question',
  'framework',
  'year_from',
  'year_to',
  'languages',
  'types',
  'update_of',
  'updates_from',
  'registered_in',
  'registration_number',
  'registered_on',
] as const
const form = reactive<Record<(typeof PLAIN)[number], string>>({
  title: '',
  question: '',
  framework: 'free',
  year_from: '',
  year_to: '',
  languages: '',
  types: '',
  update_of: '',
  updates_from: '',
  registered_in: '',
  registration_number: '',
  registered_on: '',
})
const elements = ref<{ label: string; terms: string }[]>([])
const criteria = ref<Schemas['Criterion'][]>([])
const sources = ref<Schemas['PlannedSource'][]>([])
const touched = reactive({ plain: false, elements: false, criteria: false, sources: false })
const reason = ref('')
const seen = ref<number>()
const changed = computed(() => Object.values(touched).some(Boolean))

watch(
  () => protocol.data.value,
  (one) => {
    if (!one) return
    if (!touched.plain) for (const name of PLAIN) form[name] = String(one[name] ?? '')
    if (!touched.elements)
      elements.value = one.elements.map((element) => ({ label: element.label, terms: element.terms.join('; ') }))
    if (!touched.criteria) criteria.value = one.criteria.map((criterion) => ({ ...criterion }))
    if (!touched.sources) sources.value = one.sources.map((source) => ({ ...source }))
    if (!changed.value) seen.value = one.version
  },
  { immediate: true },
)
function plain() {
  const orNull = (text: string) => text.trim() || null
  const year = (text: string) => (text.trim() ? Number(text) : null)
  return {
    ...form,
    framework: form.framework as Schemas['Protocol']['framework'],
    year_from: year(form.year_from),
    year_to: year(form.year_to),
    updates_from: orNull(form.updates_from),
    registered_on: orNull(form.registered_on),
  }
}
async function save() {
  const body: Schemas['Amended'] = {
    ...(touched.plain ? plain() : {}),
    ...(touched.elements
      ? {
          elements: elements.value.map((element) => ({
            label: element.label,
            terms: element.terms
              .split(/[;\n]/)
              .map((term) => term.trim())
              .filter(Boolean),
          })),
        }
      : {}),
    ...(touched.criteria ? { criteria: criteria.value } : {}),
    ...(touched.sources ? { sources: sources.value.filter((source) => source.name.trim()) } : {}),
    reason: reason.value,
    seen: seen.value ?? null,
  }
  try {
    const { version } = await got(PUT('/api/reviews/{review}/protocol', { params: path.value, body }))
    Object.assign(touched, { plain: false, elements: false, criteria: false, sources: false })
    reason.value = ''
    await refresh('protocol', 'reviews')
    say(`The protocol is saved as version ${version}.`)
  } catch (error) {
    await refresh('protocol')
    seen.value = protocol.data.value?.version
    complain(error)
  }
}
const FRAMEWORKS = [
  ['pico', 'PICO'],
  ['peco', 'PECO'],
  ['picos', 'PICOS'],
  ['spider', 'SPIDER'],
  ['free', 'Free'],
].map(([value, title]) => ({ value: value!, title: title! }))
const labels = (framework: string) => protocol.data.value?.frameworks[framework] ?? []
/** Nothing but a title and a question yet. */
const bareProtocol = computed(() => {
  const held = protocol.data.value
  return held && !held.elements.length && !held.criteria.length && !held.sources.length
})
/** The elements of the framework; terms that are there stay, those of a label that it does not have at the end. */
function useFramework(framework: string) {
  const had = elements.value.filter((element) => element.label || element.terms)
  const wanted = labels(framework)
  elements.value = [
    ...wanted.map((label) => had.find((one) => one.label === label) ?? { label, terms: '' }),
    ...had.filter((one) => !wanted.includes(one.label) && (one.terms || !wanted.length)),
  ]
  Object.assign(touched, { plain: true, elements: true })
}
function addElement() {
  touched.elements = true
  elements.value.push({
    label: labels(form.framework).find((label) => !elements.value.some((element) => element.label === label)) ?? '',
    terms: '',
  })
}
const needsReason = computed(() => changed.value && (protocol.data.value?.needs_reason ?? false))
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <form v-if="mayLead && changed" class="row" @submit.prevent="save">
        <input
          v-model="reason"
          class="box why"
          maxlength="1000"
          :required="needsReason"
          :aria-label="needsReason ? 'Why it changes; needed, since records have been judged' : 'Why it changes'"
          :placeholder="needsReason ? 'Why it changes (needed: records have been judged)' : 'Why it changes'"
        />
        <v-btn class="main" type="submit" :disabled="needsReason && !reason.trim()"
          >Save as version {{ (protocol.data.value?.version ?? 0) + 1 }}</v-btn
        >
      </form>
      <template v-else>
        <span v-if="!mayLead" class="soft small">Only a lead changes the protocol</span>
        <v-btn :to="`/reviews/${review}/plan/versions`">{{
          plural(protocol.data.value?.version ?? 0, 'version')
        }}</v-btn>
        <v-btn :href="`/api/reviews/${review}/protocol.md`" download>Markdown</v-btn>
        <v-btn :href="`/api/reviews/${review}/protocol.docx`" download>DOCX</v-btn>
      </template>
    </Teleport>
    <section class="pane pad">
      <FirstStep v-if="bareProtocol" stage="Plan" here class="begin" />
      <fieldset :disabled="!mayLead" class="fields" @input="touched.plain = true">
        <legend class="unseen">Question</legend>
        <h2>Question</h2>
        <TextField v-model="form.title" label="Title" maxlength="300" />
        <TextArea v-model="form.question" label="Question" maxlength="5000" rows="2" class="read" />
      </fieldset>
      <fieldset :disabled="!mayLead" class="fields block" @input="touched.elements = true">
        <div class="row">
          <h2>Elements of the question</h2>
          <ChoiceField
            v-model="form.framework"
            :items="FRAMEWORKS"
            label="Framework"
            bare
            :disabled="!mayLead"
            class="push framework"
            @update:model-value="useFramework(form.framework)"
          /><v-btn v-if="mayLead" @click="addElement">Add an element</v-btn>
        </div>
        <p v-if="!elements.length" class="soft">
          Who or what is studied, what is done, compared with what, to which end: one element each, with the words that
          authors use for it. A framework gives the usual ones.
        </p>
        <div v-for="(element, k) in elements" :key="k" class="element">
          <TextField v-model="element.label" :label="`Element ${k + 1}`" maxlength="100" />
          <TextArea v-model="element.terms" label="Terms, separated by semicolons" rows="1" />
          <v-btn
            v-if="mayLead"
            :aria-label="`Remove element ${element.label}`"
            @click="(elements.splice(k, 1), (touched.elements = true))"
            >Remove</v-btn
          >
        </div>
      </fieldset>
      <fieldset :disabled="!mayLead" class="fields block" @input="touched.plain = true">
        <h2>Limits</h2>
        <div class="row">
          <TextField v-model="form.year_from" label="Published from (year)" inputmode="numeric" maxlength="4" />
          <TextField v-model="form.year_to" label="to (year)" inputmode="numeric" maxlength="4" />
        </div>
        <div class="row">
          <TextField v-model="form.languages" label="Languages" placeholder="any" maxlength="300" />
          <TextField v-model="form.types" label="Types of publication" placeholder="any" maxlength="300" />
        </div>
        <h2 class="gap">Earlier review</h2>
        <p class="soft small">
          When this review goes on from one that exists, every search is limited to what was added since that one's last
          search.
        </p>
        <div class="row">
          <TextField v-model="form.update_of" label="The review that this one updates" maxlength="1000" class="wide" />
          <TextField v-model="form.updates_from" label="Its last search" type="date" />
        </div>
        <p v-if="protocol.data.value?.limits && !touched.plain" class="small soft">
          Carried into every new search: {{ protocol.data.value.limits }}.
        </p>
        <h2 class="gap">Registration</h2>
        <div class="row">
          <TextField v-model="form.registered_in" label="Registry" maxlength="200" />
          <TextField v-model="form.registration_number" label="Number" maxlength="100" />
          <TextField v-model="form.registered_on" label="Date" type="date" />
        </div>
      </fieldset>
      <fieldset :disabled="!mayLead" class="fields block" @input="touched.sources = true">
        <div class="row">
          <h2>Planned sources</h2>
          <v-btn
            v-if="mayLead"
            class="push"
            @click="(sources.push({ name: '', kind: 'database' }), (touched.sources = true))"
            >Add a source</v-btn
          >
        </div>
        <p v-if="!sources.length" class="soft">Databases, registers and other places that will be searched.</p>
        <div v-for="(source, k) in sources" :key="k" class="source">
          <TextField v-model="source.name" :label="`Source ${k + 1}`" maxlength="200" />
          <ChoiceField
            v-model="source.kind"
            :items="[...SOURCE_KINDS]"
            label="Kind"
            :disabled="!mayLead"
            @update:model-value="touched.sources = true"
          />
          <v-btn
            v-if="mayLead"
            :aria-label="`Remove source ${source.name}`"
            @click="(sources.splice(k, 1), (touched.sources = true))"
            >Remove</v-btn
          >
        </div>
      </fieldset>
    </section>
    <section class="pane pad">
      <CriteriaList v-model="criteria" :may="mayLead" @touched="touched.criteria = true" />
    </section>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
}
.block {
  margin-top: 28px;
}
.gap {
  margin-top: 12px;
}
.framework {
  max-width: 130px;
}
.wide {
  flex: 2;
}
.why {
  width: 320px;
}
@media (max-width: 1200px) {
  .why {
    width: 200px;
  }
}
.begin {
  margin-bottom: 20px;
}
.element {
  display: grid;
  grid-template-columns: 140px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: end;
}
.source {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 190px auto;
  gap: 8px;
  align-items: end;
}
</style>
