<script setup lang="ts">
// How far readers agree on what they read independently.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, type Schemas } from '@/api/client'
import { count, day, figure, percent, plural, VERDICT_WORDS } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const route = useRoute()
const router = useRouter()
const { review, path } = useReview()
const pass = computed<1 | 2>(() => (route.query.pass === '2' ? 2 : 1))
const sharing = computed(() => Number(route.query.sharing) || undefined)
const reasons = computed(() => route.query.by === 'reason')
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['agreement', review, pass, sharing, reasons],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/agreement', {
        params: { ...path.value, query: { pass_number: pass.value, sharing: sharing.value, reasons: reasons.value } },
      }),
    ),
})
const { data: sharings } = useQuery({
  queryKey: ['sharings', review, pass],
  queryFn: () =>
    got(GET('/api/reviews/{review}/sharings', { params: { ...path.value, query: { pass_number: pass.value } } })),
})
const set = (wanted: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...wanted } })
const of = computed(() => [
  { value: '', title: 'everything several people read' },
  ...(sharings.value ?? []).map((one) => ({ value: String(one.id), title: `“${one.name}”` })),
])
const pairs = computed(() => data.value?.pairs.filter((pair) => pair.n) ?? [])
const pair = computed(() => pairs.value.find((pair) => `${pair.a}·${pair.b}` === route.query.pair) ?? pairs.value[0])
const share = (n: number | null | undefined) => percent(n, 1)
/** The records that both read, and of which each said this. */
const records = (of: Schemas['PairAgreement'], one: string, other: string) => ({
  path: `/reviews/${review.value}/records`,
  query: { list: `read:${[pass.value, of.a_id, one, of.b_id, other, sharing.value ?? 0].join('.')}` },
})
/** The records on which readers named a criterion so. */
const naming = (criterion: number, how: string) => ({
  path: `/reviews/${review.value}/records`,
  query: { list: `named:${[pass.value, criterion, how, sharing.value ?? 0].join('.')}` },
})
const ways = (one: Schemas['ReasonAgreement']) =>
  [
    ['any', one.records],
    ['all', one.together],
    ['other', one.otherwise],
    ['none', one.not_excluded],
  ] as const
const interval = (agreement: Schemas['PairAgreement']) =>
  agreement.kappa_ci ? `${figure(agreement.kappa_ci[0])} to ${figure(agreement.kappa_ci[1])}` : ''
const named = (word: string) =>
  word.startsWith('exclude: ') ? `Excluded: ${word.slice(9)}` : (VERDICT_WORDS[word] ?? word)

