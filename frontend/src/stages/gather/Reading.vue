<script setup lang="ts">
// A file before it is taken in: what it says, what was understood, what looks odd; and all of it can be changed.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, day, KIND_WORDS, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { CERTAINTY, ENCODINGS, FIELD_CHOICES, FORMAT_CHOICES, FORMAT_NAMES } from './reading'

const { review, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const batch = computed(() => Number(route.params.batch))
const params = computed(() => ({ path: { review: review.value, batch: batch.value } }))
const {
  data: read,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['look', review, batch],
  queryFn: () => got(GET('/api/reviews/{review}/files/{batch}', { params: params.value })),
  refetchInterval: (query) => (['waiting', 'reading'].includes(query.state.data?.state ?? '') ? 700 : false),
})
const position = computed(() => Math.max(1, Number(route.query.record) || 1))
const { data: entry, error: entryError } = useQuery({
  queryKey: ['entry', review, batch, position],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/files/{batch}/entries/{position}', {
        params: { path: { ...params.value.path, position: position.value } },
      }),
    ),
  enabled: computed(() => (read.value?.records ?? 0) > 0),
  placeholderData: keepPreviousData,
})
watch(
  () => read.value?.state,
  (now, before) => {
    if (before && ['waiting', 'reading'].includes(before) && now === 'read') void refresh('entry')
  },
)

const FIELDS = [
  ['title', 'Title'],
  ['authors', 'Authors'],
  ['year', 'Year'],
  ['journal', 'Journal'],
  ['abstract', 'Abstract'],
  ['doi', 'DOI'],
  ['keywords', 'Descriptors'],
  ['accession', 'Accession'],
] as const
const odd = computed(() =>
  (['title', 'authors', 'year', 'abstract'] as const)
    .map((field) => ({ field, records: (read.value?.odd ?? []).filter((record) => record.lacks.includes(field)) }))
    .filter((group) => group.records.length),
)
const toLookAt = computed(() => {
  const lacking = (read.value?.odd ?? [])
    .filter((record) => record.lacks.some((field) => field !== 'abstract'))
    .map((record) => record.position)
  const suspected = (read.value?.suspicions ?? []).flatMap((one) => one.places.map((place) => place.position))
  return [...new Set([...lacking, ...suspected])].sort((a, b) => a - b)
})
const suspectedHere = computed(() =>
  (read.value?.suspicions ?? []).filter((one) => one.places.some((place) => place.position === entry.value?.position)),
)

function go(to: number) {
  const last = read.value?.records ?? 1
  void router.replace({ query: { record: String(Math.min(last, Math.max(1, to))) } })
}
const after = (places: number[]) => places.find((p) => p > position.value) ?? places[0] ?? position.value
const nextOdd = () => go(after(toLookAt.value))
const lines = (places: number[]) =>
  (places.length === 1 ? 'line ' : 'lines ') +
  places.slice(0, 3).map(count).join(', ') +
  (places.length > 3 ? ' …' : '')
useKeys({ ArrowUp: () => go(position.value - 1), ArrowDown: () => go(position.value + 1), l: nextOdd })

const act = (deed: 'take-in' | 'set-aside' | 'bring-back') =>
  got(POST(`/api/reviews/{review}/files/{batch}/${deed}`, { params: params.value }))
async function takeIn() {
  if (await attempt(() => act('take-in')))
    say(`${plural(read.value?.records ?? 0, 'record')} taken in; copies are being looked for.`, () => act('set-aside'))
  await refresh('look', 'files', 'figures', 'searches', 'jobs')
}
async function aside() {
  const before = read.value?.state
  if (await attempt(() => act('set-aside'))) say('Set aside.', () => act(before === 'taken' ? 'take-in' : 'bring-back'))
  await refresh('look', 'files', 'figures', 'searches')
}
const difference = computed(() => {
  const announced = read.value?.announced
  return announced === null || announced === undefined ? null : (read.value?.with_others ?? 0) - announced
})

