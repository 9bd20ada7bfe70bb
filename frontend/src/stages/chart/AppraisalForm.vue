<script setup lang="ts">
// The team's form of appraisal: judgements, answers, domains with questions and rules; by version, and as a file.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import { plural, SETTLING } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { copyOf } from '@/common/some'
import StateOf from '@/common/StateOf.vue'
import { wordsOf, type Form } from './appraisal'
import JudgementSign from './JudgementSign.vue'
import RuleLines from './RuleLines.vue'

const { review, path, mayLead } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['appraisal', review, 'form'],
  queryFn: () => got(GET('/api/reviews/{review}/appraisal/form', { params: path.value })),
})
type Full = Required<Omit<Form, 'domains'>> & { domains: Required<Schemas['AppraisalDomain']>[] }
const EMPTY: Full = {
  name: '', judgements: [], apart: [], answers: [], domains: [], overall: [], otherwise: '', whole: true, appraisers: 1, settling: 'third',
} // prettier-ignore
const draft = ref<Full>(EMPTY)
const seen = ref(0)
const touched = ref(false)
function take(form: Form) {
  draft.value = copyOf({ ...EMPTY, ...form })
}
watch(
  data,
  (one) => {
    if (!one || touched.value) return
    seen.value = one.version
    take(one.form)
  },
  { immediate: true },
)
const changed = computed(() => touched.value)
const chosen = computed(() => Math.min(Number(route.query.domain) || 0, Math.max(0, draft.value.domains.length - 1)))
const domain = computed(() => draft.value.domains[chosen.value])
const choose = (k: number) => router.replace({ query: { ...route.query, domain: String(k) } })
const lines = (some: string[]) => some.join('\n')
const split = (text: string | undefined) => (text ?? '').split('\n')
const APPRAISERS = [
  { value: 1, title: 'one person' },
  { value: 2, title: 'two people, each blind to the other' },
]
const otherwise = computed(() => [
  { value: '', title: 'nothing: the person says' },
  ...wordsOf(draft.value).map((one) => ({ value: one, title: one })),
])
/** Without any rule the worst of its domains stands for a study. */
const ofWhole = computed(() => [
  { value: '', title: draft.value.overall.length ? 'nothing' : 'the worst of its domains' },
  ...otherwise.value.slice(1),
])
function addDomain() {
  draft.value.domains.push({ key: '', name: '', help: '', questions: [], rules: [], otherwise: '' })
  touched.value = true
  void choose(draft.value.domains.length - 1)
}
function removeDomain() {
  const before = copyOf(draft.value.domains.map((domain) => ({ ...domain })))
  const gone = draft.value.domains.splice(chosen.value, 1)[0]
  touched.value = true
  say(`${gone?.name || 'The domain'} is removed once the form is saved.`, () => {
    draft.value.domains = before
    return Promise.resolve()
  })
}
function move<T>(list: T[], k: number, by: number) {
  const to = k + by
  if (to < 0 || to >= list.length) return
  list.splice(to, 0, list.splice(k, 1)[0]!)
  touched.value = true
}
const asked = ref<Schemas['TouchedJudgements'] | null>(null)
async function save(agreed = false) {
  await attempt(async () => {
    if (!agreed) {
      const effect = await got(
        POST('/api/reviews/{review}/appraisal/form/preview', { params: path.value, body: draft.value }),
      )
      asked.value = effect.unfit || effect.gone ? effect : null
      if (asked.value) return
    }
    const kept = await got(
      PUT('/api/reviews/{review}/appraisal/form', {
        params: path.value,
        body: { form: draft.value, seen: seen.value, agreed },
      }),
    )
    asked.value = null
    touched.value = false
    seen.value = kept.version
    take(kept.form)
    await refresh('appraisal')
    say(`The form is saved as version ${kept.version}.`)
  })
}
function leave() {
  touched.value = false
  asked.value = null
  if (data.value) take(data.value.form)
}
const picker = ref<HTMLInputElement | null>(null)
async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  if (file.size > 500_000) return complain(new Refusal('This file is larger than a form can be (0.5 MB).', 413))
  const text = await file.text()
  await attempt(async () => {
    take(await got(POST('/api/reviews/{review}/appraisal/form/from-file', { params: path.value, body: { text } })))
    touched.value = true
    say('The file is read. Look at it, then save it.')
  })
}
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <v-btn :to="`/reviews/${review}/chart/appraisal`">To the studies</v-btn>
        <v-btn v-if="draft.domains.length" :href="`/api/reviews/${review}/appraisal/form.toml`" download
          >Save as a file</v-btn
        >
        <v-btn v-if="mayLead" @click="picker?.click()">Read a file</v-btn>
        <v-btn v-if="mayLead" class="main" :disabled="!changed" @click="save()">Save the form</v-btn>
      </Teleport>
      <input
        ref="picker"
        type="file"
        accept=".toml"
        class="unseen"
        aria-label="A form file"
        tabindex="-1"
        @change="read"
      />
      <aside class="pane" aria-label="The form">
        <form class="pad fields" @input="touched = true" @change="touched = true" @submit.prevent="save()">
          <TextField v-model="draft.name" label="Name" :readonly="!mayLead" />
          <TextArea
            :model-value="lines(draft.judgements)"
            label="Judgements, the best first, one a line"
            rows="3"
            :readonly="!mayLead"
            @update:model-value="draft.judgements = split($event as string)"
          />
          <TextArea
            :model-value="lines(draft.apart)"
            label="Judgements that stand in no order"
            hint="Such as “cannot be judged”"
            rows="1"
            :readonly="!mayLead"
            @update:model-value="draft.apart = split($event as string)"
          />
          <p class="row small signs">
            <span v-for="each in wordsOf(draft).filter((one) => one.trim())" :key="each"
              ><JudgementSign :form="draft" :judgement="each" /> {{ each }}</span
            >
          </p>
          <TextArea
            :model-value="lines(draft.answers)"
            label="Answers to questions, one a line"
            hint="In their order they are the keys 1, 2, 3 …"
            rows="4"
            :readonly="!mayLead"
            @update:model-value="draft.answers = split($event as string)"
          />
          <ChoiceField
            v-model="draft.appraisers"
            :items="APPRAISERS"
            label="A study is judged by"
            :disabled="!mayLead"
          />
          <ChoiceField
            v-if="draft.appraisers === 2"
            v-model="draft.settling"
            :items="SETTLING"
            label="What differs is settled by"
            :disabled="!mayLead"
          />
          <TickBox v-model="draft.whole" label="Judge each study as a whole, too" :disabled="!mayLead" />
        </form>
        <nav class="list" aria-label="Domains">
          <div class="head"><b>Domains</b></div>
          <button
            v-for="(listed, k) in draft.domains"
            :key="k"
            class="entry"
            :class="{ on: k === chosen && route.query.domain !== 'whole' }"
            :aria-current="k === chosen && route.query.domain !== 'whole' ? 'true' : undefined"
            @click="choose(k)"
          >
            <span class="clip">{{ listed.name || 'A new domain' }}</span><span class="soft small push">{{
              plural(listed.questions.length, 'question')
            }}</span>
          </button>
          <button
            v-if="draft.whole && draft.domains.length"
            class="entry"
            :class="{ on: route.query.domain === 'whole' }"
            :aria-current="route.query.domain === 'whole' ? 'true' : undefined"
            @click="router.replace({ query: { ...route.query, domain: 'whole' } })"
          >
            <b>All together</b>
          </button>
          <p v-if="mayLead" class="pad"><v-btn @click="addDomain">Add a domain</v-btn></p>
        </nav>
      </aside>
      <section class="pane sheet" aria-label="A part of the form">
        <div class="pad fields" @input="touched = true" @change="touched = true">
          <div v-if="asked" class="notice small" role="alertdialog" aria-label="What becomes of judgements">
            <p v-if="asked.unfit">
              {{ plural(asked.unfit, 'judgement is', 'judgements are') }} by a word that the form would not have any
              more; they would be asked anew.
            </p>
            <p v-if="asked.gone">
              {{ plural(asked.gone, 'judgement is', 'judgements are') }} of a domain that goes; they would be out of
              sight.
            </p>
            <p>Nothing is lost: they come back with their words.</p>
            <div class="row">
              <v-btn class="main" @click="save(true)">Save it so</v-btn><v-btn @click="asked = null">Not yet</v-btn>
            </div>
          </div>
          <template v-if="route.query.domain === 'whole' && draft.whole">
            <h2>All together</h2>
            <p class="small soft">
              Without rules, the worst of its domains stands for a study. Rules name domains by their key:
              {{
                draft.domains
                  .map((domain) => domain.key)
                  .filter(Boolean)
                  .join(', ') || 'they have one once the form is saved'
              }}.
            </p>
            <RuleLines v-model="draft.overall" :words="wordsOf(draft)" :may-write="mayLead" @touched="touched = true" />
            <ChoiceField v-model="draft.otherwise" :items="ofWhole" label="Where no rule holds" :disabled="!mayLead" />
          </template>
          <template v-else-if="domain">
            <div class="row">
              <h2>{{ domain.name || 'A new domain' }}</h2>
              <template v-if="mayLead">
                <v-btn class="push" @click="(move(draft.domains, chosen, -1), choose(Math.max(0, chosen - 1)))"
                  >Earlier</v-btn
                >
                <v-btn @click="(move(draft.domains, chosen, 1), choose(Math.min(draft.domains.length - 1, chosen + 1)))"
                  >Later</v-btn
                >
                <v-btn @click="removeDomain">Remove</v-btn>
              </template>
            </div>
            <div class="two">
              <TextField v-model="domain.name" label="Domain" :readonly="!mayLead" />
              <TextField v-model="domain.key" label="Key" hint="Made of the name, if empty" :readonly="!mayLead" />
            </div>
            <TextArea v-model="domain.help" label="What it is about" rows="2" :readonly="!mayLead" />
            <h3>Signalling questions</h3>
            <div v-for="(question, k) in domain.questions" :key="k" class="question">
              <TextField v-model="question.key" :label="`Key ${k + 1}`" :readonly="!mayLead" />
              <TextField v-model="question.text" :label="`Question ${k + 1}`" :readonly="!mayLead" />
              <TextField v-model="question.help" :label="`Help ${k + 1}`" :readonly="!mayLead" />
              <span v-if="mayLead" class="row">
                <button
                  class="link small"
                  :aria-label="`Question ${k + 1} earlier`"
                  @click="move(domain.questions, k, -1)"
                >
                  ↑</button
                ><button
                  class="link small"
                  :aria-label="`Remove question ${k + 1}`"
                  @click="(domain.questions.splice(k, 1), (touched = true))"
                >
                  ×
                </button>
              </span>
            </div>
            <p v-if="mayLead">
              <v-btn @click="(domain.questions.push({ key: '', text: '', help: '' }), (touched = true))"
                >Add a question</v-btn
              >
            </p>
            <h3>Rules for its judgement</h3>
            <p class="small soft">
              The first that holds counts. They name questions by their key and answers as they are:
              <code>all yes</code> · <code>any no, partly</code> · <code>none no</code> ·
              <code>{{ domain.questions[0]?.key || 'lots' }} is not {{ draft.answers[0] || 'yes' }}</code> ·
              <code>… and (… or not …)</code>
            </p>
            <RuleLines v-model="domain.rules" :words="wordsOf(draft)" :may-write="mayLead" @touched="touched = true" />
            <ChoiceField
              v-model="domain.otherwise"
              :items="otherwise"
              label="Where no rule holds"
              :disabled="!mayLead"
            />
          </template>
          <div v-else class="soft">
            <h2>There is no domain yet</h2>
            <p>Begin with judgements and answers at the left, then add a domain; or read a form from a file.</p>
          </div>
          <p v-if="touched" class="row small">
            <span class="odd">Not saved yet.</span><v-btn @click="leave">Leave it as it was</v-btn>
          </p>
        </div>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 300px minmax(0, 1fr);
}
.signs {
  flex-wrap: wrap;
  gap: 4px 14px;
}
.entry {
  width: 100%;
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 12px;
  border-bottom: 1px solid var(--ks-hair);
  border-left: 3px solid transparent;
  text-align: left;
}
.entry.on {
  border-left-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px;
  gap: 12px;
}
.question {
  display: grid;
  grid-template-columns: 120px minmax(0, 3fr) minmax(0, 2fr) 48px;
  gap: 8px;
  align-items: end;
}
</style>
