<script setup lang="ts">
// One study's domains beside its report: answers by key, each with the words that support it, then the judgement.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, type Schemas } from '@/api/client'
import { moment } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { copyOf } from '@/common/some'
import { supported, wordsOf, type Answer, type Said } from './appraisal'
import { useEvidence } from './evidence'
import JudgementSign from './JudgementSign.vue'
import ReportPane from './ReportPane.vue'

const props = defineProps<{ data: Schemas['AppraisalTable']; mayWrite: boolean }>()
const { review, path } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data: table } = useEvidence()
const form = computed(() => props.data.form)
const domains = computed(() => form.value.domains ?? [])
const study = computed(
  () => props.data.studies.find((study) => study.id === Number(route.query.study)) ?? props.data.studies[0],
)
const report = computed(() => table.value?.studies.find((one) => one.id === study.value?.id))
const at = computed(() =>
  Math.max(
    0,
    domains.value.findIndex((domain) => domain.key === route.query.domain),
  ),
)
const domain = computed(() => domains.value[at.value])
const go = (to: { study?: number; domain?: string }) =>
  router.replace({
    query: { ...route.query, study: String(to.study ?? study.value?.id), domain: to.domain ?? domain.value?.key },
  })
const { data: found } = useQuery({
  queryKey: ['appraisal', review, 'study', computed(() => study.value?.id ?? 0)],
  enabled: computed(() => Boolean(study.value)),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/appraisal/studies/{study}', {
        params: { path: { review: review.value, study: study.value!.id } },
      }),
    ),
})
const here = computed(() => found.value?.find((one) => one.domain === domain.value?.key))
const draft = ref<Record<string, Answer>>({})
const reason = ref('')
const chosen = ref(0)
const key = computed(() => `${study.value?.id} ${domain.value?.key} ${here.value?.mine?.id ?? ''}`)
watch(
  key,
  () => {
    draft.value = copyOf(here.value?.mine?.answers ?? {})
    for (const object of Object.values(draft.value)) Object.assign(object, { support: object.support ?? '' })
    reason.value = here.value?.mine?.reason ?? ''
  },
  { immediate: true },
)
watch(
  () => `${study.value?.id} ${domain.value?.key}`,
  () => (chosen.value = 0),
)
const questions = computed(() => domain.value?.questions ?? [])
const question = computed(() => questions.value[chosen.value])
const settledNow = computed(() => here.value?.state === 'settled')
const may = computed(() => props.mayWrite && !settledNow.value)
const lacking = computed(() =>
  questions.value.filter((question) => draft.value[question.key]?.answer && !supported(draft.value[question.key])),
)
const quote = computed(() => {
  const given = draft.value[question.value?.key ?? '']
  return given?.support ? { text: given.support, page: Number(given.page) || null, record: given.record ?? null } : null
})