// read otherwise
const open = computed(
  () =>
    !!read.value &&
    ['read', 'failed', 'aside'].includes(read.value.state) &&
    read.value.format !== 'catalogue' &&
    mayWrite.value,
)
const changing = ref(false)
const asking = ref(false)
const how = reactive({ format: '', encoding: '', sheet: '', header: '' })
watch(
  read,
  (now) =>
    now &&
    Object.assign(how, {
      format: now.how.format,
      encoding: now.how.encoding,
      sheet: now.how.sheet,
      header: now.how.header === null || now.how.header === undefined ? '' : String(now.how.header),
    }),
  { immediate: true },
)
const isSheet = computed(() => ['xlsx', 'ods', 'xls'].includes(read.value?.format ?? ''))
const isTable = computed(() => isSheet.value || ['csv', 'tsv'].includes(read.value?.format ?? ''))
async function readAgain(body: Partial<Schemas['How']>, said = 'Read again.') {
  const was = read.value
  if (!was) return
  const again = (wanted: Partial<Schemas['How']>) =>
    got(
      POST('/api/reviews/{review}/files/{batch}/read', {
        params: params.value,
        body: { format: '', encoding: '', fields: {}, recipe: '', sheet: '', header: null, names: '', ...wanted },
      }),
    )
  let made: { id: number } | undefined
  asking.value = true
  const done = await attempt(async () => (made = await again({ ...was.how, ...body })))
  if (made && made.id !== batch.value) await router.replace(`/reviews/${review.value}/gather/files/${made.id}`)
  await refresh('look', 'entry', 'files', 'jobs')
  asking.value = false
  // said once the page shows it: what is corrected next starts from there
  if (done)
    say(said, async () => {
      await again(was.how)
      await refresh('look', 'entry', 'files')
    })
}
const reassign = (label: string, field: string) =>
  readAgain(
    { fields: { ...read.value?.how.fields, [label]: field } },
    `“${label}” is read as ${field ? FIELD_CHOICES.find((one) => one.value === field)?.title : 'kept, not used'} now; files of ${read.value?.source} will be, too, once this one is taken in.`,
  )
