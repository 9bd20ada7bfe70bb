<script setup lang="ts">
// Appraisal: studies by domains, each judgement a sign, and the shares; a sign opens the domain beside its report.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { file, GET, got } from '@/api/client'
import { count, plural } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { STATES, wordsOf } from './appraisal'
import AppraisalDesk from './AppraisalDesk.vue'
import JudgementSign from './JudgementSign.vue'

const { review, path, mayWrite, mayLead } = useReview()
const route = useRoute()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['appraisal', review],
  queryFn: () => got(GET('/api/reviews/{review}/appraisal', { params: path.value })),
})
const { data: bars } = useQuery({
  queryKey: ['appraisal', review, 'bars'],
  queryFn: async () => (await file(`/api/reviews/${review.value}/appraisal/picture.svg?kind=bars&screen=true`)).text(),
})
const form = computed(() => data.value?.form)
const domains = computed(() => form.value?.domains ?? [])
const desk = computed(() => Number(route.query.study) || null)
const cells = computed(() => (data.value?.studies ?? []).flatMap((study) => Object.values(study.domains)))
const number = (...states: string[]) => cells.value.filter((cell) => states.includes(cell.state)).length
/** Only studies with a domain that stands so: ?state=differ. */
const state = computed(() => (route.query.state as string | undefined) ?? '')
const studies = computed(() =>
  (data.value?.studies ?? []).filter(
    (study) => !state.value || Object.values(study.domains).some((one) => one.state === state.value),
  ),
)
/** The first domain that is still for this person to judge. */
const next = computed(() => {
  for (const study of data.value?.studies ?? [])
    for (const domain of domains.value)
      if (['', 'draft', 'unfit'].includes(study.domains[domain.key]?.state ?? '')) return { study, domain: domain.key }
  return null
})
const to = (study: number, domain: string) => ({ query: { ...route.query, study: String(study), domain } })
const DOWNLOADS = [
  ['picture.svg?kind=table', 'Studies and domains, SVG'],
  ['picture.png?kind=table', 'Studies and domains, PNG'],
  ['picture.pdf?kind=table', 'Studies and domains, PDF'],
  ['picture.svg?kind=bars', 'Shares, SVG'],
  ['picture.png?kind=bars', 'Shares, PNG'],
  ['picture.pdf?kind=bars', 'Shares, PDF'],
  ['judgements.csv', 'Answers and judgements, CSV'],
]
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <AppraisalDesk v-if="data && desk" :data="data" :may-write="mayWrite" />
    <template v-else-if="data && form">
      <Teleport to="#view-actions" defer>
        <v-btn :to="`/reviews/${review}/chart/appraisal/form`">Form</v-btn>
        <v-menu v-if="domains.length">
          <template #activator="{ props }"><v-btn v-bind="props">Download</v-btn></template>
          <v-list aria-label="Download"
            ><v-list-item
              v-for="[kind, words] in DOWNLOADS"
              :key="kind"
              :title="words"
              :href="`/api/reviews/${review}/appraisal/${kind}`"
              download
          /></v-list>
        </v-menu>
        <v-btn v-if="mayWrite && next" class="main" :to="to(next.study.id, next.domain)">Next to judge</v-btn>
      </Teleport>
      <div class="panes">
        <section class="pane sheet pad stack" tabindex="0" aria-label="Appraisal">
          <div v-if="!domains.length" class="soft">
            <h2>There is no form yet</h2>
            <p>
              What makes a study trustworthy for this question is the team’s to say: domains, each with signalling
              questions, the judgements, and rules that lead from answers to a judgement.
            </p>
            <p>
              <router-link :to="`/reviews/${review}/chart/appraisal/form`">{{
                mayLead ? 'Make the form, or read one from a file' : 'Look at the form'
              }}</router-link>
            </p>
          </div>
          <template v-else>
            <div class="row small figures">
              <h2>{{ form.name }}</h2>
              <span class="soft"
                >{{ count(number('stands', 'settled')) }} of {{ plural(cells.length, 'judgement') }} stand</span
              >
              <router-link v-if="number('differ')" class="odd" :to="{ query: { state: 'differ' } }"
                >{{ count(number('differ')) }} differ</router-link
              >
              <router-link v-if="number('mine')" class="soft" :to="{ query: { state: 'mine' } }"
                >{{ count(number('mine')) }} wait for the other appraiser</router-link
              >
              <router-link v-if="number('unfit')" class="odd" :to="{ query: { state: 'unfit' } }"
                >{{ count(number('unfit')) }} by words that are gone</router-link
              >
              <router-link v-if="state" :to="{ query: {} }">show all</router-link>
            </div>
            <div class="views">
              <table class="signs">
                <thead>
                  <tr>
                    <th>Study</th>
                    <th v-for="domain in domains" :key="domain.key" class="turned">{{ domain.name }}</th>
                    <th v-if="form.whole" class="turned"><b>All together</b></th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="study in studies" :key="study.id">
                    <td>{{ study.label }}</td>
                    <td v-for="domain in domains" :key="domain.key" class="one">
                      <router-link
                        :to="to(study.id, domain.key!)"
                        :title="`${domain.name}: ${study.domains[domain.key!]!.judgement || 'no judgement'}, ${STATES[study.domains[domain.key!]!.state]}`"
                        :aria-label="`${study.label}, ${domain.name}: ${study.domains[domain.key!]!.judgement || 'no judgement'}, ${STATES[study.domains[domain.key!]!.state]}`"
                        ><JudgementSign
                          :form="form"
                          :judgement="study.domains[domain.key!]!.judgement"
                          :open="study.domains[domain.key!]!.state === 'mine'"
                        /><span v-if="study.domains[domain.key!]!.state === 'differ'" class="odd" aria-hidden="true"
                          >≠</span
                        ><span v-if="study.domains[domain.key!]!.state === 'draft'" class="soft" aria-hidden="true"
                          >…</span
                        ></router-link
                      >
                    </td>
                    <td
                      v-if="form.whole"
                      class="one"
                      :title="
                        study.whole.judgement
                          ? `${study.whole.judgement}: ${study.whole.because}`
                          : 'not all domains stand'
                      "
                    >
                      <JudgementSign :form="form" :judgement="study.whole.judgement" /><span class="unseen">{{
                        study.whole.judgement || 'no judgement yet'
                      }}</span>
                    </td>
                  </tr>
                </tbody>
              </table>
              <div class="beside">
                <!-- eslint-disable-next-line vue/no-v-html -- drawn by the server, every text in it escaped -->
                <div v-if="number('stands', 'settled')" class="bars" v-html="bars" />
                <ul class="small key" aria-label="What the signs say">
                  <li v-for="one in wordsOf(form)" :key="one">
                    <JudgementSign :form="form" :judgement="one" /> {{ one }}
                  </li>
                  <li v-if="form.appraisers === 2">
                    <JudgementSign :form="form" :judgement="form.judgements![0]!" open /> yours, not yet the other’s
                  </li>
                </ul>
              </div>
            </div>
          </template>
        </section>
      </div>
    </template>
  </StateOf>
</template>

<style scoped>
.figures {
  gap: 16px;
}
.views {
  display: flex;
  flex-wrap: wrap;
  gap: 24px 40px;
  align-items: flex-start;
}
.signs {
  width: auto;
}
.turned {
  max-width: 92px;
  vertical-align: bottom;
  white-space: normal;
  text-align: center;
  hyphens: auto;
}
.signs td {
  padding-block: 2px;
  vertical-align: middle;
}
.one {
  text-align: center;
}
.one a {
  display: inline-flex;
  align-items: center;
  min-width: 28px;
  min-height: 24px;
  justify-content: center;
  text-decoration: none;
}
.bars :deep(svg) {
  max-width: 100%;
  height: auto;
}
.beside {
  flex: 1 1 380px;
  display: grid;
  gap: 16px;
}
.key {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}
</style>
