<script setup lang="ts">
// An entry of the search log: its source, its runs, and the files of each.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { DELETE, GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import { ago, count, plural, SOURCE_KINDS } from '@/common/format'
import { wasLate } from '@/common/late'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import UploadBox from '@/common/UploadBox.vue'
import { RUN_STATES, type Search } from './log'

const props = defineProps<{ entry?: Search }>()
const emit = defineEmits<{ close: []; made: [search: number] }>()
const { review, path, protocol, mayWrite } = useReview()
const refresh = useRefresh()
const { data: files } = useQuery({
  queryKey: ['files', review],
  queryFn: () => got(GET('/api/reviews/{review}/files', { params: path.value })),
})
const { data: steps } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
const { data: plans } = useQuery({
  queryKey: ['schedules', review],
  queryFn: () => got(GET('/api/reviews/{review}/schedules', { params: path.value })),
})
const versions = computed(() =>
  (steps.value?.steps ?? [])
    .filter((step) => step.version)
    .map((step) => ({
      value: step.version as number,
      title: `Version ${step.version}${step.note ? `: ${step.note}` : ''}`,
    })),
)

const blank = () => ({
  source: '',
  kind: 'database' as Schemas['SearchEntry']['kind'],
  notes: '',
  query: '',
  run_on: '',
  run_by: '',
  announced: '',
  limits: '',
  run_notes: '',
  query_version: null as number | null,
})
const form = reactive(blank())
const at = ref(-1) // which run: its place, -1 the latest, -2 a new one
const run = computed(() => (at.value === -2 ? undefined : props.entry?.runs.at(at.value)))
const touched = ref(false)
/** The entry and the run as they were when the changes were begun. */
const seen = ref<{ entry: Schemas['SearchEntry']; run: Schemas['RunEntry'] } | null>(null)
const plainRun = (run: Schemas['Run']): Schemas['RunEntry'] => ({
  query: run.query,
  limits: run.limits,
  run_on: run.run_on ?? null,
  run_by: run.run_by,
  announced: run.announced ?? null,
  query_version: run.query_version ?? null,
  notes: run.notes,
})
watch(
  [() => props.entry, run, () => protocol.data.value?.limits],
  () => {
    if (touched.value) return
    const entry = props.entry
    const given = entry ? '' : String(history.state?.query ?? '') // a query written under Plan
    Object.assign(
      form,
      blank(),
      entry
        ? { source: entry.source, kind: entry.kind, notes: entry.notes }
        : { query: given, limits: protocol.data.value?.limits ?? '' },
    )
    const from = run.value ?? (at.value === -2 ? entry?.runs.at(-1) : undefined)
    if (from) Object.assign(form, { query: from.query, limits: from.limits, query_version: from.query_version ?? null })
    const latest = entry?.runs.at(-1)
    seen.value =
      entry && latest
        ? {
            entry: { ...plainRun(latest), source: entry.source, kind: entry.kind, notes: entry.notes },
            run: plainRun(run.value ?? latest),
          }
        : null
    if (run.value)
      Object.assign(form, {
        run_on: run.value.run_on ?? '',
        run_by: run.value.run_by,
        announced: run.value.announced ?? '',
        run_notes: run.value.notes,
      })
  },
  { immediate: true },
)