const again = () => refresh('appraisal')
/** Keep what is said; a judgement that the changed answers no longer lead to is asked anew, unless it has a reason. */
async function keep(judgement = here.value?.mine?.judgement ?? '', why = reason.value) {
  const [judged, target] = [domain.value, study.value]
  if (!judged || !target || !may.value) return
  const before = here.value?.mine
  const answers = Object.fromEntries(Object.entries(draft.value).filter(([, one]) => supported(one)))
  const put = (body: Omit<Schemas['SayOfDomain'], 'domain'>) =>
    got(
      PUT('/api/reviews/{review}/appraisal/studies/{study}', {
        params: { path: { review: review.value, study: target.id } },
        body: { domain: judged.key, ...body },
      }),
    )
  const rest = Object.fromEntries(Object.entries(draft.value).filter(([, one]) => !supported(one)))
  try {
    let now = await put({ answers, judgement: why || judgement === '' ? judgement : '', reason: why, seen: before?.id })
    if (judgement && !why) {
      if (now.proposed.judgement === judgement) now = await put({ answers, judgement, reason: '', seen: now.mine?.id })
      else if (before?.judgement === judgement) say('The answers lead to another judgement now; judge it again.')
    }
    await again()
    await nextTick()
    Object.assign(draft.value, rest) // what has no support yet is not kept, and not lost
    return now
  } catch (failure) {
    complain(failure)
    await again()
  }
}
async function answer(word: string) {
  const asked = question.value
  if (!asked || !may.value || !word) return
  const was = draft.value[asked.key]
  draft.value[asked.key] = { support: '', none: false, page: '', ...was, answer: word }
  if (supported(draft.value[asked.key])) await keep()
}
async function support(words: string, page: string, record: number | null) {
  const given = draft.value[question.value?.key ?? '']
  if (!given?.answer) return say('Answer the question first; then the words support it.')
  Object.assign(given, { support: words, page, record, none: false })
  if (await keep()) onward()
}
async function nothing() {
  const given = draft.value[question.value?.key ?? '']
  if (!given?.answer || !may.value) return
  Object.assign(given, { support: '', page: '', record: null, none: true })
  if (await keep()) onward()
}
/** The question after one that is answered with its support. */
function onward() {
  const next = questions.value[chosen.value + 1]
  if (next && !supported(draft.value[next.key])) step(1)
}
async function judge(word: string) {
  const proposed = here.value?.proposed.judgement
  if (!may.value || !word) return
  if (lacking.value.length) return say(`“${lacking.value[0]!.text}” still needs what supports it.`)
  if (word !== proposed && !reason.value.trim()) {
    document.querySelector<HTMLTextAreaElement>('.reason textarea')?.focus()
    return say(`Say why it is “${word}”${proposed ? `, and not “${proposed}”` : ''}; then choose it again.`)
  }
  const before = here.value?.mine
  const done = await keep(word, word === proposed ? '' : reason.value.trim())
  if (done?.mine) say(`${domain.value?.name}: ${word}.`, () => putBack(done, before))
}
/** Say again what was said before. */
async function putBack(now: Schemas['DomainOfStudy'], before: Said | null | undefined) {
  const { answers = {}, judgement = '', reason: why = '' } = before ?? {}
  await got(
    PUT('/api/reviews/{review}/appraisal/studies/{study}', {
      params: { path: { review: review.value, study: study.value!.id } },
      body: { domain: now.domain, answers, judgement, reason: why, seen: now.mine?.id },
    }),
  )
  await again()
}
const step = (by: number) => (chosen.value = Math.max(0, Math.min(questions.value.length - 1, chosen.value + by)))
function turn(by: number) {
  const to = domains.value[at.value + by]
  if (to) void go({ domain: to.key })
}
function nextStudy(by: number) {
  const all = props.data.studies
  const to = all[all.findIndex((one) => one.id === study.value?.id) + by]
  if (to) void go({ study: to.id })
}
const differ = computed(() => here.value?.state === 'differ')
const both = computed((): Said[] => {
  const now = here.value
  return now ? [...(now.mine?.judgement ? [now.mine] : []), ...now.others].sort((a, b) => a.id - b.id) : []
})
const barred = computed(() => form.value.settling === 'third' && Boolean(here.value?.mine?.judgement))
/** What one of the two answered where the other answered something else. */
const apart = (each: Said) =>
  questions.value
    .filter((one) => new Set(both.value.slice(0, 2).map((said) => said.answers[one.key]?.answer)).size > 1)
    .map((one) => ({ question: one.text, answer: each.answers[one.key]?.answer ?? 'not answered' }))
