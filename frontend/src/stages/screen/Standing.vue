<script setup lang="ts">
// How many records are in which state, who reads how fast, and when it will be done.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { GET, got, PUT } from '@/api/client'
import { ago, count, day, plural } from '@/common/format'
import { attempt } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import VerdictMark from '@/common/VerdictMark.vue'

const { review, path, figures, mayLead, mayWrite } = useReview()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['progress', review],
  queryFn: () => got(GET('/api/reviews/{review}/progress', { params: path.value })),
})
const refresh = useRefresh()
const { data: notes } = useQuery({
  queryKey: ['notes', review],
  queryFn: () => got(GET('/api/reviews/{review}/notes-to-me', { params: path.value })),
})
async function beDone(note: number, done: boolean) {
  await attempt(() =>
    got(
      PUT('/api/reviews/{review}/notes-to-me/{note}', {
        params: { path: { review: review.value, note } },
        body: { done },
      }),
    ),
  )
  await refresh('notes')
}
const list = (key: string) => `/reviews/${review.value}/records?list=${key}`
const first = computed(() => {
  const f = figures.data.value
  return f
    ? [
        { mark: 'open', name: 'To be decided', n: f.open - f.unsure - f.differs, to: `${list('open')}&verdict=open` },
        { mark: 'unsure', name: 'Unsure', n: f.unsure, to: list('unsure') },
        { mark: 'differs', name: 'Verdicts differ', n: f.differs, to: list('differs') },
        { mark: 'exclude', name: 'Excluded', n: f.excluded, to: list('excluded') },
        { mark: 'include', name: 'Included, full text sought', n: f.sought, to: list('sought') },
        { mark: 'aside', name: 'Set aside before', n: f.aside, to: list('aside') },
      ]
    : []
})
const second = computed(() => {
  const f = figures.data.value
  return f
    ? [
        { mark: 'open', name: 'Full text still sought', n: f.waiting, to: list('waiting') },
        { mark: 'exclude', name: 'Not obtained', n: f.missing, to: list('missing') },
        { mark: 'open', name: 'Obtained, to be decided', n: f.second_open, to: list('second_open') },
        { mark: 'exclude', name: 'Excluded by its full text', n: f.reports_excluded, to: list('reports_excluded') },
        { mark: 'include', name: 'Included', n: f.included, to: list('included') },
      ]
    : []
})
const most = computed(() => Math.max(1, ...first.value.map((one) => one.n)))
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <section class="pane sheet pad all" tabindex="0" aria-label="States">
        <template
          v-for="[name, some] in [
            ['First pass', first],
            ['Second pass', second],
          ] as const"
          :key="name"
        >
          <h2>{{ name }}</h2>
          <table class="small">
            <tbody>
              <tr v-for="one in some" :key="one.name" :class="{ soft: !one.n }">
                <td class="state"><VerdictMark :verdict="one.mark" words="" /> {{ one.name }}</td>
                <td class="num n">
                  <router-link v-if="one.n" :to="one.to">{{ count(one.n) }}</router-link><template v-else>0</template>
                </td>
                <td><span class="fill" :style="{ width: `${(100 * one.n) / most}%` }" aria-hidden="true" /></td>
              </tr>
            </tbody>
          </table>
        </template>
      </section>
      <aside class="pane pad all" tabindex="0" aria-label="People and time">
        <h2>When it will be done</h2>
        <p v-if="!data?.left">Every record of the first pass is settled.</p>
        <template v-else-if="data.until">
          <p class="read big">{{ day(data.until.day) }}</p>
          <p class="small">
            {{ plural(data.left, 'record') }} left, about {{ count(Math.round(data.until.a_day)) }} settled a day in the
            last two weeks, days off counted. Between {{ day(data.until.early) }} and
            {{ data.until.late ? day(data.until.late) : 'nobody can say when' }}, with 95 % confidence.
          </p>
        </template>
        <p v-else class="small soft">
          {{ plural(data.left, 'record') }} left. When they will be settled is told once records were settled on three
          days.
        </p>
        <template v-if="notes?.length">
          <h2>Notes to you</h2>
          <ul class="notes small">
            <li v-for="note in notes" :key="note.id" :class="{ soft: note.done }">
              <router-link :to="`/reviews/${review}/screen?record=${note.record}`">{{ note.title }}</router-link>
              <p>{{ note.by }}, {{ ago(note.at) }}: {{ note.text }}</p>
              <button v-if="mayWrite" class="link" @click="beDone(note.id, !note.done)">
                {{ note.done ? 'Not done yet' : 'Done with it' }}
                <span class="unseen">: {{ note.title }}</span>
              </button>
            </li>
          </ul>
        </template>
        <h2>{{ mayLead ? 'People' : 'You' }}</h2>
        <table v-if="data?.people.length" class="small">
          <thead>
            <tr>
              <th>Person</th>
              <th class="num">First pass</th>
              <th class="num">Second</th>
              <th class="num">An hour</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="person in data.people" :key="person.account_id">
              <td>
                {{ person.name }}
                <div class="soft">{{ ago(person.last) }}</div>
              </td>
              <td class="num">{{ count(person.first) }}</td>
              <td class="num">{{ count(person.second) }}</td>
              <td class="num">
                <template v-if="person.an_hour !== null">{{ count(Math.round(person.an_hour)) }}</template><span
                  v-else
                  class="soft"
                  title="Told after a quarter of an hour at the desk"
                  >—</span
                >
              </td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft small">No decision yet.</p>
        <p class="soft small">
          Time at the desk, without pauses of more than ten minutes. The pace of others is for them and a lead to know.
        </p>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 360px;
}
.all {
  display: grid;
  gap: 10px;
  align-content: start;
}
.notes {
  list-style: none;
  margin: 0;
  padding: 0;
}
.notes li {
  border-top: 1px solid var(--ks-hair);
  padding: 6px 0;
}
.state {
  width: 210px;
}
.n {
  width: 80px;
}
td {
  vertical-align: middle;
}
.fill {
  display: block;
  height: 8px;
  background: var(--ks-slate);
}
.big {
  font-size: 22px;
  line-height: 30px;
}
</style>