function go(place: number) {
  touched.value = false
  at.value = place
}
const announced = () => {
  const said = String(form.announced ?? '').replace(/[\s,.]/g, '')
  if (said && !/^\d+$/.test(said)) throw new Refusal('The announced count is a whole number, such as 1284.', 422)
  return said ? Number(said) : null
}
async function save() {
  try {
    const ran = {
      query: form.query,
      limits: form.limits,
      run_on: form.run_on || null,
      run_by: form.run_by,
      announced: announced(),
      query_version: form.query_version || null,
    }
    const entry = props.entry
    if (!entry) {
      const made = await got(
        POST('/api/reviews/{review}/searches', {
          params: path.value,
          body: { ...ran, source: form.source, kind: form.kind, notes: form.notes },
        }),
      )
      touched.value = false
      await refresh('searches')
      emit('made', made.id)
    } else {
      const params = { path: { review: review.value, search: entry.id } }
      const latest = entry.runs.at(-1)!
      const last = !run.value || run.value.id === latest.id
      const of_latest =
        last && at.value !== -2
          ? ran
          : (({ notes: _, source: __, kind: ___, ...rest }) => rest)(
              seen.value?.entry ?? { ...plainRun(latest), source: '', kind: 'database' as const },
            )
      const written = { ...of_latest, source: form.source, kind: form.kind, notes: form.notes }
      await got(
        PUT('/api/reviews/{review}/searches/{search}', { params, body: { ...written, seen: seen.value?.entry } }),
      )
      const body = { ...ran, notes: form.run_notes }
      if (at.value === -2) await got(POST('/api/reviews/{review}/searches/{search}/runs', { params, body }))
      else if (run.value)
        await got(
          PUT('/api/reviews/{review}/searches/{search}/runs/{run}', {
            params: { path: { ...params.path, run: run.value.id } },
            body: { ...body, seen: last ? undefined : seen.value?.run },
          }),
        )
    }
    touched.value = false
    at.value = -1
    await refresh('searches', 'figures', 'files')
    say('The search is in the log.')
  } catch (failure) {
    const late = wasLate<Schemas['SearchEntry']>(failure, (mine, now) => rewrite(mine, now), letStand)
    if (!late) complain(failure)
  }
}
/** One's own words where both changed something, and the rest as it stands now. */
async function rewrite(mine: Schemas['SearchEntry'], now: Schemas['SearchEntry']) {
  Object.assign(
    form,
    { ...mine, run_on: mine.run_on ?? '', announced: mine.announced ?? '' },
    at.value === -1 && 'source' in mine ? {} : { notes: form.notes, run_notes: mine.notes ?? '' },
  )
  if (seen.value && 'source' in now) seen.value = { entry: now, run: seen.value.run }
  else if (seen.value) seen.value = { ...seen.value, run: now }
  await save()
}
async function letStand() {
  touched.value = false
  await refresh('searches')
}
async function remove() {
  const search = props.entry
  if (!search) return
  const params = { path: { review: review.value, search: search.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/searches/{search}', { params })))) {
    say(`Search ${search.number} is out of the log.`, () =>
      got(POST('/api/reviews/{review}/searches/{search}/back', { params })),
    )
    emit('close')
  }
  await refresh('searches')
}
async function removeRun() {
  const search = props.entry
  const removed = run.value
  if (!search || !removed) return
  const params = { path: { review: review.value, search: search.id } }
  const body = {
    query: removed.query,
    limits: removed.limits,
    run_on: removed.run_on ?? null,
    run_by: removed.run_by,
    announced: removed.announced ?? null,
    notes: removed.notes,
    query_version: removed.query_version ?? null,
  }
  if (
    await attempt(() =>
      got(
        DELETE('/api/reviews/{review}/searches/{search}/runs/{run}', {
          params: { path: { ...params.path, run: removed.id } },
        }),
      ),
    )
  ) {
    go(-1)
    say(`Run ${removed.number} is out of the log.`, () =>
      got(POST('/api/reviews/{review}/searches/{search}/runs', { params, body })),
    )
  }
  await refresh('searches')
}
async function resume(number: number) {
  await attempt(() =>
    got(
      POST('/api/reviews/{review}/catalogue-runs/{run}/resume', {
        params: { path: { review: review.value, run: number } },
      }),
    ),
  )
  await refresh('searches', 'jobs')
}
const own = computed(() => (files.value ?? []).filter((file) => file.search_id === props.entry?.id))
const planned = computed(() => (plans.value ?? []).filter((plan) => plan.search_id === props.entry?.id))
async function plan(listed: Schemas['ScheduleListed']) {
  const params = { path: { review: review.value, schedule: listed.id } }
  const [act, undo] = listed.stopped_at ? (['go-on', 'stop'] as const) : (['stop', 'go-on'] as const)
  if (await attempt(() => got(POST(`/api/reviews/{review}/schedules/{schedule}/${act}`, { params }))))
    say(listed.stopped_at ? 'The plan is in force again.' : 'No more runs are planned.', () =>
      got(POST(`/api/reviews/{review}/schedules/{schedule}/${undo}`, { params })),
    )
  await refresh('schedules')
}
const label = ref('')
const address = computed(() => {
  const more = new URLSearchParams({
    ...(run.value ? { run: String(run.value.id) } : {}),
    ...(label.value.trim() ? { label: label.value.trim() } : {}),
  }).toString()
  return `/api/reviews/${review.value}/searches/${props.entry?.id}/files${more ? `?${more}` : ''}`
})
function uploaded(said: unknown) {
  const same = (said as { same_as?: string } | undefined)?.same_as
  if (same) say(`The same file is here already as ${same}. It was kept all the same; set one of them aside.`)
}
const STATES: Record<string, string> = {
  waiting: 'waiting',
  reading: 'being read',
  read: 'to look at',
  failed: 'could not be read',
  taken: 'taken in',
  aside: 'set aside',
}
</script>

<template>
  <form class="fields" @submit.prevent="save" @input="touched = true">
    <div class="row">
      <h2>{{ entry ? `Search ${entry.number}` : 'New search' }}</h2>
      <v-btn class="push" aria-label="Close" @click="emit('close')">Close</v-btn>
    </div>
    <div class="row two">
      <TextField v-model="form.source" label="Source" maxlength="200" :readonly="!mayWrite" />
      <ChoiceField
        v-model="form.kind"
        :items="[...SOURCE_KINDS]"
        label="Kind of source"
        :readonly="!mayWrite"
        @update:model-value="touched = true"
      />
    </div>
    <div v-if="entry" class="row runs" role="group" aria-label="Runs of this search">
      <button
        v-for="(one, k) in entry.runs"
        :key="one.id"
        type="button"
        class="tag"
        :class="{ now: run?.id === one.id }"
        :aria-pressed="run?.id === one.id"
        @click="go(k)"
      >
        Run {{ one.number }}
      </button>
      <button
        v-if="mayWrite"
        type="button"
        class="tag"
        :class="{ now: at === -2 }"
        :aria-pressed="at === -2"
        @click="go(-2)"
      >
        Done again
      </button>
      <span v-if="run" class="soft small push"
        >{{ count(run.imported) }} copies,
        <router-link :to="`/reviews/${review}/records?list=new:${run.id}`">{{ count(run.new) }} new</router-link></span
      >
    </div>
    <p v-if="run?.state" class="small" :class="run.state === 'failed' ? 'bad' : 'soft'" role="status">
      Run in {{ run.catalogue }}: {{ RUN_STATES[run.state] }}, {{ count(run.fetched) }} of
      {{ run.announced === null || run.announced === undefined ? '?' : count(run.announced) }} records.
      {{ run.failure }}
      <v-btn v-if="mayWrite && (run.state === 'failed' || run.state === 'cancelled')" @click="resume(run.id)"
        >Take up where it stopped</v-btn
      >
    </p>
    <p v-if="run?.understood.length" class="small soft">
      The catalogue understood:
      <template v-for="(one, k) in run.understood as [string, string][]" :key="k"
        >{{ k ? '; ' : '' }}<b>{{ one[0] }}</b> as {{ one[1] }}</template
      >
    </p>
    <TextArea v-model="form.query" label="Query, exactly as run" rows="3" class="code" :readonly="!mayWrite" />
    <div class="row two">
      <TextField v-model="form.limits" label="Limits, such as dates" maxlength="2000" :readonly="!mayWrite" />
      <ChoiceField
        v-if="versions.length"
        v-model="form.query_version"
        :items="[{ value: null, title: 'No version' }, ...versions]"
        label="Version of the query"
        :readonly="!mayWrite"
        @update:model-value="touched = true"
      />
    </div>
    <div class="row two">
      <TextField v-model="form.run_on" label="Run on" type="date" :readonly="!mayWrite" />
      <TextField v-model="form.run_by" label="by" :readonly="!mayWrite" />
    </div>
    <TextField
      v-model="form.announced"
      label="Count that the source announced"
      inputmode="numeric"
      :readonly="!mayWrite"
    />
    <TextArea
      v-if="entry && entry.runs.length > 1"
      v-model="form.run_notes"
      label="Notes on this run"
      rows="1"
      :readonly="!mayWrite"
    />
    <TextArea v-model="form.notes" label="Notes, such as why fewer came" rows="1" :readonly="!mayWrite" />
    <div v-if="mayWrite" class="row">
      <v-btn class="main" type="submit" :disabled="!form.source.trim()">{{
        !entry ? 'Write into the log' : at === -2 ? 'Write the run into the log' : 'Save'
      }}</v-btn>
      <v-btn v-if="entry && !entry.files" @click="remove">Remove</v-btn>
      <v-btn v-else-if="entry && run && !run.files && entry.runs.length > 1" @click="removeRun">Remove this run</v-btn>
    </div>
  </form>
  <template v-if="entry">
    <UploadBox
      v-if="mayWrite && at !== -2"
      :address="address"
      label="Files for this search"
      button="Upload files"
      hint="or drop them here; several parts, or a ZIP of them, count as one search"
      :refreshes="['files', 'searches']"
      class="block"
      @done="uploaded"
    />
    <input
      v-if="mayWrite && at !== -2"
      v-model="label"
      class="box label"
      maxlength="100"
      placeholder="Label for these files, if you like: hand search, autumn"
      aria-label="Label for the files"
    />
    <table v-if="own.length" class="small">
      <tbody>
        <tr v-for="one in own" :key="one.id">
          <td>
            <router-link :to="`/reviews/${review}/gather/files/${one.id}`">{{ one.filename }}</router-link><span
              v-if="entry.runs.length > 1"
              class="soft"
            >
              · run {{ one.run_number }}</span
            >
            <div v-for="name in one.labels" :key="name" class="tag">{{ name }}</div>
          </td>
          <td class="num">{{ one.records ? plural(one.records, 'record') : '' }}</td>
          <td :class="one.state === 'failed' ? 'bad' : one.state === 'read' ? 'odd' : 'soft'">
            {{ STATES[one.state] }}
          </td>
        </tr>
      </tbody>
    </table>
    <table v-if="planned.length" class="small block">
      <thead>
        <tr>
          <th>Planned</th>
          <th>Next run</th>
          <th><span class="unseen">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in planned" :key="one.id">
          <td>{{ one.every }} in {{ one.catalogue }}</td>
          <td>
            {{
              one.stopped_at
                ? `stopped ${ago(one.stopped_at)}`
                : one.next_at
                  ? new Date(one.next_at).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
                  : ''
            }}
          </td>
          <td class="num">
            <v-btn v-if="mayWrite" @click="plan(one)">{{ one.stopped_at ? 'Go on' : 'Stop' }}</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
  </template>
</template>

<style scoped>
.two {
  align-items: start;
}
.two > * {
  flex: 1 1 0;
  min-width: 0;
}
.runs {
  flex-wrap: wrap;
  gap: 4px;
}
.runs button.tag {
  border: 1px solid var(--ks-hair);
  padding: 0 6px;
  color: var(--ks-soft);
}
.runs button.tag.now {
  border-color: var(--ks-copper);
  color: var(--ks-ink);
  font-weight: 600;
}
.block {
  margin: 18px 0 8px;
}
.label {
  width: 100%;
  margin-bottom: 8px;
}
td:first-child {
  padding-left: 0;
  overflow-wrap: anywhere;
}
</style>
