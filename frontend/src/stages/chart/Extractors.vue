<script setup lang="ts">
// Two extractors: which values two read, who reads which study and how far they are, and how far they agree by item.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { GET, got, POST, PUT, type Schemas } from '@/api/client'
import { count, figure, percent, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { toggled } from '@/common/some'
import StateOf from '@/common/StateOf.vue'
import DoubleMode from './DoubleMode.vue'
import { useEvidence } from './evidence'

const { review, path, mayLead } = useReview()
const refresh = useRefresh()
const { data: table } = useEvidence()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['extraction', review],
  queryFn: () => got(GET('/api/reviews/{review}/extraction', { params: path.value })),
})
const { data: agreement } = useQuery({
  queryKey: ['extraction', review, 'agreement'],
  queryFn: () => got(GET('/api/reviews/{review}/extraction/agreement', { params: path.value })),
})
type Progress = Schemas['ExtractionOfStudy']
const people = computed(() => Object.entries(data.value?.people ?? {}).map(([id, name]) => ({ id: Number(id), name })))
const name = (id: number) => data.value?.people[id] ?? 'somebody who has left'
const double = computed(() => data.value?.mode.second !== 'nobody')
const wanted = computed(() => (data.value?.mode.second === 'proposals' ? 1 : 2))
const options = computed(() => [
  { value: 0, title: 'whoever comes' },
  ...people.value.map((person) => ({ value: person.id, title: person.name })),
])
const put = (given: Record<string, number[]>) =>
  got(PUT('/api/reviews/{review}/extraction/given', { params: path.value, body: { given } }))
