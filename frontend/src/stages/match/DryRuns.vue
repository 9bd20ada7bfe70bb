<script setup lang="ts">
// Dry runs of a rule: what each would change, pair by pair; applied in one stroke, undone in one stroke.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { ago, count, people, place, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { KINDS, pieces } from './compare'
import { FIELD_WORDS } from './rule'

type Tried = Schemas['TriedPair']
type Change = 'join' | 'part' | 'ask' | 'answer' | 'edge'
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const {
  data: all,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['trials', review],
  queryFn: () => got(GET('/api/reviews/{review}/trials', { params: path.value })),
})
const chosen = computed(() => Number(route.params.trial) || all.value?.[0]?.id || 0)
const { data: trial, error: trialError } = useQuery({
  queryKey: ['trials', review, chosen],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/trials/{trial}', { params: { path: { review: review.value, trial: chosen.value } } }),
    ),
  enabled: computed(() => chosen.value > 0),
})
const working = computed(
  () => trial.value?.state === 'waiting' && ['waiting', 'working'].includes(trial.value.job ?? ''),
)
const s = computed(() => trial.value?.summary)
const CHANGES: [Change, string, string][] = [
  ['join', 'Joined', 'Records that would become one, the weakest link first'],
  ['part', 'Parted', 'Groups that would fall apart'],
  ['ask', 'Asked', 'Pairs that would be asked about'],
  ['answer', 'No longer asked', 'Open pairs that would not be asked any more'],
  ['edge', 'At the edge', 'Pairs that fail one condition of a pass'],
]
const change = computed<Change>(() =>
  CHANGES.some(([kind]) => kind === route.query.change)
    ? (route.query.change as Change)
    : (CHANGES.find(([kind]) => s.value?.[kind])?.[0] ?? 'join'),
)
const how = computed(() => String(route.query.how ?? ''))
const show = (kind: Change, name = '') => router.replace({ query: { change: kind, ...(name ? { how: name } : {}) } })
const shown = ref(0)
async function load(offset: number, limit: number) {
  const page = await got(
    GET('/api/reviews/{review}/trials/{trial}/pairs', {
      params: {
        path: { review: review.value, trial: chosen.value },
        query: { change: change.value, how: how.value, offset, limit },
      },
    }),
  )
  return { total: page.total, rows: page.pairs }
}
const version = computed(() => `${chosen.value}|${trial.value?.state}|${change.value}|${how.value}`)
watch(version, () => (shown.value = 0))
const STATES: Record<string, string> = {
  waiting: 'under way',
  ready: 'ready',
  applied: 'applied',
  undone: 'undone',
  failed: 'failed',
}
const stateOf = (of: Schemas['TrialOf']) =>
  of.state === 'waiting' && of.job === 'cancelled'
    ? 'cancelled'
    : of.state === 'waiting' && of.job === 'failed'
      ? 'failed'
      : (STATES[of.state] ?? of.state)
const again = () => refresh('trials', 'figures', 'questions', 'match-rule', 'match-rule-versions', 'records', 'removed')
const deed = (what: 'apply' | 'undo') =>
  got(
    POST(`/api/reviews/{review}/trials/{trial}/${what}`, {
      params: { path: { review: review.value, trial: chosen.value } },
    }),
  )
