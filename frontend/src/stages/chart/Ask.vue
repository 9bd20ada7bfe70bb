<script setup lang="ts">
// A question over the reports: passages that speak to it with their places, by report or as one text of quotes.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { useEvidence } from './evidence'
import ReportPane from './ReportPane.vue'

type Answer = Schemas['AnsweringPassage']
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const evidence = useEvidence()
const studies = computed(() => evidence.data.value?.studies ?? [])
const question = computed(() => String(route.query.q ?? ''))
const only = computed(() =>
  String(route.query.studies ?? '')
    .split(',')
    .filter(Boolean)
    .map(Number),
)
const asText = computed(() => route.query.as === 'text')
const setQuery = (changes: Record<string, string>) =>
  router.replace({
    query: Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value)),
  })
const typed = ref(question.value)
watch(question, (one) => (typed.value = one))
const { data, isFetching, error } = useQuery({
  queryKey: ['evidence', review, 'asking', question, computed(() => only.value.join())],
  enabled: computed(() => Boolean(question.value)),
  placeholderData: keepPreviousData,
  queryFn: () =>
    got(
      POST('/api/reviews/{review}/asking', {
        params: path.value,
        body: { question: question.value, studies: only.value.length ? only.value : undefined },
      }),
    ),
})
const { data: kept } = useQuery({
  queryKey: ['evidence', review, 'questions'],
  queryFn: () => got(GET('/api/reviews/{review}/asking/kept', { params: path.value })),
})
const answers = computed(() => (question.value ? (data.value?.answers ?? []) : []))
/** Answers by report, the report with the best one first. */
const byReport = computed(() => {
  const out = new Map<number, Answer[]>()
  for (const answer of answers.value) out.set(answer.record, [...(out.get(answer.record) ?? []), answer])
  return [...out.values()]
})
const flat = computed(() => (asText.value ? answers.value : byReport.value.flat()))
const at = ref(0)
watch(answers, () => (at.value = 0))
const chosen = computed(() => flat.value[at.value])
const study = computed(() => studies.value.find((study) => study.id === chosen.value?.study))
const quote = computed(() =>
  chosen.value ? { text: chosen.value.text, page: chosen.value.page, record: chosen.value.record } : null,
)
const place = (answer: Answer) =>
  `${answer.label}${answer.page ? `, p. ${answer.page}` : answer.whole ? '' : ', abstract'}`
const step = (by: number) => (at.value = Math.max(0, Math.min(flat.value.length - 1, at.value + by)))
useKeys({ ArrowDown: () => step(1), ArrowUp: () => step(-1) })

