<script setup lang="ts">
// The query in another family of syntax, and a query of another syntax read in.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, PUT } from '@/api/client'
import { wasLate } from '@/common/late'
import { attempt, complain, say } from '@/common/messages'
import { useKeys } from '@/common/keys'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { useDraft } from './query/draft'
import QueryFault from './query/QueryFault.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const {
  data: list,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['syntaxes', review],
  queryFn: () => got(GET('/api/reviews/{review}/syntaxes', { params: path.value })),
})
const { data: history } = useQuery({
  queryKey: ['query-steps', review],
  queryFn: () => got(GET('/api/reviews/{review}/query/steps', { params: path.value })),
})
const { state, ready, put } = useDraft(
  review,
  computed(() => (history.value ? (history.value.steps[0]?.text ?? '') : undefined)),
)

const syntax = computed(() => list.value?.find((one) => one.key === route.query.syntax) ?? list.value?.[0])
const at = computed(() => ({ path: { review: review.value, key: syntax.value?.key ?? '' } }))
const choose = (key: string) => router.replace({ query: { syntax: key } })
function step(by: number) {
  const place = list.value?.findIndex((one) => one.key === syntax.value?.key) ?? 0
  const next = list.value?.[place + by]
  if (next) void choose(next.key)
}
const { data: written, error: writtenError } = useQuery({
  queryKey: ['trial', review, 'syntax', computed(() => syntax.value?.text ?? ''), computed(() => state.text)],
  queryFn: () =>
    got(POST('/api/reviews/{review}/syntaxes/{key}/write', { params: at.value, body: { text: state.text } })),
  enabled: computed(() => !!syntax.value && !!state.text),
  placeholderData: keepPreviousData,
})
async function copy() {
  if (!written.value?.text) return
  try {
    await navigator.clipboard.writeText(written.value.text)
    say(`Copied, ${syntax.value?.name}.`)
  } catch {
    complain(new Error('no clipboard'))
  }
}
async function log() {
  await router.push({
    path: `/reviews/${review.value}/gather`,
    query: { search: 'new' },
    state: { query: written.value?.text ?? '' },
  })
}

// a query of that syntax, read in
const foreign = ref('')
const { data: heard, isFetching: hearing } = useQuery({
  queryKey: ['trial', review, 'foreign', computed(() => syntax.value?.text ?? ''), foreign],
  queryFn: () =>
    got(POST('/api/reviews/{review}/syntaxes/{key}/read', { params: at.value, body: { text: foreign.value } })),
  enabled: computed(() => !!syntax.value && !!foreign.value.trim()),
  placeholderData: keepPreviousData,
})
async function take() {
  const before = state.text
  await put(heard.value?.text ?? '')
  say('It is the query now.', () => put(before))
}

// the codes of one's own database
const editing = ref(false)
const codes = ref('')
const key = ref('')
watch(syntax, (one, before) => {
  if (one?.key !== before?.key) editing.value = false
})
const before = ref(new Map<string, string>())
/** What stood under a name when the editing began. */
const begun = (name: string) => before.value.get(name) ?? ''
function edit() {
  before.value = new Map(list.value?.map((one) => [one.key, one.text]))
  codes.value = syntax.value?.text ?? ''
  key.value = syntax.value?.key ?? ''
  editing.value = true
}
async function keep(text = codes.value, seen = begun(key.value.trim())) {
  const name = key.value.trim()
  const params = { path: { review: review.value, key: name } }
  try {
    await got(PUT('/api/reviews/{review}/syntaxes/{key}', { params, body: { text, seen } }))
  } catch (failure) {
    if (!wasLate<string>(failure, keep, () => (editing.value = false))) complain(failure)
    return refresh('syntaxes')
  }
  await refresh('syntaxes')
  editing.value = false
  await choose(name)
  say('The syntax is kept for the team.')
}
async function forget() {
  const gone = syntax.value
  if (!gone) return
  const params = at.value
  if (!(await attempt(() => got(DELETE('/api/reviews/{review}/syntaxes/{key}', { params }))))) return
  await refresh('syntaxes')
  editing.value = false
  say(gone.shipped ? 'It is again as it came.' : `${gone.name} is removed.`, async () => {
    await got(PUT('/api/reviews/{review}/syntaxes/{key}', { params, body: { text: gone.text } }))
    await refresh('syntaxes')
  })
}
useKeys({ c: copy, ArrowDown: () => step(1), ArrowUp: () => step(-1) })
</script>