async function settle(of: number | null, judgement = '') {
  const [settling, target] = [domain.value, study.value]
  if (!settling || !target) return
  const done = await attempt(() =>
    got(
      POST('/api/reviews/{review}/appraisal/settle', {
        params: path.value,
        body: {
          study: target.id,
          domain: settling.key,
          of,
          judgement,
          reason: of ? '' : reason.value,
          seen: both.value.slice(0, 2).map((one) => one.id),
        },
      }),
    ),
  )
  await again()
  if (done) say(`${settling.name} of ${target.label} is settled.`, () => reopen(target.id, settling.key))
}
async function reopen(target: number, domainKey: string) {
  await got(
    POST('/api/reviews/{review}/appraisal/reopen', { params: path.value, body: { study: target, domain: domainKey } }),
  )
  await again()
}
const answers = computed(() => form.value.answers ?? [])
useKeys({
  ...Object.fromEntries(Array.from({ length: 9 }, (_, k) => [String(k + 1), () => answer(answers.value[k] ?? '')])),
  0: nothing,
  ArrowDown: () => step(1),
  ArrowUp: () => step(-1),
  ArrowRight: () => turn(1),
  ArrowLeft: () => turn(-1),
  n: () => nextStudy(1),
  p: () => nextStudy(-1),
  Enter: () => judge(here.value?.proposed.judgement ?? ''),
})
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <v-btn :active="false" :to="{ query: { ...route.query, study: undefined, domain: undefined } }"
        >All studies</v-btn
      >
      <v-btn @click="nextStudy(1)">Next study<kbd>N</kbd></v-btn>
    </Teleport>
    <section class="pane sheet whole" aria-label="The report">
      <ReportPane
        v-if="report"
        :key="report.id"
        :study="report"
        :item="0"
        :into="question?.text ?? ''"
        :quote="quote"
        :may-write="may"
        as-words
        @take="(_, words, page, record) => support(words, page, record)"
      />
    </section>
    <aside v-if="domain && study" class="pane pad fill" :aria-label="`${domain.name} of ${study.label}`">
      <nav class="domains" aria-label="Domains">
        <button
          v-for="one in domains"
          :key="one.key"
          :aria-current="one.key === domain.key ? 'true' : undefined"
          :class="{ chosen: one.key === domain.key }"
          :title="one.name"
          @click="go({ domain: one.key })"
        >
          <JudgementSign
            :form="form"
            :judgement="study.domains[one.key!]!.judgement"
            :open="study.domains[one.key!]!.state === 'mine'"
          /><span class="unseen">{{ one.name }}</span>
        </button>
        <span class="small soft push">{{ study.label }}</span>
      </nav>
      <h2>{{ domain.name }}</h2>
      <p v-if="domain.help" class="small soft">{{ domain.help }}</p>
      <ol class="questions">
        <li v-for="(asked, k) in questions" :key="asked.key" :class="{ on: k === chosen }">
          <button class="ask" :aria-current="k === chosen ? 'true' : undefined" @click="chosen = k">
            {{ asked.text }}
          </button>
          <p v-if="asked.help && k === chosen" class="small soft">{{ asked.help }}</p>
          <div class="row answers" role="group" :aria-label="asked.text">
            <button
              v-for="(word, j) in answers"
              :key="word"
              class="choice small"
              :aria-pressed="draft[asked.key!]?.answer === word"
              :disabled="!may"
              @click="((chosen = k), answer(word))"
            >
              <kbd v-if="k === chosen">{{ j + 1 }}</kbd> {{ word }}
            </button>
          </div>
          <p v-if="draft[asked.key!]?.support" class="small read words">
            “{{ draft[asked.key!]!.support }}”<span v-if="draft[asked.key!]!.page" class="soft">
              page {{ draft[asked.key!]!.page }}</span
            >
          </p>
          <p v-else-if="draft[asked.key!]?.none" class="small soft">The report has no words for it.</p>
          <p v-else-if="draft[asked.key!]?.answer" class="small odd">
            Mark the words that support it, or
            <button class="link" @click="((chosen = k), nothing())">say that there are none</button>
            <kbd v-if="k === chosen">0</kbd>
          </p>
        </li>
      </ol>
      <div v-if="differ || settledNow" class="judgement">
        <b class="small">{{ settledNow ? 'Settled' : 'Judged differently' }}</b>
        <div v-for="each in both.slice(0, 2)" :key="each.id" class="said small">
          <span><JudgementSign :form="form" :judgement="each.judgement" /> {{ each.judgement }}</span>
          <span class="soft">{{ each.by }}{{ each.reason ? `: ${each.reason}` : '' }}</span>
          <span v-for="one in apart(each)" :key="one.question" class="soft"
            >{{ one.question }} <b>{{ one.answer }}</b></span
          >
          <v-btn v-if="differ && mayWrite && !barred" @click="settle(each.account)">This stands</v-btn>
        </div>
        <p v-if="differ && barred" class="odd small">You judged this yourself; a third person settles it.</p>
        <div v-if="settledNow && here?.stands" class="said small">
          <b><JudgementSign :form="form" :judgement="here.stands.judgement" /> {{ here.stands.judgement }}</b>
          <span class="soft">{{ here.stands.by }}, {{ moment(here.stands.at) }}</span>
          <v-btn v-if="mayWrite && !barred" @click="attempt(() => reopen(study!.id, domain!.key!))">Take back</v-btn>
        </div>
      </div>
      <div v-if="may" class="judgement">
        <p class="small" role="status">
          <template v-if="here?.proposed.judgement"
            >The team’s rule leads to <b>{{ here.proposed.judgement }}</b><span class="soft">{{
              here.proposed.because ? `: ${here.proposed.because}` : ', as no other holds'
            }}</span>
          </template>
          <span v-else-if="here?.proposed.missing.length" class="soft"
            >The rule waits for
            {{ here.proposed.missing.length === 1 ? 'one answer' : `${here.proposed.missing.length} answers` }}.</span
          >
          <span v-else class="soft">No rule says what follows.</span>
        </p>
        <div class="row answers" role="group" aria-label="Judgement">
          <button
            v-for="word in wordsOf(form)"
            :key="word"
            class="choice"
            :aria-pressed="here?.mine?.judgement === word"
            @click="differ && both.every((one) => one.id !== here?.mine?.id) ? settle(null, word) : judge(word)"
          >
            <JudgementSign :form="form" :judgement="word" /> {{ word }}
            <kbd v-if="word === here?.proposed.judgement">Enter</kbd>
          </button>
        </div>
        <div class="reason">
          <TextArea v-model="reason" label="Why, where it is not what the rule says" rows="2" maxlength="2000" />
        </div>
        <p v-if="here?.mine" class="small soft">{{ here.mine.by }}, {{ moment(here.mine.at) }}</p>
      </div>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 420px;
}
.whole {
  overflow: hidden;
}
.fill {
  display: grid;
  gap: 10px;
  align-content: start;
}
.domains {
  display: flex;
  align-items: center;
  gap: 2px;
  flex-wrap: wrap;
}
.domains button {
  padding: 4px 5px;
  border-bottom: 2px solid transparent;
}
.domains button.chosen {
  border-bottom-color: var(--ks-copper);
}
.questions {
  list-style: none;
  margin: 0;
  padding: 0;
}
.questions li {
  display: grid;
  gap: 4px;
  padding: 8px 0 8px 8px;
  border-top: 1px solid var(--ks-hair);
  border-left: 3px solid transparent;
}
.questions li.on {
  border-left-color: var(--ks-copper);
}
.ask {
  text-align: left;
}
.answers {
  flex-wrap: wrap;
  gap: 4px;
}
.choice {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  padding: 2px 8px;
  min-height: 26px;
  background: var(--ks-sheet);
}
.choice[aria-pressed='true'] {
  border-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.words {
  max-height: 96px;
  overflow: auto;
}
.judgement {
  display: grid;
  gap: 8px;
  padding-top: 10px;
  border-top: 2px solid var(--ks-hair);
}
.said {
  display: grid;
  gap: 2px;
  justify-items: start;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) 360px;
  }
}
</style>