const [WIDE, HIGH] = [420, 110]
const line = computed(() => {
  const some = data.value?.over_time ?? []
  const x = (k: number) => 34 + (some.length > 1 ? (k * (WIDE - 50)) / (some.length - 1) : (WIDE - 50) / 2)
  const y = (n: number) => 8 + (1 - n) * (HIGH - 30)
  return some.map((stretch, k) => ({ x: x(k), y: y(stretch.agreement), stretch }))
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes">
      <Teleport to="#view-actions" defer>
        <span class="row">
          <v-btn :aria-pressed="pass === 1" @click="set({ pass: undefined, sharing: undefined })">First pass</v-btn>
          <v-btn :aria-pressed="pass === 2" @click="set({ pass: '2', sharing: undefined })">Second pass</v-btn>
        </span>
      </Teleport>
      <section class="pane sheet pad all" tabindex="0" aria-label="Agreement">
        <div class="choices">
          <ChoiceField
            :model-value="String(sharing ?? '')"
            :items="of"
            label="Records of"
            @update:model-value="set({ sharing: ($event as string) || undefined })"
          />
          <ChoiceField
            :model-value="reasons ? 'reason' : ''"
            :items="[
              { value: '', title: 'the verdict is the same' },
              { value: 'reason', title: 'verdict and reason are the same' },
            ]"
            label="Readers agree where"
            @update:model-value="set({ by: ($event as string) || undefined })"
          />
        </div>
        <div v-if="!pairs.length" class="soft">
          <h2>No record has been read by two people independently yet</h2>
          <p>
            <router-link :to="`/reviews/${review}/screen/passes?pass=${pass}`"
              >Have two people read each record</router-link
            >, or share out a pilot that all read; what they agree on is worked out here.
          </p>
        </div>
        <template v-else-if="data">
          <p>
            {{ plural(data.records, 'record') }} read by two or more;
            <router-link :to="`/reviews/${review}/screen/differences${pass === 2 ? '?pass=2' : ''}`"
              >{{ count(data.differ.length) }} differently</router-link
            >. What was settled afterwards is not counted.
          </p>
          <table>
            <thead>
              <tr>
                <th>Readers</th>
                <th class="num">Both read</th>
                <th class="num">Agree</th>
                <th class="num">Cohen’s kappa</th>
                <th>95 % interval</th>
                <th class="num"><abbr title="Kappa adjusted for prevalence and bias">PABAK</abbr></th>
                <th class="num"><abbr title="Gwet’s first-order agreement coefficient">AC1</abbr></th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in pairs" :key="one.a + one.b" :class="{ on: one === pair }">
                <td>
                  <button :aria-pressed="one === pair" @click="set({ pair: `${one.a}·${one.b}` })">
                    {{ one.a }} and {{ one.b }}
                  </button>
                </td>
                <td class="num">{{ count(one.n) }}</td>
                <td class="num">{{ share(one.agreement) }}</td>
                <td class="num">{{ figure(one.kappa) }}</td>
                <td class="soft">{{ interval(one) }}</td>
                <td class="num">{{ figure(one.pabak) }}</td>
                <td class="num">{{ figure(one.ac1) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="data.people.length > 2" class="small soft">
            All {{ data.people.length }} at once: Fleiss’ kappa {{ figure(data.fleiss) }} over
            {{ plural(data.fleiss_records, 'record') }} that each of them read.
          </p>
          <div class="below">
            <div v-if="pair">
              <h3>{{ pair.a }} (rows) and {{ pair.b }} (columns)</h3>
              <table class="small cross">
                <thead>
                  <tr>
                    <th />
                    <th v-for="word in data.words" :key="word" class="num">{{ named(word) }}</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="(row, k) in pair.table" :key="k">
                    <th>{{ named(data.words[k]!) }}</th>
                    <td v-for="(n, j) in row" :key="j" class="num" :class="{ same: k === j, soft: !n }">
                      <router-link v-if="n" :to="records(pair, data.keys[k]!, data.keys[j]!)">{{
                        count(n)
                      }}</router-link><template v-else>{{ count(n) }}</template>
                    </td>
                  </tr>
                </tbody>
              </table>
            </div>
            <div v-if="line.length > 1">
              <h3>Over time</h3>
              <svg
                :viewBox="`0 0 ${WIDE} ${HIGH}`"
                :width="WIDE"
                :height="HIGH"
                role="img"
                :aria-label="`Share on which all agree, by stretches: ${line.map((p) => share(p.stretch.agreement)).join(', ')}`"
              >
                <template v-for="n in [0, 0.5, 1]" :key="n">
                  <line
                    :x1="34"
                    :x2="WIDE - 8"
                    :y1="8 + (1 - n) * (HIGH - 30)"
                    :y2="8 + (1 - n) * (HIGH - 30)"
                    class="grid"
                  />
                  <text x="30" :y="12 + (1 - n) * (HIGH - 30)" class="axis end">{{ 100 * n }}</text>
                </template>
                <polyline :points="line.map((p) => `${p.x},${p.y}`).join(' ')" class="curve" />
                <circle v-for="p in line" :key="p.x" :cx="p.x" :cy="p.y" r="3" class="dot">
                  <title>
                    {{ share(p.stretch.agreement) }} of {{ count(p.stretch.records) }}, until {{ day(p.stretch.until) }}
                  </title>
                </circle>
                <text x="34" :y="HIGH - 4" class="axis">first</text>
                <text :x="WIDE - 8" :y="HIGH - 4" class="axis end">
                  last, {{ line.at(-1) ? day(line.at(-1)!.stretch.until) : '' }}
                </text>
              </svg>
            </div>
          </div>
          <template v-if="data.by_reason.length">
            <h3>By reason: where people read one criterion in two ways</h3>
            <table class="small reasons">
              <thead>
                <tr>
                  <th>Criterion</th>
                  <th class="num">Named by at least one</th>
                  <th class="num">By all</th>
                  <th class="num">Others named another</th>
                  <th class="num">Others did not exclude</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="one in data.by_reason" :key="one.criterion">
                  <td>{{ one.criterion }}</td>
                  <td v-for="[how, n] in ways(one)" :key="how" class="num">
                    <router-link v-if="n" :class="{ odd: how === 'none' }" :to="naming(one.number, how)">{{
                      count(n)
                    }}</router-link>
                    <span v-else class="soft">0</span>
                  </td>
                </tr>
              </tbody>
            </table>
          </template>
          <p class="small soft">
            Kappa: Cohen 1960, its standard error Fleiss, Cohen and Everitt 1969; PABAK: Byrt, Bishop and Carlin 1993;
            AC1: Gwet 2008; several readers: Fleiss 1971.
          </p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.all {
  display: grid;
  gap: 16px;
  align-content: start;
}
.choices {
  display: grid;
  grid-template-columns: repeat(2, minmax(200px, 320px));
  gap: 12px;
}
table {
  max-width: 900px;
}
.below {
  display: flex;
  gap: 40px;
  flex-wrap: wrap;
}
.cross {
  width: auto;
}
.same {
  font-weight: 600;
}
.grid {
  stroke: var(--ks-hair);
}
.axis {
  font-size: 11px;
  fill: var(--ks-soft);
}
.end {
  text-anchor: end;
}
.curve {
  fill: none;
  stroke: var(--ks-pine);
  stroke-width: 1.5;
}
.dot {
  fill: var(--ks-pine);
}
</style>