const again = () => refresh('extraction')
async function give(given: Record<string, number[]>, told: string) {
  const before = Object.fromEntries(
    Object.keys(given).map((id) => [id, data.value?.studies.find((study) => String(study.id) === id)?.given ?? []]),
  )
  const done = await attempt(() => put(given))
  await again()
  if (done)
    say(told, async () => {
      await put(before)
      await again()
    })
}
function choose(study: Progress, k: number, account: number) {
  const next = [...study.given]
  if (account) next[k] = account
  else next.splice(k, 1)
  void give({ [study.id]: [...new Set(next.filter(Boolean))] }, `${study.label} is given to other people.`)
}
const sharing = ref<number[] | null>(null)
async function share() {
  const chosen = sharing.value ?? []
  sharing.value = null
  await attempt(async () => {
    const { given } = await got(
      POST('/api/reviews/{review}/extraction/shares', { params: path.value, body: { people: chosen } }),
    )
    await give(
      given,
      `${plural(Object.keys(given).length, 'study is', 'studies are')} shared out among ${plural(chosen.length, 'person', 'people')}.`,
    )
  })
}
const totals = computed(() => {
  const all = data.value?.studies ?? []
  const sum = (of: (progress: Progress) => number) => all.reduce((so, progress) => so + of(progress), 0)
  return { asked: sum((one) => one.asked), stand: sum((one) => one.stand), differ: sum((one) => one.differ) }
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <v-btn v-if="totals.differ" class="main" :to="`/reviews/${review}/chart/differences`"
        >Settle {{ plural(totals.differ, 'difference') }}</v-btn
      >
    </Teleport>
    <div v-if="data" class="panes columns">
      <aside class="pane" aria-label="Who reads what">
        <DoubleMode :mode="data.mode" :items="table?.items ?? []" :studies="table?.studies ?? []" :may-lead="mayLead" />
      </aside>
      <section class="pane sheet pad stack" tabindex="0" aria-label="Studies and agreement">
        <div v-if="!double" class="soft">
          <h2>One person charts each value</h2>
          <p>
            Where an error would cost the review most, have two read: each for themselves, blind, compared value by
            value with both quotes. It can be some items of all studies, all items of some studies, or what a person
            reads against what is proposed.
          </p>
        </div>
        <template v-else>
          <div class="row">
            <h2>Studies</h2>
            <span class="soft small"
              >{{ count(totals.stand) }} of {{ plural(totals.asked, 'value') }} stand<template v-if="totals.differ"
                >,
                <router-link :to="`/reviews/${review}/chart/differences`"
                  >{{ count(totals.differ) }} differ</router-link
                ></template
              ></span
            >
            <v-btn v-if="mayLead && !sharing" class="push" @click="sharing = people.map((person) => person.id)"
              >Share out</v-btn
            >
          </div>
          <form v-if="sharing" class="notice row sharing small" @submit.prevent="share">
            <span>Among</span>
            <TickBox
              v-for="person in people"
              :key="person.id"
              :model-value="sharing.includes(person.id)"
              :label="person.name"
              @update:model-value="sharing = toggled(sharing!, person.id)"
            />
            <v-btn type="submit" class="main push" :disabled="sharing.length < wanted">Share out evenly</v-btn>
            <v-btn @click="sharing = null">Leave it</v-btn>
          </form>
          <table>
            <thead>
              <tr>
                <th>Study</th>
                <th v-for="k in wanted" :key="k">{{ wanted === 1 ? 'Read by' : k === 1 ? 'First' : 'Second' }}</th>
                <th>Read so far</th>
                <th class="num">Stand</th>
                <th class="num">Differ</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="study in data.studies" :key="study.id">
                <td>
                  <router-link :to="`/reviews/${review}/chart?words=${encodeURIComponent(study.label)}`">{{
                    study.label
                  }}</router-link>
                </td>
                <td v-for="k in wanted" :key="k">
                  <ChoiceField
                    v-if="mayLead"
                    :model-value="study.given[k - 1] ?? 0"
                    :items="options"
                    :aria-label="`${k === 1 ? 'First' : 'Second'} reader of ${study.label}`"
                    @update:model-value="choose(study, k - 1, Number($event))"
                  />
                  <template v-else>{{ study.given[k - 1] ? name(study.given[k - 1]!) : 'whoever comes' }}</template>
                </td>
                <td class="small">
                  <span v-for="[id, n] in Object.entries(study.read)" :key="id" class="soft"
                    >{{ name(Number(id)) }} {{ n }} of {{ study.asked }}<br
                  /></span>
                  <span v-if="!Object.keys(study.read).length" class="soft">—</span>
                </td>
                <td class="num">{{ count(study.stand) }} of {{ count(study.asked) }}</td>
                <td class="num">
                  <router-link
                    v-if="study.differ"
                    class="odd"
                    :to="`/reviews/${review}/chart/differences?study=${study.id}`"
                    >{{ count(study.differ) }}</router-link
                  >
                  <span v-else class="soft">0</span>
                </td>
              </tr>
            </tbody>
          </table>
        </template>
        <template v-if="agreement?.length">
          <h2>Agreement by item</h2>
          <table>
            <thead>
              <tr>
                <th>Item</th>
                <th class="num">Both read</th>
                <th class="num">The same</th>
                <th class="num">Share</th>
                <th>95 % interval</th>
                <th class="num">Cohen’s kappa</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in agreement" :key="one.item">
                <td>
                  <router-link :to="`/reviews/${review}/chart/differences?item=${one.item}`">{{
                    one.name
                  }}</router-link>
                </td>
                <td class="num">{{ count(one.read) }}</td>
                <td class="num">{{ count(one.same) }}</td>
                <td class="num">{{ percent(one.share) }}</td>
                <td class="soft">{{ one.low == null ? '' : `${percent(one.low)} to ${percent(one.high)}` }}</td>
                <td class="num">{{ figure(one.kappa) }}</td>
              </tr>
            </tbody>
          </table>
          <p class="small soft">
            Over what both had read when they were first compared; what was corrected or settled since does not raise
            it. Intervals: Wilson 1927. Kappa, for choices and yes or no: Cohen 1960.
          </p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 300px minmax(0, 1fr);
}
.sharing {
  display: flex;
  flex-wrap: wrap;
}
</style>
