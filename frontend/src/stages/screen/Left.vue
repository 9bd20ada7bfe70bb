<script setup lang="ts">
// What is still out there, how sure that is, and stopping.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { DELETE, GET, got, POST } from '@/api/client'
import { count, moment, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import FindsCurve from './FindsCurve.vue'

const { review, path, mayWrite, mayLead } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['remaining', review],
  queryFn: () => got(GET('/api/reviews/{review}/remaining', { params: path.value })),
})
const again = () => refresh('remaining', 'figures', 'records', 'queue', 'passes', 'flow')
const whole = (n: number) => count(Math.round(n))
const share = (n: number) => `${(100 * n).toFixed(1)} %`
const chance = computed(() => {
  const p = data.value?.p95 ?? 1
  return p < 0.001 ? 'less than 0.001' : p.toFixed(3)
})
const size = ref('100')
const open = computed(() => (data.value ? data.value.unread + data.value.unsettled : 0))
const asideUnread = computed(() => (data.value?.stopped ? Number(data.value.stopped.figures.set_aside) : 0))
/** A sample in which nothing is found says so much: the rule of three. */
const telling = computed(() => {
  const n = Math.min(open.value, Number(size.value) || 0)
  return n ? Math.round((3 / n) * open.value) : 0
})
const unfinished = computed(() => !!data.value?.sample && data.value.sample.settled < data.value.sample.records)
async function draw() {
  let made: { id: number } | undefined
  const done = await attempt(
    async () =>
      (made = await got(
        POST('/api/reviews/{review}/remaining/sample', { params: path.value, body: { size: Number(size.value) } }),
      )),
  )
  await again()
  if (done && made) {
    const drawn = made.id
    say(`${plural(Number(size.value), 'record')} drawn; they come first at every desk.`, () => withdraw(drawn))
  }
}
const params = (drawn: number) => ({ params: { path: { review: review.value, drawn } } })
async function withdraw(drawn: number) {
  await got(DELETE('/api/reviews/{review}/remaining/sample/{drawn}', params(drawn)))
  await again()
}
async function forget(drawn: number) {
  if (await attempt(() => withdraw(drawn)))
    say('The sample is taken back; its decisions stay.', async () => {
      await got(POST('/api/reviews/{review}/remaining/sample/{drawn}/back', params(drawn)))
      await again()
    })
}
const goOn = (narrowing: number) =>
  got(
    POST('/api/reviews/{review}/narrowings/{narrowing}/withdraw', {
      params: { path: { review: review.value, narrowing } },
    }),
  ).then(again)
