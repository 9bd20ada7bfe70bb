<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { differ, type Piece } from '@/common/differ'
import { count, KIND_WORDS, place } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data: questions, error, isPending, refetch } = useQuery({ queryKey: ['questions', review], queryFn: () => got(GET('/api/reviews/{review}/questions', { params: path.value })) })
const chosen = computed(() => Number(route.query.pair) || questions.value?.[0]?.id)
const { data: pair, error: pairError } = useQuery({
  queryKey: ['pair', review, chosen],
  queryFn: () => got(GET('/api/reviews/{review}/questions/{question}', { params: { path: { review: review.value, question: chosen.value! } } })),
  enabled: computed(() => !!chosen.value),
})
const raw = ref(false)
watch(chosen, () => (raw.value = false))

interface Line {
  field: string
  label: string
  left: Piece[]
  right: Piece[]
  weight: number | null
  kept: string
}
const text: Record<string, (record: Schemas['RecordFields']) => string> = {
  title: (it) => it.title,
  authors: (it) => it.authors.join('; '),
  year: (it) => String(it.year ?? ''),
  journal: (it) => it.journal || it.journal_short,
  place,
  doi: (it) => it.doi,
  abstract: (it) => it.abstract,
  kind: (it) => KIND_WORDS[it.kind] ?? it.kind,
}
const LABELS = { title: 'Title', authors: 'Authors', year: 'Year', journal: 'Journal', place: 'Volume, pages', doi: 'DOI', abstract: 'Abstract', kind: 'Kind' }
const PARTS: Record<string, string[]> = { place: ['volume', 'issue', 'pages'] }

const lines = computed<Line[]>(() => {
  const it = pair.value
  if (!it) return []
  return Object.entries(LABELS).map(([field, label]) => {
    const [a, b] = [text[field]!(it.left.record), text[field]!(it.right.record)]
    const [left, right] = a && b ? differ(a, b) : [[{ text: a, differs: false }], [{ text: b, differs: false }]]
    const owners = (PARTS[field] ?? [field]).map((part) => it.whose[part]).filter((owner) => owner !== undefined)
    const kept = !owners.length ? '' : a === b ? 'both' : new Set(owners).size > 1 ? text[field]!(it.kept) : owners[0] === 0 ? 'left' : 'right'
    return { field, label, left, right, weight: it.evidence.find((e) => e.field === field)?.weight ?? null, kept }
  })
})
const signed = (n: number) => (n > 0 ? '+' : n < 0 ? '−' : '') + Math.abs(n).toFixed(1).replace(/\.0$/, n ? '.0' : '')