const pickable = (label: string) => !!label && label !== 'ER' && label !== 'TY'
const change = () => {
  changing.value = false
  const header = how.header === '' ? null : Number(how.header)
  return readAgain({
    format: how.format,
    encoding: how.encoding,
    sheet: how.sheet,
    header,
    ...(how.format === read.value?.how.format ? {} : { fields: {}, recipe: '' }),
  })
}
const ownHow = computed(
  () =>
    read.value &&
    (Object.keys(read.value.how.fields ?? {}).length ||
      read.value.how.format ||
      read.value.how.encoding ||
      read.value.how.recipe ||
      read.value.how.sheet ||
      read.value.how.names ||
      read.value.how.header !== null),
)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="read" class="panes columns">
      <Teleport v-if="mayWrite" to="#view-actions" defer>
        <v-btn v-if="['read', 'taken', 'failed'].includes(read.state)" @click="aside">Set aside</v-btn>
        <v-btn
          v-if="read.state === 'read' || (['aside', 'leaving'].includes(read.state) && read.records)"
          class="main"
          @click="takeIn"
          >Take in {{ plural(read.records, 'record') }}</v-btn
        >
        <span v-if="read.state === 'taken'" class="soft small">Taken in</span>
        <span v-if="read.state === 'leaving'" class="soft small" role="status">Being set aside …</span>
      </Teleport>
      <aside class="pane pad">
        <h2 class="read name">{{ read.filename }}</h2>
        <p class="small soft">
          Search {{ read.number }}{{ read.run > 1 ? `, run ${read.run}` : '' }} · {{ read.source
          }}{{ read.run_on ? ` · ${day(read.run_on)}` : '' }} ·
          <a :href="`/api/reviews/${review}/files/${read.id}/original`" download>as uploaded</a>
        </p>
        <p v-if="read.state === 'failed'" class="bad failure" role="alert">{{ read.failure }}</p>
        <p v-else-if="read.state === 'waiting' || read.state === 'reading'" class="soft failure" role="status">
          Being read; you can leave this page.
        </p>
        <template v-if="!['waiting', 'reading'].includes(read.state)">
          <table class="small facts">
            <tbody>
              <tr v-if="read.format">
                <th>Read as</th>
                <td>
                  {{ FORMAT_NAMES[read.format] ?? read.format }},
                  <span :class="read.certainty === 'guess' ? 'odd' : 'soft'">{{ CERTAINTY[read.certainty] }}</span>
                </td>
              </tr>
              <tr v-if="read.format">
                <th>Encoding</th>
                <td>{{ read.encoding }}{{ read.sure ? ', sure' : ', probably' }}</td>
              </tr>
              <tr v-if="read.sheets.length > 1">
                <th>Sheet</th>
                <td>{{ read.sheet }}</td>
              </tr>
              <tr v-if="read.records">
                <th>Records</th>
                <td>
                  {{ count(read.records) }}
                  <span class="soft"
                    >in this file{{
                      read.with_others !== read.records && read.state !== 'aside'
                        ? `, ${count(read.with_others)} with the other parts`
                        : ''
                    }}</span
                  >
                </td>
              </tr>
              <tr v-if="read.announced !== null && read.records">
                <th>Announced</th>
                <td>
                  {{ count(read.announced) }}
                  <span v-if="difference" class="odd"
                    >— {{ count(Math.abs(difference)) }} {{ difference < 0 ? 'fewer' : 'more' }} came</span
                  ><span v-else class="soft">— all came</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="read.habit" class="small odd gap">Read as the last file of {{ read.source }} was.</p>
          <div v-if="open" class="row gap wrap">
            <v-btn :aria-expanded="changing" @click="changing = !changing">Read otherwise</v-btn>
            <v-btn v-if="!isSheet" :to="`/reviews/${review}/gather/files/${read.id}/recipe`">{{
              read.recipe && read.certainty !== 'guess' ? 'Its recipe' : 'Make a recipe'
            }}</v-btn>
            <v-btn
              v-if="ownHow"
              @click="
                readAgain(
                  { format: '', encoding: '', fields: {}, recipe: '', sheet: '', header: null, names: '' },
                  'Read as it was found out.',
                )
              "
              >As found out</v-btn
            >
          </div>
          <form v-if="changing" class="fields gap" @submit.prevent="change">
            <ChoiceField v-if="!isSheet" v-model="how.format" :items="FORMAT_CHOICES" label="Read as" />
            <ChoiceField v-if="!isSheet" v-model="how.encoding" :items="ENCODINGS" label="Encoding" />
            <ChoiceField
              v-if="read.sheets.length > 1"
              v-model="how.sheet"
              :items="[{ value: '', title: 'Find out' }, ...read.sheets.map((name) => ({ value: name, title: name }))]"
              label="Sheet"
            />
            <TextField
              v-if="isTable"
              v-model="how.header"
              label="Row of column names; 0 for none"
              inputmode="numeric"
              maxlength="2"
            />
            <v-btn type="submit" class="main">Read it so</v-btn>
          </form>
          <template v-if="read.suspicions.length || odd.length || read.problems.length">
            <h3 class="soft small">Look at these</h3>
            <table class="small">
              <tbody>
                <tr v-for="one in read.suspicions" :key="one.kind">
                  <td>
                    <button
                      v-if="one.places.length"
                      class="link odd"
                      @click="go(after(one.places.map((place) => place.position)))"
                    >
                      {{ one.records > 1 ? `${count(one.records)} of ${count(read.records)}: ` : ''
                      }}{{ one.message }}</button
                    ><span v-else class="odd">{{ one.message }}</span>
                    <div v-if="one.other && open">
                      <v-btn class="mend" @click="readAgain({ names: one.other }, 'Names are read the other way.')"
                        >Read names the other way</v-btn
                      >
                    </div>
                  </td>
                  <td class="num soft">{{ one.places.length ? lines(one.places.map((place) => place.line)) : '' }}</td>
                </tr>
                <tr v-for="group in odd" :key="group.field">
                  <td>
                    <button class="link" @click="go(after(group.records.map((r) => r.position)))">
                      {{ plural(group.records.length, 'record') }} without {{ group.field }}
                    </button>
                  </td>
                  <td class="num soft">{{ lines(group.records.map((r) => r.line)) }}</td>
                </tr>
                <tr v-for="(problem, k) in read.problems.slice(0, 60)" :key="k">
                  <td class="odd">{{ problem.message }}</td>
                  <td class="num soft nowrap">{{ problem.line ? `line ${count(problem.line)}` : '' }}</td>
                </tr>
                <tr v-if="read.problems.length > 60">
                  <td colspan="2" class="soft">and {{ plural(read.problems.length - 60, 'problem') }} more</td>
                </tr>
              </tbody>
            </table>
          </template>
          <template v-if="read.records">
            <h3 class="soft small">How full each field is</h3>
            <table class="small">
              <tbody>
                <tr v-for="[field, label] in FIELDS" :key="field">
                  <td>{{ label }}</td>
                  <td class="gauge">
                    <span class="track"
                      ><span
                        class="bar fill"
                        :style="{ width: `${read.records ? (100 * (read.filled[field] ?? 0)) / read.records : 0}%` }"
                    /></span>
                  </td>
                  <td class="num">{{ count(read.filled[field] ?? 0) }}</td>
                </tr>
              </tbody>
            </table>
          </template>
        </template>
      </aside>
      <section class="pane sheet">
        <template v-if="entry && read.records">
          <div class="head">
            <b>Record {{ count(entry.position) }} of {{ count(read.records) }}</b
            ><span class="soft small">{{
              entry.line === entry.end_line
                ? `line ${count(entry.line)}`
                : `lines ${count(entry.line)}–${count(entry.end_line)}`
            }}</span>
            <span class="push small soft row">
              <v-btn aria-label="Record before" :disabled="position <= 1" @click="go(position - 1)">↑</v-btn
              ><v-btn aria-label="Record after" :disabled="position >= read.records" @click="go(position + 1)">↓</v-btn>
              <v-btn v-if="toLookAt.length" @click="nextOdd">Next to look at <kbd>L</kbd></v-btn>
            </span>
          </div>
          <p v-if="suspectedHere.length" class="small odd here">
            {{ suspectedHere.map((one) => one.message).join(' · ') }}
          </p>
          <table class="lines">
            <thead>
              <tr>
                <th class="num">Line</th>
                <th>What the file says</th>
                <th>Field</th>
                <th>What was understood</th>
                <th>What looks odd</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(line, k) in entry.lines" :key="k">
                <td class="soft num">{{ count(line.number) }}</td>
                <td class="mono said">{{ line.text }}</td>
                <td class="soft field">
                  <select
                    v-if="open && pickable(line.label)"
                    class="box pick"
                    :value="read.fields[line.label] ?? ''"
                    :aria-label="`Field of ${line.label}`"
                    :disabled="asking"
                    @change="reassign(line.label, ($event.target as HTMLSelectElement).value)"
                  >
                    <option v-for="one in FIELD_CHOICES" :key="one.value" :value="one.value">{{ one.title }}</option>
                  </select>
                  <template v-else>{{ line.field }}</template>
                </td>
                <td class="read value" :class="{ soft: line.field === '—' }">
                  {{ line.field === 'Kind' ? (KIND_WORDS[line.value] ?? line.value) : line.value }}
                </td>
                <td class="small odd">
                  {{ line.odd }}
                  <div v-for="problem in entry.problems.filter((p) => p.line === line.number)" :key="problem.message">
                    {{ problem.message }}
                  </div>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
        <p v-else-if="entryError" class="pad bad" role="alert">{{ (entryError as Error).message }}</p>
        <div v-else-if="read.state === 'failed'" class="pad soft">
          <h2>Nothing could be read</h2>
          <p>{{ read.failure }}</p>
          <p>Read it otherwise, make a recipe for it, or set it aside and upload a new export.</p>
        </div>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 308px minmax(0, 1fr);
}
.name {
  font-size: 17px;
  line-height: 24px;
  overflow-wrap: anywhere;
}
.failure {
  margin-top: 12px;
}
.facts {
  margin-top: 12px;
}
.facts th {
  font-weight: 400;
}
.gap {
  margin-top: 10px;
}
td:first-child,
.facts th {
  padding-left: 0;
}
.lines td:first-child {
  padding-left: 10px;
  width: 56px;
}
h3 {
  margin: 16px 0 2px;
}
.here {
  padding: 4px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.mend {
  margin: 4px 0;
}
.gauge {
  width: 110px;
  vertical-align: middle;
}
.track {
  display: block;
  width: 100%;
  height: 4px;
  background: var(--ks-hair);
}
.fill {
  display: block;
}
.link {
  text-align: left;
}
.link.odd {
  color: var(--ks-ochre);
}
.said {
  width: 36%;
}
.field {
  width: 124px;
}
.pick {
  width: 116px;
  font-size: 12px;
  padding: 1px 2px;
  border-color: transparent;
  background: transparent;
  color: var(--ks-soft);
}
.pick:hover,
.pick:focus {
  border-color: var(--ks-hair);
  color: var(--ks-ink);
}
.pick option {
  background: var(--ks-sheet);
  color: var(--ks-ink);
}
.value {
  font-size: 14px;
  overflow-wrap: anywhere;
}
.nowrap {
  white-space: nowrap;
}
.lines th {
  top: 36px;
}
</style>
