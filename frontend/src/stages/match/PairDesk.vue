<script setup lang="ts">
// Doubtful pairs, the most useful first: the two copies with all that is in their groups, decided by one key.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import FirstStep from '@/common/FirstStep.vue'
import StateOf from '@/common/StateOf.vue'
import CopyTable from './CopyTable.vue'
import { KINDS, percent } from './compare'

type Said = Schemas['Answer']['said']
const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const client = useQueryClient()
const route = useRoute()
const router = useRouter()
const by = computed(() =>
  ['worth', 'weight', 'alike'].includes(String(route.query.by))
    ? (String(route.query.by) as 'worth' | 'weight' | 'alike')
    : 'worth',
)
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['questions', review, by],
  queryFn: () => got(GET('/api/reviews/{review}/questions', { params: { ...path.value, query: { by: by.value } } })),
})
// what was answered here is gone at once, whatever list is still on its way
const answered = ref(new Set<number>())
const questions = computed(() => data.value?.filter((one) => !answered.value.has(one.id)))
const MOST = 1000
/** A list of so many may not be all; how many there are, the figures say then. */
const left = computed(() =>
  (data.value?.length ?? 0) < MOST ? (questions.value?.length ?? 0) : (figures.data.value?.questions ?? MOST),
)
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const free = (pair: Schemas['OpenPair']) => !pair.held_by || pair.held_by === me.value?.id
const chosen = computed(() => Number(route.query.pair) || questions.value?.find(free)?.id || questions.value?.[0]?.id)
const one = (question: number) =>
  got(GET('/api/reviews/{review}/questions/{question}', { params: { path: { review: review.value, question } } }))
const { data: pair, error: pairError } = useQuery({
  queryKey: ['pair', review, chosen],
  queryFn: () => one(chosen.value!),
  enabled: computed(() => !!chosen.value),
  retry: false,
})
const raw = ref(false)
const holder = ref('')
watch(
  chosen,
  async (question) => {
    raw.value = false
    holder.value = ''
    if (!question || !mayWrite.value) return
    try {
      await got(
        POST('/api/reviews/{review}/questions/{question}/take', {
          params: { path: { review: review.value, question } },
        }),
      )
    } catch (failure) {
      holder.value = failure instanceof Error ? failure.message : ''
    }
  },
  { immediate: true },
)

const index = computed(() => questions.value?.findIndex((question) => question.id === chosen.value) ?? -1)
const after = computed(() => {
  const all = questions.value ?? []
  const rest = [...all.slice(index.value + 1), ...all.slice(0, Math.max(0, index.value))]
  return rest.find(free)
})
// the next pair is on the screen before the answer has travelled
watch(
  after,
  (each) => each && client.prefetchQuery({ queryKey: ['pair', review.value, each.id], queryFn: () => one(each.id) }),
)
const go = (to?: { id: number }) => router.replace({ query: { ...route.query, pair: to ? String(to.id) : undefined } })
const choose = (at: number) => questions.value?.[at] && go(questions.value[at])

const whole = ref(false)
const copies = computed(() => (pair.value ? [pair.value.left, pair.value.right, ...pair.value.others] : []))
const shown = computed(() => (whole.value ? copies.value : copies.value.slice(0, 2)))
const owner = (field: string) => {
  const at = pair.value?.whose[field]
  return at === undefined ? undefined : copies.value[at]?.id
}
const groups = computed(() =>
  pair.value
    ? [pair.value.left.group, pair.value.right.group].map(
        (group) => copies.value.filter((copy) => copy.group === group).length,
      )
    : [],
)
const decidedApart = computed(() => {
  const said = [pair.value?.left.group, pair.value?.right.group].map(
    (group) =>
      new Set(
        copies.value
          .filter((copy) => copy.group === group)
          .flatMap((copy) => copy.verdicts.map((v) => `${v.pass_number} ${v.verdict}`)),
      ),
  )
  return said[0]!.size > 0 && said[1]!.size > 0 && [...said[0]!].some((one) => !said[1]!.has(one))
})