const index = computed(() => questions.value?.findIndex((it) => it.id === chosen.value) ?? -1)
function choose(at: number) {
  const to = questions.value?.[at]
  if (to) router.replace({ query: { pair: String(to.id) } })
}
async function answer(same: boolean) {
  const question = chosen.value
  if (!question || !mayWrite.value) return
  const next = questions.value?.[index.value + 1] ?? questions.value?.[index.value - 1]
  if (await attempt(() => got(POST('/api/reviews/{review}/questions/{question}/answer', { params: { path: { review: review.value, question } }, body: { same } })))) {
    say(same ? 'Joined as the same report.' : 'Left apart as different reports.', takeBackQuietly)
    await router.replace({ query: next ? { pair: String(next.id) } : {} })
  }
  await refresh('questions', 'figures')
}
const takeBackQuietly = () => got(POST('/api/reviews/{review}/questions/take-back', { params: path.value }))
async function takeBack() {
  try {
    const { question } = await takeBackQuietly()
    await refresh('questions', 'figures', 'pair')
    if (question) await router.replace({ query: { pair: String(question) } })
    say('Your last answer is taken back.')
  } catch (failure) {
    complain(failure)
  }
}
async function later() {
  const question = chosen.value
  if (!question || !mayWrite.value) return
  const next = questions.value?.[index.value + 1]
  await attempt(() => got(POST('/api/reviews/{review}/questions/{question}/later', { params: { path: { review: review.value, question } } })))
  await refresh('questions')
  await router.replace({ query: next ? { pair: String(next.id) } : {} })
}
useKeys({
  s: () => answer(true),
  d: () => answer(false),
  l: later,
  Backspace: takeBack,
  ArrowDown: () => choose(index.value + 1),
  ArrowUp: () => choose(index.value - 1),
  r: () => (raw.value = !raw.value),
})
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <span v-if="figures.data.value" class="soft small"><router-link :to="`/reviews/${review}/records?list=all`">{{ count(figures.data.value.records) }} records</router-link> from <router-link :to="`/reviews/${review}/records?list=found`">{{ count(figures.data.value.found) }} copies</router-link></span>
        <v-btn v-if="mayWrite" @click="takeBack">Take back <kbd>⌫</kbd></v-btn>
      </Teleport>
      <section class="pane">
        <div class="head"><b>To decide</b><span class="soft small push">{{ count(questions?.length ?? 0) }} left</span></div>
        <table class="small">
          <tbody>
            <tr v-for="it in questions" :key="it.id" :class="{ on: it.id === chosen }">
              <td><router-link :to="{ query: { pair: String(it.id) } }" class="plain">{{ it.title || 'Untitled' }}</router-link><div class="soft">{{ it.copies }} copies{{ it.later ? ', put off' : '' }}</div></td>
              <td class="num">{{ it.score.toFixed(1) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="pane sheet">
        <div v-if="!questions?.length && !route.query.pair" class="pad soft">
          <h2>No pair waits for a decision</h2>
          <p>Copies are looked for by themselves after each file is taken in. What was joined stands under <router-link :to="`/reviews/${review}/match/groups`">Groups</router-link>, where any joining can be undone.</p>
        </div>
        <p v-else-if="pairError" class="pad bad" role="alert">{{ (pairError as Error).message }}</p>
        <template v-else-if="pair">
          <div class="head tall">
            <h2 class="read">Are these the same report?</h2>
            <span class="soft small">Weight {{ pair.score.toFixed(1) }} — joined from {{ pair.join_from }}, left apart below {{ pair.ask_from }}</span>
            <span v-if="mayWrite" class="push row">
              <v-btn class="main" @click="answer(true)">Same <kbd>S</kbd></v-btn><v-btn @click="answer(false)">Different <kbd>D</kbd></v-btn><v-btn @click="later">Later <kbd>L</kbd></v-btn>
            </span>
          </div>
          <table class="pair">
            <thead><tr><th><span class="unseen">Field</span></th><th>{{ pair.left.origin }}</th><th>{{ pair.right.origin }}</th><th class="num">Weight</th><th>Kept record says</th></tr></thead>
            <tbody>
              <tr v-for="line in lines" :key="line.field">
                <th scope="row">{{ line.label }}</th>
                <td v-for="(side, k) in [line.left, line.right]" :key="k" class="read side">
                  <span v-if="!side.some((piece) => piece.text)" class="soft">none</span>
                  <div v-else :class="{ long: line.field === 'abstract' }" :tabindex="line.field === 'abstract' ? 0 : undefined"><template v-for="(piece, n) in side" :key="n"><u v-if="piece.differs" class="differs">{{ piece.text }}</u><template v-else>{{ piece.text }}</template></template></div>
                </td>
                <td class="num small" :class="(line.weight ?? 0) > 0 ? 'pro' : 'soft'">{{ line.weight === null ? '' : signed(line.weight) }}</td>
                <td class="small">{{ line.kept }}</td>
              </tr>
              <tr v-if="raw"><th scope="row">In the file</th><td class="mono">{{ pair.left.raw }}</td><td class="mono">{{ pair.right.raw }}</td><td /><td /></tr>
            </tbody>
          </table>
          <p class="small soft pad">Underlined letters differ. The kept record takes the fullest value of each field. Both copies stay as they came. <v-btn @click="raw = !raw">{{ raw ? 'Hide' : 'Show' }} the files' own text <kbd>R</kbd></v-btn></p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns { grid-template-columns: 284px minmax(0, 1fr); }
.plain { color: inherit; text-decoration: none; display: -webkit-box; -webkit-line-clamp: 2; -webkit-box-orient: vertical; overflow: hidden; }
.tall { min-height: 52px; flex-wrap: wrap; padding-block: 6px; }
.tall h2 { font-size: 17px; white-space: nowrap; }
.pair th[scope='row'] { width: 104px; font-weight: 400; font-size: 13px; white-space: normal; }
.side { width: 34%; font-size: 14px; overflow-wrap: anywhere; }
.long { max-height: 140px; overflow: auto; }
.pro { color: var(--ks-pine); }
.pair thead th { top: 52px; white-space: normal; }
</style>
