<script setup lang="ts">
// One analysis: its studies, the forest plot, a closer look. Studies are left out by key, and the diamond moves.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { file, GET, got, POST, PUT, type Schemas } from '@/api/client'
import { moment, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { copyOf } from '@/common/some'
import StateOf from '@/common/StateOf.vue'
import { useEvidence } from '../chart/evidence'
import AnalysisFields from './AnalysisFields.vue'
import CloserLook from './CloserLook.vue'
import Network from './Network.vue'
import { chance, interval, MEASURE_NAMES, MEASURES, type Analysis } from './words'

type Listed = Pick<Schemas['StudyInAnalysis'], 'study' | 'key' | 'label' | 'columns' | 'cells' | 'out' | 'why_not'>
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data: table } = useEvidence()
const number = computed(() => Number(route.params.analysis) || null)
const without = computed(() => [route.query.without ?? []].flat().filter((key) => key !== null))
const closer = computed(() => route.query.view === 'closer')
const set = (changes: Record<string, string | string[] | undefined>) =>
  router.replace({ query: { ...route.query, ...changes } })
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['analyses', review, number, computed(() => without.value.join())],
  enabled: computed(() => Boolean(number.value)),
  placeholderData: keepPreviousData,
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/analyses/{analysis}', {
        params: { path: { review: review.value, analysis: number.value! }, query: { without: without.value } },
      }),
    ),
})
const withoutQuery = computed(() => without.value.map((key) => `&without=${encodeURIComponent(key)}`).join(''))
const address = (kind: string) => `/api/reviews/${review.value}/analyses/${number.value}/${kind}`
const { data: drawn } = useQuery({
  queryKey: ['analyses', review, number, computed(() => without.value.join()), 'forest'],
  enabled: computed(() => Boolean(data.value?.result?.pooled)),
  placeholderData: keepPreviousData,
  queryFn: async () => (await file(`${address('forest.svg')}?screen=true${withoutQuery.value}`)).text(),
})

const { data: versions } = useQuery({
  queryKey: ['analyses', review, number, 'versions'],
  enabled: computed(() => Boolean(number.value)),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/analyses/{analysis}/versions', {
        params: { path: { review: review.value, analysis: number.value! } },
      }),
    ),
})
/** An earlier version is looked at as a change that is not kept yet. */
async function takeUp(analysis: Analysis) {
  await set({ edit: 'yes', view: undefined })
  await nextTick() // the form begins with the version that stands
  takeFrom(analysis)
}

const EMPTY: Required<Analysis> = {
  name: '', measure: 'RR', item: 0, arms: [], against: [], outcome: null, time: null, se_item: null, model: 'random', tau2: 'REML', hk: false, weights: 'iv',
  level: 0.95, correction: 0.5, left_out: [], group: null, order: 'name', left: '', right: '', kind: 'pair', split: false,
  moderators: [], better: 'larger', only: null, among: [], beside: [], hidden: [],
} // prettier-ignore
const draft = ref<Required<Analysis>>({ ...EMPTY })
const editing = computed(() => !number.value || route.query.edit === 'yes')
const takeFrom = (analysis: Analysis) => (draft.value = copyOf({ ...EMPTY, ...analysis }) as Required<Analysis>)
watch(
  () => [data.value?.version, editing.value] as const,
  () => data.value && takeFrom(data.value.analysis),
  { immediate: true },
)
/** A new one begins with the first item that can be pooled, the first arm against the second. */
watch(
  table,
  (evidence) => {
    if (number.value || draft.value.item || !evidence) return
    const item =
      evidence.items.find((one) => ['counts', 'mean_sd'].includes(one.kind) && one.per?.includes('arm')) ??
      evidence.items.find((one) => MEASURES[one.kind] && !one.per?.includes('arm'))
    const levels = (factor: string) => evidence.levels.filter((one) => one.factor === factor && one.study === null)
    const [first, second] = levels('arm')
    if (!item) return
    draft.value = {
      ...EMPTY,
      name: first && second ? `${item.name}: ${first.name} against ${second.name}` : item.name,
      measure: MEASURES[item.kind]![0]!.value,
      item: item.id!,
      arms: first ? [first.id] : [],
      against: second ? [second.id] : [],
      outcome: item.per?.includes('outcome') ? (levels('outcome')[0]?.id ?? null) : null,
      time: item.per?.includes('time') ? (levels('time')[0]?.id ?? null) : null,
    }
  },
  { immediate: true },
)
const { data: previewed, error: wrong } = useQuery({
  queryKey: ['analyses', review, 'preview', computed(() => JSON.stringify(draft.value))],
  enabled: computed(() => editing.value && Boolean(draft.value.item)),
  retry: false,
  queryFn: () => got(POST('/api/reviews/{review}/analyses/preview', { params: path.value, body: draft.value })),
})
const { data: form } = useQuery({
  queryKey: ['appraisal', review, 'form'],
  enabled: computed(() => editing.value && draft.value.only === 0),
  queryFn: () => got(GET('/api/reviews/{review}/appraisal/form', { params: path.value })),
})
/** What studies say of an item, each once; how they may be judged as a whole. */
function valuesOf(item: number | null) {
  if (item === null) return []
  if (item === 0) return form.value?.form.judgements ?? []
  const values = [...(table.value?.values.values() ?? [])].filter((one) => one.item === item && !one.unfit)
  return [...new Set(values.map((one) => one.shown ?? one.text))].sort()
}
const nothing = computed(() => !number.value && table.value && !draft.value.item)
/** Keep another version, made from the one that is seen. */
const put = (analysis: Analysis) =>
  got(
    PUT('/api/reviews/{review}/analyses/{analysis}', {
      params: { path: { review: review.value, analysis: data.value!.id } },
      body: { analysis, seen: data.value!.version },
    }),
  )