async function apply() {
  if (!trial.value || !mayWrite.value || !['ready', 'undone'].includes(trial.value.state)) return
  if (await attempt(() => deed('apply')))
    say('Applied in one stroke. What people said stands as it was.', async () => {
      await deed('undo')
      await again()
    })
  await again()
}
async function undo() {
  if (await attempt(() => deed('undo')))
    say('Undone: all is as it was before this dry run.', async () => {
      await deed('apply')
      await again()
    })
  await again()
}
const open = (id: number) => router.push(`/reviews/${review.value}/match/dry-runs/${id}`)
const move = (by: number) => {
  const at = (all.value ?? []).findIndex((one) => one.id === chosen.value) + by
  if (all.value?.[at]) void open(all.value[at].id)
}
useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1) })
const marked = (tried: Tried) => pieces([tried.left.record.title, tried.right.record.title])
const reference = (side: Schemas['Side']) =>
  [
    people(side.record.authors, 3),
    side.record.journal || side.record.journal_short,
    side.record.year ?? 'no year',
    place(side.record),
    side.record.doi,
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="!all?.length" class="pad soft">
      <h2>Nothing was tried yet</h2>
      <p>
        Under <router-link :to="`/reviews/${review}/match/rule`">Rule</router-link> the team says what is joined, what
        is asked and what is left apart. A dry run shows what would change before anything does.
      </p>
    </div>
    <div v-else class="panes columns">
      <Teleport to="#view-actions" defer>
        <template v-if="trial && mayWrite">
          <v-btn v-if="trial.state === 'applied'" @click="undo">Undo this dry run</v-btn>
          <v-btn v-if="trial.state === 'undone'" @click="apply">Apply it again</v-btn>
          <v-btn v-if="trial.state === 'ready'" class="main" :disabled="!trial.holds" @click="apply"
            >Apply all of it</v-btn
          >
        </template>
      </Teleport>
      <section class="pane" tabindex="0" aria-label="Dry runs">
        <div class="head">
          <b>{{ plural(all.length, 'dry run') }}</b>
        </div>
        <button
          v-for="one in all"
          :key="one.id"
          class="one small"
          :class="{ on: one.id === chosen }"
          @click="open(one.id)"
        >
          <span class="name">{{ one.name }}</span><span class="soft"
            >{{ stateOf(one) }} · {{ one.by }}, {{ ago(one.at) }}</span
          >
        </button>
      </section>
      <section class="pane sheet main-pane">
        <p v-if="trialError" class="pad bad" role="alert">{{ (trialError as Error).message }}</p>
        <p v-else-if="working" class="pad soft" role="status">
          The whole review is being matched under this rule, beside what stands. You can leave this page; the progress
          is at the top right.
        </p>
        <p v-else-if="trial && trial.state === 'waiting'" class="pad odd">
          This dry run was not finished. Try the rule again.
        </p>
        <template v-else-if="trial && s">
          <div class="top">
            <p v-if="trial.state === 'ready' && !trial.holds" class="odd small">
              The review has changed since this dry run. Try the rule again to see what it would change now.
            </p>
            <p>
              Of {{ count(s.copies) }} copies it {{ trial.state === 'applied' ? 'made' : 'would make' }}
              <b>{{ count(s.records_after) }} records</b> instead of {{ count(s.records_before) }}, and ask
              <b>{{ plural(s.questions_after, 'question') }}</b> instead of {{ count(s.questions_before) }}. Weights
              join from {{ s.join_from.toFixed(1) }} and ask from {{ s.ask_from.toFixed(1) }}.
            </p>
            <table v-if="s.passes.length" class="small passes">
              <thead>
                <tr>
                  <th>Pass</th>
                  <th>Does</th>
                  <th class="num">Alone it would remove</th>
                  <th class="num">Decides on pairs</th>
                  <th class="num">Fail one condition</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(pass, k) in s.passes" :key="pass.name">
                  <td>{{ k + 1 }} {{ pass.name }}</td>
                  <td>{{ pass.then }}</td>
                  <td class="num">{{ plural(pass.alone, 'copy', 'copies') }}</td>
                  <td class="num">{{ count(pass.adds) }}</td>
                  <td class="num">
                    <button class="link" @click="show('edge', pass.name)">{{ count(pass.edge) }}, see some</button>
                  </td>
                </tr>
                <tr>
                  <td>Weights</td>
                  <td>join</td>
                  <td />
                  <td class="num">{{ count(s.by_weights) }}</td>
                  <td />
                </tr>
              </tbody>
            </table>
            <p v-if="Object.keys(s.kinds).length" class="small soft">
              Look-alikes left apart:
              {{
                Object.entries(s.kinds)
                  .map(([name, n]) => `${KINDS[name] ?? name} ${count(n)}`)
                  .join(', ')
              }}.
            </p>
            <nav class="row kinds" aria-label="What would change">
              <button
                v-for="[kind, word] in CHANGES"
                :key="kind"
                class="tag"
                :class="{ here: kind === change }"
                :aria-pressed="kind === change"
                @click="show(kind)"
              >
                {{ word }} {{ count(s[kind]) }}
              </button>
            </nav>
            <p class="small soft">{{ CHANGES.find(([kind]) => kind === change)?.[2] }}{{ how ? `: ${how}` : '' }}</p>
          </div>
          <LongList
            :load="load"
            :version="version"
            :row-height="112"
            label="Pairs of the dry run"
            @total="(n: number) => (shown = n)"
          >
            <template #row="{ row }">
              <div class="pair small">
                <div v-for="(side, k) in [(row as Tried).left, (row as Tried).right]" :key="k" class="side">
                  <div class="read title">
                    <template v-for="(piece, n) in marked(row as Tried)[k]" :key="n"
                      ><u v-if="piece.differs" class="differs">{{ piece.text }}</u
                      ><template v-else>{{ piece.text }}</template></template
                    >
                  </div>
                  <div class="soft two">{{ reference(side) }}</div>
                  <div class="soft clip">{{ side.origin }}</div>
                </div>
                <div class="num">
                  <b>{{ (row as Tried).score.toFixed(1) }}</b>
                  <div class="soft">
                    {{
                      (row as Tried).edge
                        ? `${(row as Tried).how} fails: ${FIELD_WORDS[(row as Tried).edge] ?? (row as Tried).edge}`
                        : (row as Tried).how || KINDS[(row as Tried).kind] || 'weights'
                    }}
                  </div>
                </div>
              </div>
            </template>
            <template #empty><p class="pad soft">Nothing of this kind would change.</p></template>
          </LongList>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 240px minmax(0, 1fr);
}
.one {
  display: grid;
  width: 100%;
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.name {
  font-size: 13px;
  font-weight: 600;
}
.main-pane {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  overflow: hidden;
}
.top {
  padding: 12px 12px 6px;
  display: grid;
  gap: 6px;
  border-bottom: 1px solid var(--ks-hair);
}
.passes {
  max-width: 760px;
}
.passes thead th {
  position: static;
}
.kinds {
  flex-wrap: wrap;
}
.kinds .tag {
  padding: 2px 8px;
}
.here {
  border-color: var(--ks-copper) !important;
  color: var(--ks-ink) !important;
  background: var(--ks-copper-wash) !important;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) 120px;
  gap: 16px;
  padding: 8px 12px;
  height: 100%;
  overflow: hidden;
  border-bottom: 1px solid var(--ks-hair);
}
.title {
  font-size: 14px;
  line-height: 18px;
  max-height: 36px;
  overflow: hidden;
}
.two {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
</style>
