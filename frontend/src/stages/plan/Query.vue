<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, percent, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import CatalogueRecords from './query/CatalogueRecords.vue'
import CatalogueDialog from './query/CatalogueDialog.vue'
import { MOST_BRANCHES, useCatalogueCounts } from './query/catalogueCounts'
import ConceptCards from './query/ConceptCards.vue'
import { type Concept, useDraft, type View } from './query/draft'
import HitsBy from './query/HitsBy.vue'
import QueryFault from './query/QueryFault.vue'
import QueryGuide from './query/QueryGuide.vue'
import QuerySteps from './query/QuerySteps.vue'
import TrialTable from './query/TrialTable.vue'

const { review, path, protocol, figures, mayWrite, mayLead } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data: history, error: historyError } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
const latest = computed(() =>
  history.value ? (history.value.steps[0]?.text ?? '') : historyError.value ? '' : undefined,
)
const { state, ready, reading, empty, changed, put } = useDraft(review, latest)
const VIEWS: { key: View; name: string }[] = [
  { key: 'concepts', name: 'Concepts' },
  { key: 'lines', name: 'Lines' },
  { key: 'text', name: 'Text' },
]
const view = computed<View>(() => VIEWS.find((view) => view.key === route.query.view)?.key ?? 'concepts')
const show = (key: View) => router.replace({ query: { ...route.query, view: key } })

const {
  data: trial,
  error: trialError,
  isFetching,
} = useQuery({
  queryKey: ['trial', review, computed(() => state.text)],
  queryFn: () => got(POST('/api/reviews/{review}/query/trial', { params: path.value, body: { text: state.text } })),
  enabled: computed(() => !!state.text),
  placeholderData: keepPreviousData,
})

// where it is counted: in the records of the review, in a catalogue, or in both
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const where = computed(() => String(route.query.in ?? 'records'))
const catalogue = computed(
  () => catalogues.value?.find((catalogue) => catalogue.id === Number(where.value.split(':').at(-1)))?.id ?? null,
)
const places = computed(() => [
  { value: 'records', title: 'the records of the review' },
  ...(catalogues.value ?? []).flatMap((one) => [
    { value: String(one.id), title: one.name },
    { value: `both:${one.id}`, title: `both, records and ${one.name}` },
  ]),
  { value: 'connect', title: 'Catalogues …' },
])
const connecting = ref(false)
const readingOpen = ref(false)
const readQuery = ref('')
function countIn(value: string) {
  if (value === 'connect') connecting.value = true
  else void router.replace({ query: { ...route.query, in: value === 'records' ? undefined : value } })
}
const {
  elsewhere,
  waiting,
  total: toCount,
  stopped,
  start: countOn,
  stop: stopCounting,
} = useCatalogueCounts(
  review,
  catalogue,
  computed(() => state.text),
  computed(() => trial.value?.branches ?? []),
)

// which seeds a branch finds
const lit = ref<string | null>(null)
const branch = computed(
  () => trial.value?.branches.find((branch) => branch.path.join('.') === lit.value) ?? trial.value?.branches[0],
)
const light = (branch: Schemas['QueryBranch']) =>
  (lit.value = lit.value === branch.path.join('.') ? null : branch.path.join('.'))
const onlyBy = (seed: number) =>
  trial.value?.branches
    .filter((branch) => branch.remark === 'alone brings a seed' && branch.lost_seeds.includes(seed))
    .map((branch) => branch.text)[0]

// steps and versions
const nextVersion = computed(() => Math.max(0, ...(history.value?.steps ?? []).map((one) => one.version ?? 0)) + 1)
const kept = computed(() => history.value?.steps.find((step) => step.text === state.text && step.version))
const note = ref('')
async function step(keep: boolean) {
  const body = { text: state.text, note: note.value, keep }
  const done = await attempt(() => got(POST('/api/reviews/{review}/query/steps', { params: path.value, body })))
  if (!done) return
  say(keep ? `Kept as version ${nextVersion.value}.` : 'The step is written down.')
  note.value = ''
  await refresh('query-steps')
}
async function back(step: Schemas['QueryStep']) {
  const before = state.text
  await put(step.text)
  say(`Back at ${step.version ? `version ${step.version}` : 'an earlier step'}.`, async () => put(before))
}