async function keep() {
  await attempt(async () => {
    if (number.value) {
      await put(draft.value)
      await refresh('analyses')
      await set({ edit: undefined })
      return say(`${draft.value.name} is changed.`)
    }
    const { id } = await got(POST('/api/reviews/{review}/analyses', { params: path.value, body: draft.value }))
    await refresh('analyses', 'figures')
    await router.replace(`/reviews/${review.value}/pool/${id}`)
    say(`${draft.value.name} is kept.`)
  })
}

const shown = computed(() => (editing.value ? previewed.value : data.value))
const result = computed(() => shown.value?.result)
const network = computed(() => shown.value?.network)
const all = computed<Listed[]>(() => network.value?.studies ?? result.value?.studies ?? [])
const studies = computed(() => all.value.filter((study) => !study.why_not))
const missing = computed(() => all.value.filter((study) => study.why_not))
/** What studies must have, in words. */
const onlySaid = computed(() => {
  const said = editing.value ? draft.value : data.value?.analysis
  if (said?.only === null || said?.only === undefined) return ''
  const name = said.only ? table.value?.items.find((one) => one.id === said.only)?.name : 'appraisal as a whole'
  return `${name ?? '?'} ${(said.among ?? []).join(' or ')}`
})
const others = computed(() => shown.value?.network?.others ?? result.value?.others ?? 0)
const effects = computed(() => result.value?.studies.filter((study) => study.effect) ?? [])
/** What is counted and left out: studies, or the comparisons that they make with a side that is divided. */
const unit = computed<[string, string]>(() =>
  studies.value.some((study) => study.key.includes(':')) ? ['comparison', 'comparisons'] : ['study', 'studies'],
)
const used = computed(() => network.value?.used ?? result.value?.pooled?.k ?? 0)
/** Whether the team leaves a study, or this comparison of it, out. */
const leftOut = (study: Listed) =>
  [study.key, String(study.study)].some((key) => data.value?.analysis.left_out?.includes(key))