async function stop() {
  let made: { narrowing: number; records: number } | undefined
  const done = await attempt(
    async () => (made = await got(POST('/api/reviews/{review}/remaining/stop', { params: path.value }))),
  )
  await again()
  if (done && made) {
    const { narrowing, records } = made
    say(`Stopped: ${plural(records, 'record')} set aside without being read.`, () => goOn(narrowing))
  }
}
const then = computed(() => data.value?.stopped?.figures as Record<string, number> | undefined)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="data" class="panes columns">
      <section class="pane sheet pad figures" tabindex="0" aria-label="Figures">
        <div v-if="data.stopped" class="stopped">
          <h2>Stopped</h2>
          <p>
            {{ data.stopped.by }}, {{ moment(data.stopped.at) }}, after {{ count(then?.answered ?? 0) }} of
            {{ count(then?.records ?? 0) }} records, with {{ count(then?.found ?? 0) }} included.
            <router-link :to="`/reviews/${review}/records?list=narrowed:${data.stopped.narrowing}`"
              >{{ plural(then?.set_aside ?? 0, 'record') }} set aside</router-link
            >
            without being read; the flow counts them as automation.
          </p>
          <v-btn v-if="mayLead" @click="goOn(data.stopped!.narrowing)">Go on screening</v-btn>
        </div>
        <template v-if="!data.answered">
          <h2>Nothing has been screened yet</h2>
          <p class="soft">What is left is told once some records are decided.</p>
        </template>
        <template v-else>
          <h2 class="read big">
            {{
              !data.unread && !data.unsettled
                ? 'Every record is settled'
                : data.left.estimate < 0.5
                  ? data.left.high < 0.5
                    ? 'None that belongs is still out there, as far as can be told'
                    : `Probably none that belongs is still out there, at most ${whole(data.left.high)}`
                  : `About ${whole(data.left.estimate)} that belong are still out there`
            }}
          </h2>
          <dl>
            <dt>Screened</dt>
            <dd>
              <router-link :to="`/reviews/${review}/records?list=decided`">{{ count(data.answered) }}</router-link> of
              {{ count(data.records) }}
            </dd>
            <dt>Included</dt>
            <dd>
              <router-link :to="`/reviews/${review}/records?list=sought`">{{ count(data.found) }}</router-link>
            </dd>
            <template v-if="open"
              ><dt>Not settled</dt>
              <dd>
                <router-link :to="`/reviews/${review}/records?list=open`">{{
                  count(open - asideUnread)
                }}</router-link><template v-if="asideUnread"> and {{ count(asideUnread) }} set aside unread</template
                ><span v-if="data.unsettled" class="soft"
                  >, at least {{ count(data.unsettled) }} of them read by somebody</span
                >
              </dd>
              <dt>Still out there</dt>
              <dd>
                {{ whole(data.left.estimate) }}
                <span class="soft"
                  >from {{ whole(data.left.low) }} to {{ whole(data.left.high) }}, with 95 % confidence</span
                >
              </dd>
              <template v-if="data.recall"
                ><dt>Recall reached</dt>
                <dd>
                  {{ share(data.recall.estimate) }}
                  <span class="soft">from {{ share(data.recall.low) }} to {{ share(data.recall.high) }}</span>
                </dd></template
              >
              <dt>Below 95 %?</dt>
              <dd>
                <b :class="{ odd: data.p95 >= 0.05 }">{{ chance }}</b>
                <span class="soft">
                  is how likely, at most, the answers so far would be if less than 95 % had been found</span
                >
              </dd>
              <dt>Known from</dt>
              <dd>{{ data.method }}</dd></template
            >
          </dl>
          <FindsCurve :curve="data.curve" :looks="data.looks" :records="data.records" />
          <template v-if="data.assumptions.length">
            <h3>This holds if</h3>
            <ul class="soft">
              <li v-for="assumption in data.assumptions" :key="assumption">{{ assumption }}</li>
            </ul>
          </template>
        </template>
      </section>
      <aside class="pane pad side" aria-label="Sample and stopping">
        <h2>A random sample</h2>
        <template v-if="data.sample">
          <p>
            {{ count(data.sample.settled) }} of {{ plural(data.sample.records, 'record') }} settled
            <span class="soft small"
              >drawn by {{ data.sample.by }}, {{ moment(data.sample.at) }}, seed {{ data.sample.seed }}</span
            >
          </p>
          <p v-if="unfinished" class="small">
            <router-link :to="`/reviews/${review}/screen`">Decide on the rest at the desk</router-link>: they come
            first, and the sample tells nothing before its last.
          </p>
          <div class="row">
            <v-btn v-if="mayWrite" @click="forget(data.sample!.id)">Take the sample back</v-btn>
          </div>
        </template>
        <p v-if="data.stopped" class="small soft">A sample can be drawn once you go on screening.</p>
        <template v-else-if="!unfinished">
          <p class="small soft">
            Drawn from all that is not settled, a sample tells how much is left whatever the order did: also finds that
            come in a second wave.
          </p>
          <form v-if="mayWrite && open" class="row end" @submit.prevent="draw">
            <TextField v-model="size" label="Records" type="number" min="1" :max="String(open)" />
            <v-btn type="submit">Draw</v-btn>
          </form>
          <p v-if="mayWrite && telling" class="small soft">
            If none of them belongs, at most about {{ count(telling) }} are left, with 95 % confidence.
          </p>
        </template>
        <template v-if="!data.stopped && data.answered && data.unread">
          <h2>Stop here</h2>
          <p class="small soft">
            What nobody has read, at most {{ plural(data.unread, 'record') }}, is set aside as automation and named so
            in the flow, with the figures of this moment kept for the methods text. Unsure and differing records stay to
            be settled, as does what somebody has read blind, which is not told.
          </p>
          <p v-if="data.p95 >= 0.05" class="small odd">
            The figures do not say that 95 % have been found: whoever stops now should say why.
          </p>
          <div class="row">
            <v-btn v-if="mayLead" @click="stop">Stop screening</v-btn>
            <span v-else class="soft small">A lead stops the screening.</span>
          </div>
        </template>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 320px;
}
.figures,
.side {
  display: grid;
  gap: 12px;
  align-content: start;
}
.big {
  font-size: 22px;
  line-height: 30px;
}
dl {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  row-gap: 4px;
  margin: 0;
  max-width: 720px;
}
dt {
  color: var(--ks-soft);
}
dd {
  margin: 0;
}
ul {
  margin: 0;
  padding-left: 18px;
  max-width: 80ch;
}
.stopped {
  padding: 10px 12px;
  background: var(--ks-ochre-wash);
  border-radius: 3px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.end {
  align-items: end;
}
.side h2:not(:first-child) {
  margin-top: 12px;
}
</style>
