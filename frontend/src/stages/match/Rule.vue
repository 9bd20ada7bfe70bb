<script setup lang="ts">
// What the team has agreed on: from where the weights join and ask, look-alikes, passes, whom to trust.
// Nothing changes until a dry run is applied.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { count, moment } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { copyOf } from '@/common/some'
import Curve from './Curve.vue'
import PassEditor from './PassEditor.vue'
import { KINDS } from './compare'
import { emptyPass, type Pass, type Rule } from './rule'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['match-rule', review],
  queryFn: () => got(GET('/api/reviews/{review}/match-rule', { params: path.value })),
})
const { data: versions } = useQuery({
  queryKey: ['match-rule-versions', review],
  queryFn: () => got(GET('/api/reviews/{review}/match-rule/versions', { params: path.value })),
})
const KEPT = computed(() => `match-rule-${review.value}`)
const draft = ref<Rule | null>(null)
watch(
  data,
  (one) => {
    if (!one || draft.value) return
    const kept = sessionStorage.getItem(KEPT.value)
    try {
      draft.value = kept ? (JSON.parse(kept) as Rule) : copyOf(one.rule)
    } catch {
      draft.value = copyOf(one.rule)
    }
  },
  { immediate: true },
)
const changed = computed(
  () => !!draft.value && !!data.value && JSON.stringify(draft.value) !== JSON.stringify(data.value.rule),
)
watch(
  draft,
  (one) =>
    one &&
    (changed.value ? sessionStorage.setItem(KEPT.value, JSON.stringify(one)) : sessionStorage.removeItem(KEPT.value)),
  { deep: true },
)
function change(changes: Partial<Rule>) {
  if (draft.value) draft.value = { ...draft.value, ...changes }
}
const join = computed(() => draft.value?.join_from ?? data.value?.join_from ?? 0)
const ask = computed(() => Math.min(draft.value?.ask_from ?? data.value?.ask_from ?? 0, join.value))
const automatic = computed(() => draft.value?.join_from == null && draft.value?.ask_from == null)
const then = (name: string) =>
  draft.value?.alike?.[name] ?? data.value?.alike.find((one) => one.name === name)?.then ?? 'apart'
const setThen = (name: string, what: string) =>
  change({ alike: { ...draft.value?.alike, [name]: what as 'apart' | 'ask' | 'weigh' } })
