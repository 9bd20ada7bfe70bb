<script setup lang="ts">
// One record: its fields with whose value each is, its copies as they came, and all that ever happened to it.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { KIND_WORDS, moment, plain } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { FIELD_NAMES } from './reading'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const record = computed(() => Number(route.params.record))
const at = computed(() => ({ path: { review: review.value, record: record.value } }))
const {
  data: whole,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['records', review, 'whole', record],
  queryFn: () => got(GET('/api/reviews/{review}/records/{record}/whole', { params: at.value })),
})
const copyOf = (id: number) => whole.value?.copies.findIndex((copy) => copy.id === id) ?? -1
const shown = (value: unknown) => plain(value, ' · ')
const fields = computed(() =>
  Object.entries(whole.value?.fields ?? {})
    .filter(
      ([name, value]) =>
        shown(value) && name !== 'extra' && !(name === 'date' && shown(value) === shown(whole.value?.fields.year)),
    )
    .map(([name, value]) => ({
      name,
      value: name === 'kind' ? (KIND_WORDS[String(value)] ?? String(value)) : shown(value),
      whose: whole.value?.filled[name] ?? whole.value?.whose[name],
    })),
)
const raw = ref<number | null>(null)
const WORDS: Record<string, string> = {
  uploaded: 'came in',
  joined: 'joined with a copy',
  told_apart: 'told apart from another',
  ruling_withdrawn: 'taken back',
  decided: 'decided',
  decision_withdrawn: 'decision taken back',
  settled: 'difference settled',
  seed: 'marked as a seed',
  noted: 'noted',
  full_text: 'full text',
  filled: 'filled',
  set_aside: 'set aside by narrowing',
  let_in: 'let in again',
}
const state = computed(() => {
  const one = whole.value
  if (!one) return ''
  if (one.narrowing) return `Set aside: ${one.narrowing}`
  return one.state.charAt(0).toUpperCase() + one.state.slice(1)
})
const name = ref('')
async function label() {
  const said = name.value.trim()
  if (!said) return
  await attempt(async () => {
    const made = await got(
      POST('/api/reviews/{review}/labels', { params: path.value, body: { name: said, records: [record.value] } }),
    )
    name.value = ''
    say(`Labelled “${said}”.`, () => take(made.label, made.copies))
  })
  await refresh('records', 'labels')
}
/** Take a label off the record, or only off some of its copies. */
async function take(number: number, copies?: number[]) {
  if (copies && !copies.length) return
  const params = { path: { review: review.value, label: number } }
  await attempt(() =>
    got(
      POST('/api/reviews/{review}/labels/{label}/take', {
        params,
        body: { copies: copies ?? [record.value], only: !!copies },
      }),
    ),
  )
  await refresh('records', 'labels')
}
async function letIn() {
  await attempt(async () => {
    const body = await got(
      POST('/api/reviews/{review}/records/let-in', { params: path.value, body: { records: [at.value.path.record] } }),
    )
    say('Let in again.', () => got(POST('/api/reviews/{review}/records/hold-again', { params: path.value, body })))
  })
  await refresh('records', 'figures')
}
const abstract = ref('')
async function paste() {
  await attempt(async () => {
    const made = await got(
      POST('/api/reviews/{review}/records/{record}/abstract', { params: at.value, body: { text: abstract.value } }),
    )
    abstract.value = ''
    say('The abstract is in; what the sources delivered stays as it was.', () =>
      got(POST('/api/reviews/{review}/gaps/take-back', { params: path.value, body: made })),
    )
  })
  await refresh('records', 'gaps')
}
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="whole" class="panes columns">
      <Teleport to="#view-actions" defer>
        <v-btn v-if="whole.narrowing && mayWrite" @click="letIn">Let in again</v-btn>
        <v-btn :to="`/reviews/${review}/screen?record=${whole.id}`">On the desk</v-btn>
      </Teleport>
      <section class="pane sheet">
        <h1 class="read pad title">{{ whole.fields.title || 'Untitled' }}</h1>
        <table class="lines">
          <thead>
            <tr>
              <th>Field</th>
              <th>The record says</th>
              <th>Whose value</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in fields" :key="one.name">
              <td class="soft small">{{ FIELD_NAMES[one.name] ?? one.name }}</td>
              <td class="read value">{{ one.value }}</td>
              <td class="small soft">
                <template v-if="typeof one.whose === 'string'"
                  ><span class="odd">{{ one.whose }}</span></template
                ><button
                  v-else-if="one.whose !== undefined && copyOf(one.whose) >= 0"
                  class="link"
                  @click="raw = one.whose"
                >
                  copy {{ copyOf(one.whose) + 1 }}, {{ whole.copies[copyOf(one.whose)]?.source }}
                </button>
              </td>
            </tr>
            <tr v-for="(pair, k) in whole.fields.extra" :key="`extra ${k}`">
              <td class="soft small">{{ pair[0] }}</td>
              <td class="value small">{{ pair[1] }}</td>
              <td class="small soft">kept, not used</td>
            </tr>
          </tbody>
        </table>
        <form v-if="!whole.fields.abstract && mayWrite" class="pad fields" @submit.prevent="paste">
          <p class="odd">No source gave an abstract for this record.</p>
          <textarea
            v-model="abstract"
            class="box"
            rows="4"
            aria-label="Abstract"
            placeholder="Paste one that you found"
          />
          <div>
            <v-btn type="submit" class="main" :disabled="abstract.trim().length < 40">Keep this abstract</v-btn>
          </div>
        </form>
      </section>
      <aside class="pane pad">
        <h2>{{ state }}</h2>
        <div class="row wrap gap">
          <span v-for="one in whole.labels" :key="one.id" class="tag"
            ><router-link :to="`/reviews/${review}/records?list=label:${one.id}`">{{ one.name }}</router-link
            ><button v-if="mayWrite" class="off" :aria-label="`Take the label ${one.name} off`" @click="take(one.id)">
              ×
            </button></span
          >
          <form v-if="mayWrite" @submit.prevent="label">
            <input
              v-model="name"
              class="box"
              maxlength="100"
              size="16"
              placeholder="Add a label"
              aria-label="Add a label"
            />
          </form>
        </div>
        <h2 class="gap">
          {{ whole.copies.length === 1 ? 'The copy, as it came' : `${whole.copies.length} copies, as they came` }}
        </h2>
        <div v-for="(copy, k) in whole.copies" :key="copy.id" class="copy" :class="{ on: raw === copy.id }">
          <div class="small">
            <b>{{ k + 1 }}</b> ·
            <router-link :to="`/reviews/${review}/gather?search=${copy.number}`"
              >{{ copy.source }}, search {{ copy.number }}{{ copy.run > 1 ? `.${copy.run}` : '' }}</router-link
            ><template v-if="copy.query_version"> · query version {{ copy.query_version }}</template>
          </div>
          <div class="small soft">
            <router-link :to="`/reviews/${review}/gather/files/${copy.batch_id}?record=${copy.position}`"
              >{{ copy.filename }}, line {{ copy.line }}</router-link
            ><span v-for="one in copy.labels" :key="one" class="tag">{{ one }}</span>
          </div>
          <button class="link small" :aria-expanded="raw === copy.id" @click="raw = raw === copy.id ? null : copy.id">
            {{ raw === copy.id ? 'Hide its text' : 'Its text' }}
          </button>
          <pre v-if="raw === copy.id" class="mono" tabindex="0">{{ copy.raw }}</pre>
        </div>
        <h2 class="gap">What happened</h2>
        <table class="small">
          <tbody>
            <tr v-for="(one, k) in whole.history" :key="k">
              <td class="soft nowrap">{{ moment(one.at) }}</td>
              <td>
                {{ one.by }} · {{ WORDS[one.what] ?? one.what }}
                <div class="soft detail">{{ one.detail }}</div>
              </td>
            </tr>
          </tbody>
        </table>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 400px;
}
.title {
  font-size: 20px;
  line-height: 28px;
  padding-bottom: 8px;
}
.value {
  font-size: 14px;
  overflow-wrap: anywhere;
  white-space: pre-line;
}
.lines td:first-child {
  width: 104px;
}
.lines td:last-child {
  width: 150px;
}
.gap {
  margin-top: 16px;
}
.copy {
  padding: 6px 8px;
  border-bottom: 1px solid var(--ks-hair);
}
.copy .tag {
  margin-left: 4px;
}
.off {
  margin-left: 4px;
}
pre {
  margin: 6px 0 0;
  max-height: 320px;
  overflow: auto;
}
.nowrap {
  white-space: nowrap;
}
.detail {
  overflow-wrap: anywhere;
}
td:first-child {
  padding-left: 0;
}
.lines td:first-child,
.lines th:first-child {
  padding-left: 16px;
}
</style>