/** How many are left out for a look. */
const looked = computed(() => studies.value.filter((study) => study.out && !leftOut(study)).length)
const at = ref(0)
const focus = computed(() => studies.value[Math.min(at.value, studies.value.length - 1)])
const move = (by: number) => (at.value = Math.max(0, Math.min(studies.value.length - 1, at.value + by)))
function turn(study: Listed | undefined) {
  if (!study || editing.value || leftOut(study)) return
  const { key } = study
  const now = without.value.includes(key) ? without.value.filter((one) => one !== key) : [...without.value, key]
  void set({ without: now.length ? now : undefined })
}
/** Leave out for good what is left out for a look. */
async function keepOut() {
  const before = data.value?.analysis
  if (!before) return
  const left_out = [...new Set([...(before.left_out ?? []), ...without.value])]
  if (!(await attempt(() => put({ ...before, left_out })))) return
  await set({ without: undefined })
  await refresh('analyses')
  say(
    `${plural(left_out.length, unit.value[0], unit.value[1])} ${left_out.length === 1 ? 'is' : 'are'} left out by the team.`,
    async () => {
      await put(before)
      await refresh('analyses')
    },
  )
}
useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1), ' ': () => turn(focus.value) })
function follow(event: MouseEvent) {
  const to = (event.target as Element).closest('a')?.getAttribute('href')
  if (!to || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  void router.push(to)
}
const cell = (study: Listed) => `/reviews/${review.value}/chart?cell=${study.cells[0] ?? ''}`
const NETWORK_DOWNLOADS = [
  ['treatments.svg', 'Treatments, SVG'],
  ['treatments.png', 'Treatments, PNG'],
  ['treatments.pdf', 'Treatments, PDF'],
  ['figures.csv', 'Figures, CSV'],
]
const DOWNLOADS = [
  ['forest.svg', 'Forest plot, SVG'],
  ['forest.png', 'Forest plot, PNG'],
  ['forest.pdf', 'Forest plot, PDF'],
  ['forest.svg?width=column', 'Forest plot, one column wide, SVG'],
  ['forest.png?width=column', 'Forest plot, one column wide, PNG'],
  ['forest.pdf?width=column', 'Forest plot, one column wide, PDF'],
  ['funnel.svg', 'Funnel plot, SVG'],
  ['funnel.png', 'Funnel plot, PNG'],
  ['figures.csv', 'Figures, CSV'],
]
</script>

<template>
  <StateOf :pending="Boolean(number) && isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <template v-if="number && data">
        <v-btn
          v-if="!editing && data.result"
          :aria-pressed="closer"
          @click="set({ view: closer ? undefined : 'closer' })"
          >A closer look</v-btn
        >
        <v-menu v-if="(data.result?.pooled || data.network) && !editing">
          <template #activator="{ props }"><v-btn v-bind="props">Download</v-btn></template>
          <v-list aria-label="Download"
            ><v-list-item
              v-for="[kind, words] in data.network ? NETWORK_DOWNLOADS : DOWNLOADS"
              :key="kind"
              :title="words"
              :href="address(kind!)"
              download
          /></v-list>
        </v-menu>
        <v-btn v-if="editing" @click="set({ edit: undefined })">Leave it</v-btn>
        <v-btn v-if="mayWrite && !editing" class="main" @click="set({ edit: 'yes', view: undefined })">Change</v-btn>
      </template>
      <v-btn v-if="editing && mayWrite" class="main" :disabled="Boolean(wrong) || !previewed" @click="keep">{{
        number ? 'Keep the change' : 'Keep the analysis'
      }}</v-btn>
    </Teleport>
    <div class="panes columns">
      <aside class="pane" :aria-label="editing ? 'What is pooled, and how' : 'Studies'">
        <form v-if="editing" class="pad fields" @submit.prevent="keep">
          <AnalysisFields
            v-model="draft"
            :items="table?.items ?? []"
            :levels="table?.levels ?? []"
            :values="valuesOf(draft.only)"
            :may-write="mayWrite"
          />
          <p v-if="wrong" class="bad small" role="alert">{{ wrong.message }}</p>
        </form>
        <template v-else>
          <div class="head">
            <b>Studies</b><span class="soft small push">{{ used }} {{ network ? 'compared' : 'pooled' }}</span>
          </div>
          <ul class="studies">
            <li v-for="(study, k) in studies" :key="`${study.study} ${study.label}`" :class="{ now: k === at }">
              <TickBox
                :model-value="!study.out"
                :label="study.label"
                :disabled="leftOut(study)"
                @update:model-value="((at = k), turn(study))"
              />
              <router-link
                class="small push"
                :to="cell(study)"
                :aria-label="`Numbers of ${study.label} in the evidence table`"
                >numbers</router-link
              >
            </li>
          </ul>
          <p class="pad small soft"><kbd>↑</kbd> <kbd>↓</kbd> move, <kbd>Space</kbd> leaves a study out for a look</p>
        </template>
      </aside>
      <section class="pane sheet pad stack" tabindex="0" aria-label="The analysis">
        <div v-if="nothing" class="soft">
          <h2>Nothing in the codebook can be pooled yet</h2>
          <p>
            An item of events and totals, or of means with SD, that is asked for each arm; or an estimate and its
            standard error, as two numbers.
            <router-link :to="`/reviews/${review}/chart/codebook`">To the codebook</router-link>
          </p>
        </div>
        <template v-else-if="shown">
          <div class="heading">
            <h2>{{ editing ? draft.name || 'A new analysis' : data?.analysis.name }}</h2>
            <p v-if="network" role="status">
              {{ plural(network.treatments.length, 'treatment') }} by
              {{ MEASURE_NAMES[(editing ? draft : data!.analysis).measure] }} in {{ plural(used, 'study', 'studies') }}
            </p>
            <p v-else-if="result?.pooled" role="status">
              {{ MEASURE_NAMES[(editing ? draft : data!.analysis).measure] }}
              <b class="figure">{{ interval(result.pooled.pooled) }}</b>, p {{ chance(result.pooled.pooled.p) }}
              <span class="soft small">{{ result.spread }}</span>
            </p>
            <p v-else class="odd">No study can be pooled.</p>
            <p v-if="onlySaid" class="small soft">
              Only studies with {{ onlySaid
              }}{{ others ? `; ${plural(others, 'other study is', 'other studies are')} not among them` : '' }}.
            </p>
            <p v-if="looked && !editing" class="small odd">
              Without {{ plural(looked, ...unit) }}, for a look.
              <button class="link" @click="set({ without: undefined })">Put back</button>
              <button v-if="mayWrite" class="link" @click="keepOut">Leave out for good</button>
            </p>
          </div>
          <Network
            v-if="network"
            :found="network"
            :analysis="editing ? draft : data!.analysis"
            :kept="editing || !data ? undefined : { id: data.id, version: data.version, query: withoutQuery, address }"
          />
          <CloserLook
            v-else-if="closer && data?.result && !editing"
            :analysis="data"
            :result="data.result"
            :address="address"
            :without="without"
            :query="withoutQuery"
          />
          <template v-else>
            <!-- eslint-disable-next-line vue/no-v-html -- drawn by the server, every text in it escaped -->
            <div v-if="!editing && drawn" class="drawing" @click="follow" v-html="drawn" />
            <table v-if="editing && effects.length" class="small">
              <thead>
                <tr>
                  <th>Study</th>
                  <th>Numbers</th>
                  <th>Effect</th>
                  <th class="num">Weight</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="study in effects" :key="`${study.study} ${study.label}`">
                  <td>
                    <router-link :to="cell(study)">{{ study.label }}</router-link>
                  </td>
                  <td>{{ study.columns.join(' against ') }}</td>
                  <td>{{ interval(study.effect ?? undefined) }}</td>
                  <td class="num">{{ study.out ? 'left out' : `${study.weight.toFixed(1)} %` }}</td>
                </tr>
              </tbody>
            </table>
          </template>
          <details v-if="missing.length && !(closer && result)" class="small" :open="!studies.length">
            <summary>{{ plural(missing.length, 'study', 'studies') }} without the numbers for it</summary>
            <ul class="ruled">
              <li v-for="one in missing" :key="one.study">
                <router-link :to="cell(one)">{{ one.label }}</router-link>
                <span class="soft"> {{ one.why_not }}</span>
              </li>
            </ul>
          </details>
          <p v-if="data && !editing" class="small soft">
            {{ data.by }}, {{ moment(data.at) }}. Worked out from the evidence table as it is now.
          </p>
          <details v-if="!editing && (versions?.length ?? 0) > 1" class="small">
            <summary>{{ plural(versions!.length, 'version') }}</summary>
            <ol class="ruled">
              <li v-for="(one, k) in versions" :key="one.version">
                {{ moment(one.at) }}, {{ one.by }}:
                <span class="soft">{{ one.changed.length ? one.changed.join(', ') : 'made' }}</span>
                <button v-if="mayWrite && k" class="link" @click="takeUp(one.analysis)">Take it up again</button>
              </li>
            </ol>
          </details>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 268px minmax(0, 1fr);
}
.heading {
  display: grid;
  gap: 4px;
}
.figure {
  font-size: 17px;
}
.studies {
  list-style: none;
  margin: 0;
  padding: 0;
}
.studies li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 12px;
  border-left: 3px solid transparent;
  border-bottom: 1px solid var(--ks-hair);
}
.studies li.now {
  border-left-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.drawing :deep(svg) {
  max-width: 100%;
  height: auto;
}
.drawing :deep(a:hover text) {
  text-decoration: underline;
}
</style>
