<script setup lang="ts">
// Controlled vocabularies: headings by any of their names, their neighbours, and the way into the query.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import TypedBox from '@/common/TypedBox.vue'
import UploadBox from '@/common/UploadBox.vue'
import { useDraft } from './query/draft'
import IntoConcept from './query/IntoConcept.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const words = computed(() => String(route.query.words ?? ''))
const chosen = computed(() => Number(route.query.heading) || null)
const set = (said: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...said } })
const {
  data: loaded,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['vocabularies', review],
  queryFn: () => got(GET('/api/reviews/{review}/vocabularies', { params: path.value })),
  refetchInterval: (query) => (query.state.data?.some((one) => one.state === 'waiting') ? 1000 : false),
})
const { data: found, isFetching } = useQuery({
  queryKey: ['headings', review, words, computed(() => loaded.value?.map((one) => `${one.id} ${one.state}`).join())],
  queryFn: () =>
    got(GET('/api/reviews/{review}/headings', { params: { ...path.value, query: { words: words.value } } })),
  placeholderData: keepPreviousData,
})
const at = computed(() => chosen.value ?? found.value?.[0]?.id ?? null)
const { data: heading, error: headingError } = useQuery({
  queryKey: ['headings', review, 'one', at],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/headings/{number}', {
        params: { path: { review: review.value, number: at.value ?? 0 } },
      }),
    ),
  enabled: computed(() => at.value !== null),
  placeholderData: keepPreviousData,
})
const open = (id: number) => router.push({ query: { ...route.query, heading: String(id) } })
const box = ref<InstanceType<typeof TypedBox> | null>(null)
function step(by: number) {
  const place = found.value?.findIndex((one) => one.id === at.value) ?? -1
  const next = found.value?.[place + by]
  if (next) void set({ heading: String(next.id) })
}