const passes = computed(() => draft.value?.passes ?? [])
const setPass = (at: number, pass: Pass) => change({ passes: passes.value.map((one, k) => (k === at ? pass : one)) })
function movePass(at: number, by: number) {
  const all = [...passes.value]
  const [moved] = all.splice(at, 1)
  if (moved) all.splice(at + by, 0, moved)
  change({ passes: all })
}
const { data: removed } = useQuery({
  queryKey: ['removed', review],
  queryFn: () => got(GET('/api/reviews/{review}/removed-copies', { params: path.value })),
})
const sources = computed(() => (removed.value?.sources ?? []).map((source) => source.source))
const trusted = computed(() => [
  ...(draft.value?.trust ?? []),
  ...sources.value.filter((source) => !(draft.value?.trust ?? []).includes(source)),
])
function trust(source: string, by: number) {
  const all = [...trusted.value]
  const at = all.indexOf(source)
  all.splice(at, 1)
  all.splice(Math.max(0, at + by), 0, source)
  change({ trust: all })
}
const problem = ref('')
async function tried() {
  problem.value = ''
  try {
    const said = await got(
      POST('/api/reviews/{review}/match-rule/check', {
        params: path.value,
        body: { rule: draft.value as unknown as Record<string, unknown> },
      }),
    )
    const { id } = await got(POST('/api/reviews/{review}/trials', { params: path.value, body: { text: said.text } }))
    await refresh('trials', 'jobs')
    await router.push(`/reviews/${review.value}/match/dry-runs/${id}`)
  } catch (failure) {
    problem.value = failure instanceof Error ? failure.message : String(failure)
  }
}
function startAgain() {
  const before = draft.value
  if (data.value) draft.value = copyOf(data.value.rule)
  say('The rule in force is shown again.', async () => {
    draft.value = before
  })
}
const file = ref<HTMLInputElement | null>(null)
async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const text = await input.files?.[0]?.text()
  input.value = ''
  if (text !== undefined) await show(text)
}
async function show(text: string) {
  problem.value = ''
  await attempt(async () => {
    draft.value = (
      await got(POST('/api/reviews/{review}/match-rule/read', { params: path.value, body: { text } }))
    ).rule
    say('Read. Try it to see what it would change.')
  })
}
const exported = computed(() => `/api/reviews/${review.value}/match-rule/export`)
const value = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div v-if="data && draft" class="panes columns">
      <Teleport to="#view-actions" defer>
        <span class="soft small">{{
          changed
            ? 'Changed, not tried'
            : data.own
              ? `Version ${data.rule.version} in force`
              : 'In force: as the program comes'
        }}</span>
        <v-btn v-if="changed" @click="startAgain">Back to what is in force</v-btn>
        <v-btn :href="exported" download>Export</v-btn>
        <template v-if="mayWrite"
          ><v-btn @click="file?.click()">Read a file …</v-btn
          ><input
            ref="file"
            class="unseen"
            type="file"
            accept=".toml,text/*"
            aria-label="A rule from a file"
            tabindex="-1"
            @change="read"
          /><v-btn class="main" @click="tried">Try it</v-btn></template
        >
      </Teleport>
      <section class="pane sheet pad" tabindex="0" aria-label="The rule">
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <div class="row names">
          <label class="small soft" for="rule-name">Name</label
          ><input
            id="rule-name"
            class="box"
            :value="draft.name"
            maxlength="80"
            :disabled="!mayWrite"
            @change="change({ name: value($event) })"
          /><label class="small"
            ><input
              type="checkbox"
              :checked="draft.weights"
              :disabled="!mayWrite"
              @change="change({ weights: ($event.target as HTMLInputElement).checked })"
            />
            Weigh the evidence where no pass decides</label
          >
        </div>
        <h2>
          Weights
          <span class="soft small">{{
            data.records
              ? `learnt from ${count(data.records)} copies of this review`
              : 'starting values; nothing was matched yet'
          }}</span>
        </h2>
        <Curve
          v-if="draft.weights && data.curve.length"
          :curve="data.curve"
          :join="join"
          :ask="ask"
          :automatic="automatic"
          :readonly="!mayWrite"
          @join="(w) => change({ join_from: w, ask_from: Math.min(ask, w) })"
          @ask="(w) => change({ ask_from: w, join_from: Math.max(join, w) })"
          @automatic="(on) => change(on ? { join_from: null, ask_from: null } : { join_from: join, ask_from: ask })"
        />
        <p v-else class="soft">
          {{
            draft.weights
              ? 'The curve of expected errors comes with the first matching.'
              : 'Only the passes decide; what none of them joins is left apart.'
          }}
        </p>
        <h2>
          Passes <span class="soft small">tried in this order; the first that holds for a pair decides on it</span>
        </h2>
        <PassEditor
          v-for="(pass, k) in passes"
          :key="k"
          :pass="pass"
          :number="k + 1"
          :last="k === passes.length - 1"
          :fields="data.fields"
          :closely="data.closely"
          :sources="sources"
          :readonly="!mayWrite"
          @change="(one) => setPass(k, one)"
          @remove="change({ passes: passes.filter((_, n) => n !== k) })"
          @move="(by) => movePass(k, by)"
        />
        <p v-if="!passes.length" class="soft">
          No pass. A pass is for what the team has agreed on, such as “title and year exactly, volume must not differ”.
        </p>
        <v-btn
          v-if="mayWrite && passes.length < 20"
          @click="change({ passes: [...passes, emptyPass(passes.length + 1)] })"
          >Add a pass</v-btn
        >
      </section>
      <aside class="pane" tabindex="0" aria-label="Look-alikes, trust and versions">
        <div class="head"><h2>Look-alikes</h2></div>
        <table class="small">
          <thead>
            <tr>
              <th>Kind</th>
              <th class="num">Pairs left apart</th>
              <th>What is done</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data.alike" :key="one.name">
              <td :title="one.says">
                {{ KINDS[one.name] ?? one.name }}
                <div class="soft says">{{ one.says }}</div>
              </td>
              <td class="num">{{ one.left_apart ? count(one.left_apart) : '' }}</td>
              <td>
                <select
                  class="box"
                  :value="then(one.name)"
                  :disabled="!mayWrite"
                  :aria-label="`What is done with ${KINDS[one.name] ?? one.name}`"
                  @change="setThen(one.name, value($event))"
                >
                  <option value="apart">left apart</option>
                  <option value="ask">asked</option>
                  <option value="weigh">weighed</option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
        <div class="head">
          <h2>Trust</h2>
          <span class="soft small">whose values the kept record takes</span>
        </div>
        <ol class="trust small">
          <li v-for="(source, k) in trusted" :key="source">
            <span :class="{ soft: !draft.trust?.length }">{{ source }}</span><template v-if="mayWrite"
              ><button
                class="link"
                :disabled="!k && !!draft.trust?.length"
                :aria-label="`Trust ${source} more`"
                @click="trust(source, -1)"
              >
                up</button
              ><button
                class="link"
                :disabled="k === trusted.length - 1"
                :aria-label="`Trust ${source} less`"
                @click="trust(source, 1)"
              >
                down
              </button></template
            >
          </li>
        </ol>
        <p v-if="!draft.trust?.length" class="soft small pad-line">
          No order yet: the fullest value counts. Move a source to set one.
        </p>
        <p v-else class="small pad-line">
          <button v-if="mayWrite" class="link" @click="change({ trust: [] })">Trust all alike</button>
        </p>
        <div class="head"><h2>Versions</h2></div>
        <table v-if="versions?.length" class="small">
          <tbody>
            <tr v-for="version in versions" :key="version.version">
              <td>{{ version.version }}</td>
              <td>
                {{ version.name }}
                <div class="soft">{{ version.by }}, {{ moment(version.at) }}</div>
              </td>
              <td class="num"><button class="link" @click="show(version.text)">Show</button></td>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft small pad-line">None yet. Applying a dry run makes the first.</p>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 380px;
}
h2 {
  margin: 16px 0 8px;
}
.head h2 {
  margin: 0;
}
.names {
  flex-wrap: wrap;
}
.names .box {
  width: 260px;
}
td .box {
  font-size: 12px;
}
.says {
  font-size: 11px;
  line-height: 14px;
}
.trust {
  margin: 4px 0;
  padding: 0 12px 0 32px;
}
.trust li > * {
  margin-right: 8px;
}
.pad-line {
  padding: 6px 12px;
}
</style>