// limiting to, and leaving out, what the hits divide into
const by = ref('year')
async function limit(term: string, left_out = false) {
  const body = { text: state.text, term, left_out }
  await attempt(async () => {
    const { text } = await got(POST('/api/reviews/{review}/query/limited', { params: path.value, body }))
    await put(text)
  })
}

// the years of the protocol, and of the review that it goes on from, belong into every search
const years = computed(() => protocol.data.value?.years ?? '')
const unlimited = computed(() => !!years.value && !!state.text && !state.text.includes('year:'))
const elements = computed(() => (protocol.data.value?.elements ?? []).filter((element) => element.terms.length))
function fromElements() {
  state.concepts = elements.value.map<Concept>((one) => ({
    label: one.label,
    joint: 'any',
    terms: [...one.terms],
    left_out: false,
    fields: [],
  }))
  changed('concepts')
}
async function log() {
  await step(false)
  await router.push({ path: `/reviews/${review.value}/gather`, query: { search: 'new' }, state: { query: state.text } })
}
const wrongText = computed(() => {
  const problem = state.problem
  return problem?.concept != null
    ? (state.concepts[problem.concept]?.terms[problem.term ?? 0] ?? '')
    : problem?.line != null
      ? (state.lines[problem.line] ?? '')
      : state.typed
})
const area = ref<HTMLTextAreaElement | null>(null)
function showWhere() {
  area.value?.focus()
  area.value?.setSelectionRange(state.problem?.begin ?? 0, state.problem?.end ?? 0)
}
function line(k: number, text: string) {
  state.lines[k] = text
  changed('lines')
}
const lineCount = (text: string) => trial.value?.branches.find((branch) => branch.query === text)?.hits
const guide = ref(false)
useKeys({ c: () => show('concepts'), l: () => show('lines'), t: () => show('text'), g: () => (guide.value = true) })
</script>