<template>
  <StateOf :pending="isPending || !ready" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <v-btn :disabled="!written?.text" @click="copy">Copy <kbd>C</kbd></v-btn>
        <v-btn v-if="mayWrite" class="main" :disabled="!written?.text" @click="log">Write into the log</v-btn>
      </Teleport>
      <nav class="pane pad kinds" aria-label="Syntaxes">
        <button
          v-for="one in list"
          :key="one.key"
          class="kind"
          :class="{ on: one.key === syntax?.key }"
          :aria-current="one.key === syntax?.key ? 'page' : undefined"
          @click="choose(one.key)"
        >
          {{ one.name }}<small v-if="one.own" class="soft"> · {{ one.shipped ? 'with your codes' : 'your own' }}</small>
        </button>
      </nav>
      <section class="pane sheet">
        <div v-if="editing" class="pad fields wide">
          <h2>{{ syntax?.name }}: its operators and codes</h2>
          <p class="soft small">
            A file in TOML. Write your database's codes in place of these; under another short name it becomes a syntax
            beside this one. An empty code says that there is none.
          </p>
          <TextField v-model="key" label="Short name" maxlength="40" spellcheck="false" />
          <textarea
            v-model="codes"
            class="box mono codes"
            rows="26"
            aria-label="Operators and codes"
            spellcheck="false"
          />
          <div class="row">
            <v-btn class="main" @click="keep()">Keep for the team</v-btn
            ><v-btn @click="editing = false">Leave as it was</v-btn>
          </div>
        </div>
        <template v-else>
          <div class="head">
            <h2 class="unseen">{{ syntax?.name }}</h2>
            <span class="soft small">{{ syntax?.about }}</span>
            <template v-if="mayWrite"
              ><v-btn class="push" @click="edit">Edit its codes</v-btn
              ><v-btn v-if="syntax?.own" @click="forget">{{
                syntax.shipped ? 'As it came' : 'Remove'
              }}</v-btn></template
            >
          </div>
          <p v-if="!state.text" class="pad soft">
            There is no query yet. <router-link :to="`/reviews/${review}/plan/query`">Compose one</router-link>, or read
            one in below.
          </p>
          <p v-else-if="writtenError" class="pad bad" role="alert">{{ (writtenError as Error).message }}</p>
          <template v-else-if="written">
            <div
              class="mono said"
              role="region"
              aria-label="The query in this syntax"
              tabindex="0"
              v-text="written.text || 'Nothing of the query can be said in this syntax.'"
            />
            <div class="pad">
              <h2>
                Not carried over <span class="soft">{{ written.losses.length || 'nothing' }}</span>
              </h2>
              <table v-if="written.losses.length" class="small">
                <tbody>
                  <tr v-for="loss in written.losses" :key="loss.part + loss.done">
                    <td class="mono part">{{ loss.part }}</td>
                    <td>{{ loss.done }}</td>
                  </tr>
                </tbody>
              </table>
              <template v-if="written.checks.length">
                <h2 class="below">
                  To look at before it is run <span class="soft">{{ written.checks.length }}</span>
                </h2>
                <table class="small">
                  <tbody>
                    <tr v-for="check in written.checks" :key="check.part">
                      <td class="mono part">{{ check.part }}</td>
                      <td class="odd">{{ check.done }}</td>
                    </tr>
                  </tbody>
                </table>
              </template>
            </div>
          </template>
          <div class="pad reading">
            <h2>Read a query in this syntax</h2>
            <textarea
              v-model="foreign"
              class="box mono foreign"
              rows="4"
              :aria-label="`A query in ${syntax?.name}`"
              spellcheck="false"
              placeholder="Paste it here"
            />
            <template v-if="foreign.trim() && heard">
              <QueryFault v-if="heard.problem" :problem="heard.problem" :text="foreign" />
              <template v-else>
                <p class="small soft" role="status">{{ hearing ? 'Reading …' : 'It says:' }}</p>
                <div class="mono">{{ heard.text }}</div>
                <p v-for="note in heard.notes" :key="note.message" class="small odd">{{ note.message }}</p>
                <v-btn v-if="mayWrite" class="take" @click="take">Make it the query</v-btn>
              </template>
            </template>
          </div>
        </template>
      </section>
      <aside class="pane pad" tabindex="0" aria-label="How it says things">
        <h2>How it says things</h2>
        <table class="small guide">
          <thead>
            <tr>
              <th>Here</th>
              <th>There</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in syntax?.guide" :key="one.ours">
              <td class="mono">{{ one.ours }}</td>
              <td :class="{ soft: one.done }">
                <span class="mono">{{ one.said || '—' }}</span>
                <div v-if="one.done" class="small odd">{{ one.done }}</div>
              </td>
            </tr>
          </tbody>
        </table>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 210px minmax(0, 1fr) 380px;
}
@media (max-width: 1200px) {
  .columns {
    grid-template-columns: 170px minmax(0, 1fr) 300px;
  }
}
.kinds {
  padding-inline: 0;
}
.kind {
  display: block;
  width: 100%;
  padding: 6px 14px;
}
.said {
  padding: 14px 16px;
  font-size: 13px;
  line-height: 21px;
  border-bottom: 1px solid var(--ks-hair);
  max-height: 38vh;
  overflow: auto;
}
.part {
  width: 42%;
}
.below {
  margin-top: 16px;
}
.reading {
  border-top: 1px solid var(--ks-hair);
  display: grid;
  gap: 8px;
  justify-items: start;
}
.foreign,
.codes {
  width: 100%;
  resize: vertical;
}
.wide {
  max-width: none;
}
.guide td:first-child {
  width: 46%;
}
.guide .mono {
  font-size: 11px;
}
</style>