async function copy() {
  const text = flat.value.map((one) => `“${one.text}” (${place(one)})`).join(asText.value ? ' ' : '\n')
  if (await attempt(() => navigator.clipboard.writeText(text)))
    say('The quotes are on the clipboard, with their places.')
}
const isKept = computed(() => kept.value?.some((one) => one.text.toLowerCase() === question.value.trim().toLowerCase()))
async function keep() {
  await attempt(() =>
    got(POST('/api/reviews/{review}/asking/kept', { params: path.value, body: { text: question.value } })),
  )
  await refresh('evidence')
}
async function drop(kept: Schemas['QuestionKept']) {
  const params = { params: { path: { review: review.value, asked: kept.id } } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/asking/kept/{asked}', params))))
    say('The question is no longer kept.', async () => {
      await got(POST('/api/reviews/{review}/asking/kept/{asked}/back', params))
      await refresh('evidence')
    })
  await refresh('evidence')
}
const toggle = (id: number) =>
  setQuery({
    studies: (only.value.includes(id) ? only.value.filter((one) => one !== id) : [...only.value, id]).join(','),
  })
</script>

<template>
  <div class="panes columns">
    <section class="pane filled" aria-label="Question and passages">
      <div class="asking">
        <form class="row" @submit.prevent="setQuery({ q: typed.trim() })">
          <TextField v-model="typed" label="Ask the included reports" class="wide" maxlength="500" autofocus />
          <v-btn type="submit" class="main" :disabled="!typed.trim()">Ask</v-btn>
        </form>
        <div class="row small wrap">
          <v-menu :close-on-content-click="false">
            <template #activator="{ props: on }"
              ><button v-bind="on" class="link">
                {{ only.length ? `of ${plural(only.length, 'study', 'studies')}` : `of all ${studies.length} studies` }}
              </button></template
            >
            <v-list aria-label="Studies that are asked" max-height="420">
              <v-list-item v-if="only.length" title="All studies" @click="setQuery({ studies: '' })" />
              <v-list-item v-for="asked in studies" :key="asked.id">
                <TickBox
                  :model-value="only.includes(asked.id)"
                  :label="asked.label"
                  @update:model-value="toggle(asked.id)"
                />
              </v-list-item>
            </v-list>
          </v-menu>
          <template v-if="answers.length">
            <button class="link" :aria-pressed="!asText" :class="{ chosen: !asText }" @click="setQuery({ as: '' })">
              By report
            </button>
            <button class="link" :aria-pressed="asText" :class="{ chosen: asText }" @click="setQuery({ as: 'text' })">
              As one text
            </button>
            <button class="link" @click="copy">Copy with places</button>
          </template>
          <button v-if="question && mayWrite && !isKept" class="link push" @click="keep">Keep this question</button>
        </div>
        <p v-if="data && question" class="small soft" role="status">
          {{ isFetching ? 'Asking …' : `${plural(answers.length, 'passage')} of ${plural(data.reports, 'report')}`
          }}<template v-if="data.abstracts"
            >; of {{ plural(data.abstracts, 'report') }} only the abstract was read<template v-if="data.unread"
              >, though {{ data.unread }} of them {{ data.unread === 1 ? 'has' : 'have' }} a PDF:
              <router-link :to="`/reviews/${review}/chart/proposals?show=reports`"
                >have them read</router-link
              ></template
            ></template
          >
        </p>
        <p v-if="error" class="bad small" role="alert">{{ error.message }}</p>
      </div>
      <div class="found">
        <template v-if="!question">
          <div class="pad soft">
            <h2>Nothing is asked yet</h2>
            <p>
              A question in plain words finds the passages that speak to it, as they stand in the reports, each with its
              page. Nothing is written anew, so every answer can be quoted.
            </p>
          </div>
        </template>
        <p v-else-if="!answers.length && !isFetching" class="pad soft">
          No passage speaks to this. Other words may find one: those that reports would use.
        </p>
        <p v-else-if="asText" class="pad read text">
          <template v-for="(one, k) in flat" :key="k"
            ><button class="quoted" :class="{ on: k === at }" @click="at = k">
              “{{ one.text }}” <span class="soft small">({{ place(one) }})</span></button
            >{{ ' ' }}</template
          >
        </p>
        <template v-else>
          <article v-for="some in byReport" :key="some[0]!.record">
            <h3>{{ some[0]!.label }}</h3>
            <button
              v-for="one in some"
              :key="one.text"
              class="passage"
              :class="{ on: one === chosen }"
              :aria-current="one === chosen"
              @click="at = flat.indexOf(one)"
            >
              <span class="read">{{ one.text }}</span>
              <span class="soft small"
                >{{ [one.page ? `page ${one.page}` : 'abstract', one.heading].filter(Boolean).join(', ') }} ·
                {{ Math.round(100 * one.score) }} of 100</span
              >
            </button>
          </article>
        </template>
        <div v-if="kept?.length" class="pad kept">
          <h3>Questions that are kept</h3>
          <ul class="small ruled">
            <li v-for="one in kept" :key="one.id" class="row">
              <button class="link" @click="setQuery({ q: one.text })">{{ one.text }}</button>
              <span class="soft">{{ one.by }}</span>
              <button v-if="mayWrite" class="link push" :aria-label="`Drop “${one.text}”`" @click="drop(one)">
                Drop
              </button>
            </li>
          </ul>
        </div>
      </div>
    </section>
    <section class="pane sheet whole">
      <ReportPane v-if="study && chosen" :study="study" :item="0" into="" :quote="quote" :may-write="false" />
      <p v-else class="pad soft">The report of the chosen passage opens here, with the passage lit.</p>
    </section>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.asking {
  display: grid;
  gap: 8px;
  padding: 12px 16px;
  border-bottom: 1px solid var(--ks-hair);
}
.asking form {
  align-items: end;
}
.wide {
  flex: 1;
}
.wrap {
  flex-wrap: wrap;
  gap: 16px;
}
.found {
  overflow: auto;
}
.whole {
  overflow: hidden;
}
article {
  padding-top: 12px;
  border-bottom: 1px solid var(--ks-hair);
}
h3 {
  padding: 0 16px 4px;
}
.kept h3 {
  padding: 0 0 4px;
}
.passage {
  display: grid;
  gap: 2px;
  width: 100%;
  padding: 8px 16px;
  font-size: 14px;
}
.passage.on,
.quoted.on {
  background: var(--ks-copper-wash);
}
.text {
  font-size: 15px;
  line-height: 25px;
}
.quoted {
  display: inline;
}
</style>