<template>
  <div class="panes columns">
    <QueryGuide v-model="guide" />
    <CatalogueRecords
      v-if="catalogue !== null"
      v-model="readingOpen"
      :catalogue="catalogue"
      :name="catalogues?.find((one) => one.id === catalogue)?.name ?? ''"
      :query="readQuery"
    />
    <CatalogueDialog
      v-model="connecting"
      :review="review"
      :catalogues="catalogues ?? []"
      :may="mayLead"
      @connected="countIn(String($event))"
    />
    <Teleport to="#view-actions" defer>
      <span v-if="state.problem" class="bad small" role="status">Cannot be read yet</span>
      <span v-else-if="reading || isFetching" class="soft small" role="status">Counting …</span>
      <template v-if="mayWrite">
        <v-btn :disabled="empty || !!state.problem || !!kept" @click="step(true)">{{
          kept ? `Version ${kept.version}` : `Keep as version ${nextVersion}`
        }}</v-btn>
        <v-btn class="main" :disabled="empty || !!state.problem" @click="log">Write into the log</v-btn>
      </template>
    </Teleport>
    <section class="pane sheet work">
      <div class="edit">
        <div class="head">
          <span role="tablist" aria-label="Views of the query" class="row"
            ><button
              v-for="one in VIEWS"
              :key="one.key"
              role="tab"
              class="tab"
              :aria-selected="view === one.key"
              :class="{ here: view === one.key }"
              @click="show(one.key)"
            >
              {{ one.name }} <kbd>{{ one.name[0] }}</kbd>
            </button></span
          >
          <span class="push small soft">{{
            view === 'text'
              ? 'AND OR NOT NEAR/5 · "a phrase" · wrap* · wom?n · title: descriptor: year:1980-'
              : view === 'lines'
                ? '#1 stands for line 1; the last line is the query'
                : 'any of these terms, in all of these concepts'
          }}</span>
          <button class="small" @click="guide = true">Language <kbd>G</kbd></button>
        </div>
        <p v-if="!ready" class="pad soft" role="status">Loading …</p>
        <template v-else>
          <ConceptCards
            v-if="view === 'concepts'"
            v-model="state.concepts"
            :may="mayWrite"
            :wrong="
              state.wrongIn === 'concepts' && state.problem
                ? { concept: state.problem.concept ?? null, term: state.problem.term ?? null }
                : null
            "
            @changed="changed('concepts')"
          />
          <ol v-else-if="view === 'lines'" class="lines">
            <li v-for="(one, k) in state.lines" :key="k" :class="{ wrong: state.problem?.line === k }">
              <span class="soft num">{{ k + 1 }}</span>
              <input
                class="mono"
                :value="one"
                :aria-label="`Line ${k + 1}`"
                :readonly="!mayWrite"
                :aria-invalid="state.problem?.line === k"
                @input="line(k, ($event.target as HTMLInputElement).value)"
                @keydown.enter.prevent="state.lines.splice(k + 1, 0, '')"
              />
              <span class="num soft">{{ lineCount(one) === undefined ? '' : count(lineCount(one)!) }}</span>
            </li>
            <li v-if="mayWrite">
              <span /><button class="link" @click="state.lines.push('')">Add a line</button><span />
            </li>
          </ol>
          <textarea
            v-else
            ref="area"
            v-model="state.typed"
            class="mono text"
            rows="7"
            aria-label="Query"
            spellcheck="false"
            :readonly="!mayWrite"
            :aria-invalid="state.wrongIn === 'text'"
            placeholder='(honeybee* OR "honey bee") AND winter*'
            @input="changed('text')"
          />
          <div v-if="state.problem" class="problem">
            <QueryFault :problem="state.problem" :text="wrongText"
              ><button v-if="view === 'text' && state.wrongIn === 'text'" class="link" @click="showWhere">
                Show where
              </button></QueryFault
            >
            <p v-if="state.wrongIn !== view" class="small soft">
              It stands in the view {{ VIEWS.find((view) => view.key === state.wrongIn)?.name }}; here is the query as
              it was before.
            </p>
          </div>
          <p v-if="unlimited && !state.problem" class="note small odd">
            The protocol limits searches to {{ years }}, and the query does not.
            <button v-if="mayWrite" class="link" @click="limit(years)">Limit it</button>
          </p>
          <p v-for="remark in state.notes" :key="remark.message" class="note small odd">{{ remark.message }}</p>
        </template>
      </div>
      <p v-if="trialError" class="pad bad" role="alert">{{ (trialError as Error).message }}</p>
      <div v-else-if="trial && !empty" class="counted" tabindex="0" role="region" aria-label="What each branch finds">
        <div class="row counting small">
          <span class="soft">Counted in</span
          ><select
            class="box"
            :value="catalogue === null ? 'records' : where"
            aria-label="Counted in"
            @change="
              (countIn(($event.target as HTMLSelectElement).value),
              (($event.target as HTMLSelectElement).value = catalogue === null ? 'records' : where))
            "
          >
            <option v-for="place in places" :key="place.value" :value="place.value">{{ place.title }}</option>
          </select>
          <template v-if="catalogue !== null"
            ><span v-if="waiting" class="soft" role="status"
              >{{ toCount - waiting }} of {{ toCount }} asked
              <button class="link" @click="stopCounting">Stop</button></span
            ><button v-else-if="stopped" class="link" @click="countOn">Count on</button
            ><span v-if="trial.branches.length > MOST_BRANCHES" class="odd"
              >the first {{ MOST_BRANCHES }} branches</span
            ></template
          >
        </div>
        <TrialTable
          :trial="trial"
          :review="review"
          :lit="lit"
          :elsewhere="elsewhere"
          :alone="catalogue !== null && !where.startsWith('both')"
          @light="light"
          @look="((readQuery = $event.query), (readingOpen = true))"
        />
      </div>
      <div v-else-if="ready && empty" class="pad soft">
        <h2>No query yet</h2>
        <p>
          Write the words of each part of the question into a concept of its own: a record must meet every concept, by
          any of its terms. What each word finds, and which seeds, is counted as you go.
        </p>
        <p v-if="elements.length && mayWrite" class="begin">
          <v-btn @click="fromElements">Begin with the elements of the question</v-btn>
        </p>
      </div>
    </section>
    <aside class="pane pad">
      <h2>Seeds</h2>
      <p v-if="empty && figures.data.value?.seeds" class="soft small">
        Each term will show which of the {{ plural(figures.data.value.seeds, 'seed') }} it finds.
      </p>
      <p v-else-if="figures.data.value && !figures.data.value.seeds" class="soft small">
        No seed yet.
        <router-link :to="`/reviews/${review}/plan/seeds`">Name studies that the search must find</router-link>, and
        each term shows which of them it brings.
      </p>
      <template v-else-if="trial && branch">
        <p class="small soft">
          {{
            lit !== null
              ? `Found by ${branch.text.slice(0, 60)}`
              : `Found: ${trial.branches[0]!.seeds.length} of ${trial.seeds.length}`
          }}<template v-if="lit === null && trial.recall"
            >; in all studies like these, between {{ percent(trial.recall.low) }} and
            {{ percent(trial.recall.high) }} (95 %, exact binomial)</template
          >
        </p>
        <table class="small seeds">
          <tbody>
            <tr v-for="(seed, k) in trial.seeds" :key="seed.id">
              <td class="shape">
                <svg
                  viewBox="0 0 12 12"
                  width="12"
                  height="12"
                  role="img"
                  :aria-label="branch.seeds.includes(k) ? 'found' : 'missed'"
                >
                  <circle v-if="branch.seeds.includes(k)" cx="6" cy="6" r="5" fill="var(--ks-pine)" />
                  <circle
                    v-else
                    cx="6"
                    cy="6"
                    r="4.4"
                    fill="none"
                    stroke="var(--ks-ochre)"
                    stroke-width="1.3"
                    stroke-dasharray="2 1.6"
                  />
                </svg>
              </td>
              <td>
                <router-link :to="`/reviews/${review}/screen?record=${seed.id}`" class="plain" :title="seed.title"
                  >{{ seed.authors[0]?.split(',')[0] ?? seed.title }} {{ seed.year ?? '' }}</router-link
                >
              </td>
              <td class="num soft clip">
                {{ branch.seeds.includes(k) ? (onlyBy(k) ? `only by ${onlyBy(k)}` : '') : 'missed' }}
              </td>
            </tr>
          </tbody>
        </table>
      </template>
      <QuerySteps
        v-model:note="note"
        :text="state.text"
        :history="history"
        :may-note="mayWrite && !empty"
        :wrong="!!state.problem"
        @note-it="step(false)"
        @back="back"
      />
      <HitsBy v-if="trial && !empty" v-model="by" :breakdown="trial.breakdown" :may-write="mayWrite" @limit="limit" />
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 344px;
}
@media (max-width: 1200px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) 300px;
  }
}
.work {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  overflow: hidden;
}
.counted {
  overflow: auto;
  min-height: 0;
}
.edit {
  border-bottom: 1px solid var(--ks-hair);
  max-height: 40vh;
  overflow: auto;
}
.edit .head {
  background: var(--ks-sheet);
}
.tab {
  padding: 8px 4px;
  color: var(--ks-soft);
  border-bottom: 2px solid transparent;
}
.tab.here {
  color: var(--ks-ink);
  font-weight: 600;
  border-bottom-color: var(--ks-copper);
}
.text {
  display: block;
  width: 100%;
  border: 0;
  padding: 12px 16px;
  font-size: 14px;
  line-height: 22px;
  resize: vertical;
  color: inherit;
  background: var(--ks-sheet);
}
.text::placeholder {
  color: var(--ks-soft);
  opacity: 1;
}
.lines {
  list-style: none;
  margin: 0;
  padding: 8px 16px;
}
.lines li {
  display: grid;
  grid-template-columns: 28px minmax(0, 1fr) 80px;
  gap: 10px;
  align-items: baseline;
  border-bottom: 1px solid var(--ks-hair);
}
.lines input {
  border: 0;
  background: none;
  color: inherit;
  line-height: 28px;
  font-size: 13px;
  min-width: 0;
}
.lines .wrong {
  box-shadow: inset 3px 0 var(--ks-bad);
}
.problem {
  padding: 8px 16px;
  border-top: 1px solid var(--ks-hair);
}
.note {
  padding: 2px 16px 6px;
}
.begin {
  margin-top: 12px;
}
.counting {
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.seeds td {
  padding-inline: 4px;
}
.shape {
  width: 20px;
  vertical-align: middle;
}
.seeds .clip {
  max-width: 130px;
}
.plain {
  color: inherit;
  text-decoration: none;
}
</style>
