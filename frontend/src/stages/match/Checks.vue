<script setup lang="ts">
// A sample of what was joined or left apart, checked by hand, and the error that follows from it with its interval.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, type Schemas } from '@/api/client'
import { ago, count, people, place, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import CopyTable from './CopyTable.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const {
  data: samples,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['samples', review],
  queryFn: () => got(GET('/api/reviews/{review}/samples', { params: path.value })),
})
const chosen = computed(() => Number(route.query.sample) || samples.value?.[0]?.id || 0)
const sample = computed(() => samples.value?.find((sample) => sample.id === chosen.value))
const { data: pairs } = useQuery({
  queryKey: ['sample', review, chosen],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/samples/{sample}', {
        params: { path: { review: review.value, sample: chosen.value } },
      }),
    ),
  enabled: computed(() => chosen.value > 0),
})
const at = ref(0)
const pair = computed(() => pairs.value?.[Math.min(at.value, pairs.value.length - 1)])
const raw = ref(false)
const size = ref(50)
async function draw(of: 'joined' | 'apart') {
  await attempt(async () => {
    const { id } = await got(
      POST('/api/reviews/{review}/samples', {
        params: path.value,
        body: { of, size: Math.min(500, Math.max(1, Math.round(size.value) || 1)) },
      }),
    )
    await refresh('samples')
    at.value = 0
    await router.replace({ query: { sample: String(id) } })
  })
}
const put = (id: number, same: boolean | null) =>
  got(
    PUT('/api/reviews/{review}/sampled-pairs/{pair}', {
      params: { path: { review: review.value, pair: id } },
      body: { same },
    }),
  )
async function answer(same: boolean) {
  const sampled = pair.value
  if (!sampled || !mayWrite.value) return
  const wrong = same === (sample.value?.of === 'apart')
  if (await attempt(() => put(sampled.id, same)))
    say(wrong ? 'An error: noted, and mended at once.' : 'Noted.', async () => {
      await put(sampled.id, null)
      await again()
    })
  await again()
}
const again = () => refresh('samples', 'sample', 'figures', 'records')
const OF: Record<string, string> = { joined: 'Joined by rule', apart: 'Left apart' }
const share = (n: number) => `${(100 * n).toFixed(n < 0.1 ? 1 : 0)} %`
const says = (of: Schemas['SampleOf']) =>
  of.answered
    ? `${count(of.wrong)} of ${count(of.answered)} wrong: ${share(of.share)}, 95 % interval ${share(of.low)} to ${share(of.high)}; among ${count(of.population)} that is ${count(Math.round(of.low * of.population))} to ${count(Math.round(of.high * of.population))}`
    : `none of ${count(of.size)} answered yet`
const left = computed(() => (pairs.value ?? []).filter((pair) => pair.same === null).length)
useKeys({
  s: () => answer(true),
  d: () => answer(false),
  r: () => (raw.value = !raw.value),
  ArrowDown: () => (at.value = Math.min((pairs.value?.length ?? 1) - 1, at.value + 1)),
  ArrowUp: () => (at.value = Math.max(0, at.value - 1)),
})
const copies = computed(() => (pair.value ? [pair.value.left, pair.value.right] : []))
const line = (pair: Schemas['SampledPair']) =>
  [people(pair.left.record.authors, 1), pair.left.record.year ?? '', place(pair.left.record)]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport v-if="mayWrite" to="#view-actions" defer>
        <label class="small soft" for="sample-size">Pairs</label
        ><input id="sample-size" v-model.number="size" class="box size" type="number" min="1" max="500" />
        <v-btn @click="draw('joined')">Draw from the joined</v-btn
        ><v-btn @click="draw('apart')">Draw from the left apart</v-btn>
      </Teleport>
      <section class="pane" tabindex="0" aria-label="Samples">
        <div class="head">
          <b>{{ plural(samples?.length ?? 0, 'sample') }}</b>
        </div>
        <button
          v-for="drawn in samples"
          :key="drawn.id"
          class="one small"
          :class="{ on: drawn.id === chosen }"
          @click="((at = 0), router.replace({ query: { sample: String(drawn.id) } }))"
        >
          <b>{{ OF[drawn.of] }}</b><span>{{ says(drawn) }}</span
          ><span class="soft">{{ drawn.by }}, {{ ago(drawn.at) }}</span>
        </button>
        <template v-if="pairs?.length"
          ><div class="head">
            <b>{{ left }} left</b>
          </div>
          <table class="small">
            <tbody>
              <tr v-for="(one, k) in pairs" :key="one.id" :class="{ on: one.id === pair?.id }">
                <td>
                  <button class="plain" @click="at = k">{{ one.left.record.title || 'Untitled' }}</button>
                  <div class="soft">{{ line(one) }}</div>
                </td>
                <td class="num">{{ one.same === null ? '' : one.same ? 'same' : 'different' }}</td>
              </tr>
            </tbody>
          </table></template
        >
      </section>
      <section class="pane sheet" tabindex="0" aria-label="The pair">
        <div v-if="!samples?.length" class="pad soft">
          <h2>Nothing was checked by hand yet</h2>
          <p>
            Draw some pairs that were joined, or left apart, and say of each what it is. From that follows how many
            errors to expect in all, with an interval that you can report. An error that you find is mended at once.
          </p>
        </div>
        <template v-else-if="pair">
          <div class="head tall">
            <h2 class="read">
              {{
                sample?.of === 'joined'
                  ? 'Joined: are these the same report?'
                  : 'Left apart: are these the same report?'
              }}
            </h2>
            <span class="soft small"
              >Weight {{ pair.score.toFixed(1)
              }}{{ pair.same === null ? '' : `, said to be ${pair.same ? 'the same' : 'different'}` }}</span
            >
            <span v-if="mayWrite" class="push row"
              ><v-btn class="main" @click="answer(true)">Same <kbd>S</kbd></v-btn
              ><v-btn @click="answer(false)">Different <kbd>D</kbd></v-btn></span
            >
          </div>
          <CopyTable :copies="copies" :kept="pair.left.record" :owner="() => undefined" :raw="raw" />
          <p class="small soft pad">
            <v-btn @click="raw = !raw">{{ raw ? 'Hide' : 'Show' }} the files' own text <kbd>R</kbd></v-btn>
          </p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 320px minmax(0, 1fr);
}
.one {
  display: grid;
  width: 100%;
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.size {
  width: 64px;
}
.plain {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
  text-align: left;
}
.tall {
  min-height: 52px;
  flex-wrap: wrap;
  padding-block: 6px;
}
.tall h2 {
  font-size: 17px;
}
</style>