const SAID: Record<Said, string> = {
  same: 'Joined as the same report.',
  different: 'Left apart as different reports.',
  related: 'Left apart, as another report of the same study.',
}
async function answer(said: Said) {
  const question = chosen.value
  if (!question || !mayWrite.value || holder.value || answered.value.has(question)) return
  const next = after.value
  answered.value.add(question)
  await go(next)
  const ok = await attempt(async () => {
    const told = await got(
      POST('/api/reviews/{review}/questions/{question}/answer', {
        params: { path: { review: review.value, question } },
        body: { said },
      }),
    )
    say([SAID[said], ...told.disagreements].join(' '), takeBackQuietly, 'pair')
  })
  if (!ok) {
    answered.value.delete(question)
    await go({ id: question })
  }
  await refresh('questions', 'figures')
}
async function takeBackQuietly() {
  const back = await got(POST('/api/reviews/{review}/questions/take-back', { params: path.value }))
  if (back.question) answered.value.delete(back.question)
  await refresh('questions', 'figures')
  return back
}
async function takeBack() {
  try {
    const { question } = await takeBackQuietly()
    await refresh('questions', 'figures', 'pair')
    if (question) await go({ id: question })
    say('Your last answer is taken back.')
  } catch (failure) {
    complain(failure)
  }
}
async function later() {
  const question = chosen.value
  if (!question || !mayWrite.value) return
  const next = after.value
  await attempt(() =>
    got(
      POST('/api/reviews/{review}/questions/{question}/later', {
        params: { path: { review: review.value, question } },
      }),
    ),
  )
  await refresh('questions')
  await go(next)
}
useKeys({
  s: () => answer('same'),
  d: () => answer('different'),
  o: () => answer('related'),
  l: later,
  Backspace: takeBack,
  ArrowDown: () => choose(index.value + 1),
  ArrowUp: () => choose(index.value - 1),
  r: () => (raw.value = !raw.value),
  g: () => (whole.value = !whole.value),
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <span v-if="figures.data.value" class="soft small"
          ><router-link :to="`/reviews/${review}/records?list=all`"
            >{{ count(figures.data.value.records) }} records</router-link
          >
          from
          <router-link :to="`/reviews/${review}/records?list=found`"
            >{{ count(figures.data.value.found) }} copies</router-link
          ></span
        >
        <v-btn v-if="mayWrite" @click="takeBack">Take back <kbd>⌫</kbd></v-btn>
      </Teleport>
      <section class="pane" aria-label="Pairs to decide" tabindex="0">
        <div class="head">
          <b>{{ count(left) }} left</b>
          <select
            class="box push small"
            :value="by"
            aria-label="Order"
            @change="
              router.replace({
                query: { ...route.query, by: ($event.target as HTMLSelectElement).value, pair: undefined },
              })
            "
          >
            <option value="worth">most useful first</option>
            <option value="weight">weightiest first</option>
            <option value="alike">by kind</option>
          </select>
        </div>
        <table class="small">
          <tbody>
            <tr v-for="question in questions" :key="question.id" :class="{ on: question.id === chosen }">
              <td>
                <router-link :to="{ query: { ...route.query, pair: String(question.id) } }" class="plain">{{
                  question.title || 'Untitled'
                }}</router-link>
                <div class="soft">
                  {{
                    KINDS[question.kind] ??
                    (question.how ? `asked by ${question.how}` : plural(question.copies, 'copy', 'copies'))
                  }}{{ question.later ? ' · put off' : '' }}{{ question.decided ? ` · ${question.decided} decided` : ''
                  }}<template v-if="question.holder && !free(question)">
                    · <b>{{ question.holder }}</b></template
                  >
                </div>
              </td>
              <td class="num" :title="`Chance of one report: ${percent(question.chance)}`">
                {{ question.score.toFixed(1) }}
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="pane sheet" tabindex="0" aria-label="The pair">
        <div v-if="!questions?.length && !route.query.pair" class="pad soft">
          <h2>No pair waits for a decision</h2>
          <FirstStep v-if="!figures.data.value?.found" stage="Match" />
          <p v-else>
            Copies are looked for by themselves after each file is taken in. What was joined stands under
            <router-link :to="`/reviews/${review}/match/groups`">Groups</router-link>, where any joining can be undone;
            from where pairs are asked is set under
            <router-link :to="`/reviews/${review}/match/rule`">Rule</router-link>.
          </p>
        </div>
        <p v-else-if="pairError" class="pad bad" role="alert">{{ (pairError as Error).message }}</p>
        <template v-else-if="pair">
          <div class="head tall">
            <h2 class="read">Are these the same report?</h2>
            <span class="soft small"
              >Weight {{ pair.open.score.toFixed(1) }} — joined from {{ pair.join_from.toFixed(1) }}, asked from
              {{ pair.ask_from.toFixed(1) }}</span
            >
            <span v-if="mayWrite" class="push row">
              <v-btn class="main" :disabled="!!holder" @click="answer('same')">Same <kbd>S</kbd></v-btn
              ><v-btn :disabled="!!holder" @click="answer('different')">Different <kbd>D</kbd></v-btn
              ><v-btn
                :disabled="!!holder"
                title="Different reports of the same study: left apart, and charted as one study"
                @click="answer('related')"
                >Other report <kbd>O</kbd></v-btn
              ><v-btn @click="later">Later <kbd>L</kbd></v-btn>
            </span>
          </div>
          <p v-if="holder" class="odd pad-line small" role="status">
            {{ holder }} <button v-if="after" class="link" @click="go(after)">Go to the next free pair</button>
          </p>
          <p v-if="pair.says" class="odd pad-line small">Asked because {{ pair.says }}.</p>
          <p v-else-if="pair.open.how" class="odd pad-line small">
            Asked by the pass “{{ pair.open.how }}” of the team's rule.
          </p>
          <p v-if="decidedApart" class="odd pad-line small">
            Both were decided already, and differently. Joined, the latest decision counts; see the last row.
          </p>
          <p v-if="copies.length > 2" class="pad-line small soft">
            Groups of {{ groups.join(' and ') }} copies; the answer is for both groups.
            <button class="link" @click="whole = !whole">
              {{ whole ? 'Show the pair only' : `Show all ${copies.length} copies` }}
            </button>
            <kbd>G</kbd>
          </p>
          <CopyTable :copies="shown" :kept="pair.kept" :owner="owner" :evidence="pair.evidence" :raw="raw">
            <template #head="{ copy, index: k }"
              ><div v-if="k > 1" class="soft">
                in the group of {{ copy.group === pair.left.group ? 1 : 2 }}
              </div></template
            >
          </CopyTable>
          <p class="small soft pad">
            Underlined letters differ; tinted values are those that the kept record would take. All copies stay as they
            came. <v-btn @click="raw = !raw">{{ raw ? 'Hide' : 'Show' }} the files' own text <kbd>R</kbd></v-btn>
          </p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 284px minmax(0, 1fr);
}
.plain {
  color: inherit;
  text-decoration: none;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.tall {
  min-height: 52px;
  flex-wrap: wrap;
  padding-block: 6px;
}
.tall h2 {
  font-size: 17px;
  white-space: nowrap;
}
.pad-line {
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
</style>