// into the query
const { data: history } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
const { state, into } = useDraft(
  review,
  computed(() => (history.value ? (history.value.steps[0]?.text ?? '') : undefined)),
)
const wide = ref(true)
watch(heading, (one) => (wide.value = !!one?.below))
const term = computed(() => (wide.value ? heading.value?.term_below : heading.value?.term) ?? '')
const { data: pointed } = useQuery({
  queryKey: ['headings', review, 'pointed', computed(() => state.text), computed(() => loaded.value?.length)],
  queryFn: () =>
    got(POST('/api/reviews/{review}/headings/pointed-out', { params: path.value, body: { text: state.text } })),
  enabled: computed(() => !!state.text && !!loaded.value?.length),
  placeholderData: keepPreviousData,
})
async function put(place: number) {
  const chosen = heading.value
  if (!chosen || !mayWrite.value) return
  const done = await into(place, [term.value])
  if (done) say(`${chosen.label}${wide.value ? ' with its narrower headings' : ''} in ${done.name}.`, done.undo)
}
/** Beside the free word that it is a name of. */
async function beside(out: Schemas['PointedOut']) {
  const place = state.concepts.findIndex((concept) =>
    concept.terms.some((term) => term.replaceAll('"', '').toLowerCase() === out.term.toLowerCase()),
  )
  const done = await into(place, [out.heading])
  if (done) say(`${out.label} in ${done.name}.`, done.undo)
}
async function remove(vocabulary: Schemas['Vocabulary']) {
  const params = { path: { review: review.value, number: vocabulary.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/vocabularies/{number}', { params }))))
    say(`${vocabulary.name} is out of use.`, () =>
      got(POST('/api/reviews/{review}/vocabularies/{number}/back', { params })),
    )
  await refresh('vocabularies', 'headings')
}
const records = (query: string) => ({
  path: `/reviews/${review.value}/records`,
  query: { list: 'all', query },
})
useKeys({
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  n: () => (wide.value = !wide.value),
  '/': () => box.value?.focus(),
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <span v-if="isFetching" class="soft small" role="status">Looking …</span>
        <v-btn class="main" :to="`/reviews/${review}/plan/query`">To the query</v-btn>
      </Teleport>
      <section class="pane">
        <div class="head">
          <TypedBox
            ref="box"
            class="box whole"
            :said="words"
            aria-label="Look a heading up by any of its names"
            placeholder="Any name of a heading ( / )"
            maxlength="200"
            @typed="(text) => set({ words: text || undefined, heading: undefined })"
            @keydown.down.prevent="step(1)"
            @keydown.up.prevent="step(-1)"
          />
        </div>
        <p v-if="!loaded?.some((one) => one.state === 'read')" class="pad soft">
          No vocabulary yet. Load a SKOS file on the right, and its headings can be looked up here.
        </p>
        <p v-else-if="!found?.length" class="pad soft">No heading has a name like that.</p>
        <ul v-else class="found" :aria-label="words ? 'Headings found' : 'Highest headings'">
          <li v-for="one in found" :key="one.id">
            <button
              class="line"
              :class="{ on: one.id === at }"
              :aria-current="one.id === at"
              @click="set({ heading: String(one.id) })"
            >
              {{ one.label }}<span v-if="one.kind !== 'preferred'" class="soft small"> named {{ one.name }}</span
              ><span v-if="one.narrower" class="soft small push">{{ count(one.narrower) }}</span>
            </button>
          </li>
          <li v-if="found.length === 200" class="pad soft small">The first 200; write more of the name.</li>
        </ul>
      </section>
      <section class="pane sheet pad">
        <p v-if="headingError" class="bad" role="alert">{{ (headingError as Error).message }}</p>
        <article v-else-if="heading && at">
          <h1 class="read">{{ heading.label }}</h1>
          <p class="soft small">
            {{ heading.vocabulary }} ·
            <router-link :to="records(heading.term)">{{ plural(heading.records, 'record') }}</router-link><template
              v-if="heading.below"
            >
              · with the {{ count(heading.below) }} below it
              <router-link :to="records(heading.term_below)">{{
                plural(heading.records_below, 'record')
              }}</router-link></template
            >
          </p>
          <p v-if="heading.scope_note" class="read note">{{ heading.scope_note }}</p>
          <p v-if="heading.history_note" class="small"><span class="soft">History:</span> {{ heading.history_note }}</p>
          <dl>
            <template v-if="heading.alternative.length"
              ><dt>Other names</dt>
              <dd>{{ heading.alternative.join('; ') }}</dd></template
            >
            <template v-if="heading.hidden.length"
              ><dt>Also looked up by</dt>
              <dd>{{ heading.hidden.join('; ') }}</dd></template
            >
            <template
              v-for="[name, list] in [
                ['Broader', heading.broader],
                ['Narrower', heading.narrower],
                ['Related', heading.related],
              ] as const"
              :key="name"
            >
              <template v-if="list.length"
                ><dt>{{ name }}</dt>
                <dd>
                  <ul class="near">
                    <li v-for="one in list" :key="one.id">
                      <button class="link" @click="open(one.id)">{{ one.label }}</button><span
                        v-if="one.narrower"
                        class="soft small"
                      >
                        {{ count(one.narrower) }}</span
                      >
                    </li>
                  </ul>
                </dd></template
              >
            </template>
          </dl>
        </article>
      </section>
      <aside class="pane pad side">
        <template v-if="mayWrite && heading && at">
          <h2>Into the query</h2>
          <label class="row small"
            ><input v-model="wide" type="checkbox" :disabled="!heading.below" /> with its narrower headings
            <kbd>N</kbd></label
          >
          <p class="mono small">{{ term }}</p>
          <IntoConcept :concepts="state.concepts" @into="put" />
        </template>
        <template v-if="pointed?.length">
          <h2>Words of the query that name a heading</h2>
          <table class="small">
            <tbody>
              <tr v-for="one in pointed" :key="one.term + one.id">
                <td class="mono">{{ one.term }}</td>
                <td>
                  <button class="link" @click="open(one.id)">{{ one.label }}</button>
                </td>
                <td class="num">
                  <span v-if="one.used" class="soft">in the query</span
                  ><button
                    v-else-if="mayWrite"
                    class="link"
                    :aria-label="`Add ${one.label} beside ${one.term}`"
                    @click="beside(one)"
                  >
                    add
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
        <h2>Vocabularies</h2>
        <table v-if="loaded?.length" class="small">
          <tbody>
            <tr v-for="one in loaded" :key="one.id">
              <td>
                <b>{{ one.name }}</b>
                <div v-if="one.state === 'failed'" class="bad">{{ one.failure }}</div>
                <div v-for="problem in one.problems" :key="problem" class="odd">{{ problem }}</div>
              </td>
              <td class="num soft nowrap">
                {{
                  one.state === 'waiting' ? 'being read' : one.state === 'read' ? plural(one.headings, 'heading') : ''
                }}
              </td>
              <td class="num">
                <button v-if="mayWrite" class="link" :aria-label="`Remove ${one.name}`" @click="remove(one)">
                  Remove
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <UploadBox
          v-if="mayWrite"
          :address="`/api/reviews/${review}/vocabularies`"
          label="Vocabulary files"
          button="Load a vocabulary"
          hint="SKOS, in Turtle, RDF/XML or JSON-LD"
          :refreshes="['vocabularies']"
        />
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 300px minmax(0, 1fr) 340px;
}
@media (max-width: 1200px) {
  .columns {
    grid-template-columns: 240px minmax(0, 1fr) 290px;
  }
}
.whole {
  flex: 1;
}
.found {
  list-style: none;
  margin: 0;
  padding: 0;
}
.line {
  display: flex;
  gap: 6px;
  width: 100%;
  padding: 5px 12px;
  border-bottom: 1px solid var(--ks-hair);
  align-items: baseline;
}
h1 {
  font-size: 22px;
  line-height: 28px;
}
.note {
  font-size: 15px;
  line-height: 23px;
  margin: 10px 0 6px;
  max-width: 60ch;
}
dl {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr);
  gap: 8px 12px;
  margin: 16px 0 0;
}
dt {
  color: var(--ks-soft);
}
dd {
  margin: 0;
}
.near {
  list-style: none;
  margin: 0;
  padding: 0;
  columns: 2;
}
.near .small {
  margin-left: 5px;
}
.side {
  display: grid;
  gap: 10px;
  align-content: start;
}
.nowrap {
  white-space: nowrap;
}
</style>
