<script setup lang="ts">
// Naming studies: pasted lines, each answered before anything is added; a file; by hand.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { GET, got, POST, type Schemas } from '@/api/client'
import { plural } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import UploadBox from '@/common/UploadBox.vue'

const { review, path } = useReview()
const refresh = useRefresh()
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const chosen = ref<number | null | undefined>(undefined)
const catalogue = computed(() => (chosen.value === undefined ? (catalogues.value?.[0]?.id ?? null) : chosen.value))
const pasted = ref('')
const asking = ref(false)
const answers = ref<Schemas['SeedAnswer'][] | null>(null)
const left = ref(new Set<string>())
const keyOf = (answer: Schemas['SeedAnswer']) => `${answer.kind} ${answer.key}`
const wanted = computed(() =>
  (answers.value ?? []).filter(
    (answer) =>
      !left.value.has(keyOf(answer)) && !answer.seed && !(answer.state === 'nowhere' && answer.kind === 'title'),
  ),
)

async function lookUp() {
  asking.value = true
  try {
    answers.value = await got(
      POST('/api/reviews/{review}/seeds/look-up', {
        params: path.value,
        body: { text: pasted.value, catalogue: catalogue.value },
      }),
    )
    left.value = new Set(answers.value.filter((answer) => !answer.sure).map(keyOf))
  } catch (error) {
    complain(error)
  } finally {
    asking.value = false
  }
}
function leave(answer: Schemas['SeedAnswer']) {
  const next = new Set(left.value)
  if (!next.delete(keyOf(answer))) next.add(keyOf(answer))
  left.value = next
}
async function add() {
  const of = (state: string) => wanted.value.filter((one) => one.state === state)
  const body = {
    records: of('here').flatMap((one) => (one.record ? [one.record] : [])),
    keys: of('nowhere').map((one) => one.key),
    bring: of('catalogue').map((one) => one.doi || one.line),
    catalogue: catalogue.value,
  }
  asking.value = true
  const done = await attempt(async () => {
    const made = await got(POST('/api/reviews/{review}/seeds/add', { params: path.value, body }))
    say(
      [
        made.seeds ? `${plural(made.seeds, 'seed')} named` : '',
        made.brought ? `${made.brought} brought in from the catalogue` : '',
      ]
        .filter(Boolean)
        .join(', ') + '.',
    )
  })
  asking.value = false
  if (!done) return
  answers.value = null
  pasted.value = ''
  await refresh('seeds', 'figures', 'records', 'trial', 'searches', 'files')
}

const writing = ref(false)
const blank = { title: '', authors: '', year: '', journal: '', doi: '', abstract: '' }
const hand = reactive({ ...blank })
async function write() {
  const body = {
    ...hand,
    authors: hand.authors
      .split(/[;\n]/)
      .map((name) => name.trim())
      .filter(Boolean),
    year: hand.year.trim() ? Number(hand.year) : null,
  }
  if (!(await attempt(() => got(POST('/api/reviews/{review}/seeds/by-hand', { params: path.value, body }))))) return
  say('It is a seed.')
  Object.assign(hand, blank)
  writing.value = false
  await refresh('seeds', 'figures', 'records', 'trial', 'searches', 'files')
}
const missing = computed(() =>
  [!hand.abstract.trim() && 'abstract', !hand.authors.trim() && 'authors', !hand.year.trim() && 'year']
    .filter(Boolean)
    .join(', '),
)
</script>

<template>
  <div class="fields">
    <template v-if="!answers">
      <h2>Name studies</h2>
      <p class="soft small">
        DOIs, accession numbers, titles or whole references, one a line, in any mixture. Each line is answered before
        anything is added.
      </p>
      <TextArea v-model="pasted" label="Studies, one a line" rows="5" maxlength="200000" />
      <div class="row">
        <v-btn class="main" :disabled="!pasted.trim() || asking" @click="lookUp">{{
          asking ? 'Looking …' : 'Look them up'
        }}</v-btn>
        <label v-if="catalogues?.length" class="small soft push"
          >also in
          <select
            class="box"
            :value="catalogue ?? ''"
            @change="chosen = Number(($event.target as HTMLSelectElement).value) || null"
          >
            <option v-for="offered in catalogues" :key="offered.id" :value="offered.id">
              {{ offered.name }}
            </option>
            <option value="">no catalogue</option>
          </select></label
        >
      </div>
      <template v-if="!writing">
        <UploadBox
          :address="`/api/reviews/${review}/seeds/file`"
          label="A file of known studies"
          button="A file of studies"
          hint="RIS, NBIB, BibTeX, CSV, XLSX; at most 500"
          :refreshes="['seeds', 'figures', 'records', 'trial', 'searches', 'files']"
        />
        <p class="small"><button class="link" @click="writing = true">Write one down by hand</button></p>
      </template>
      <form v-else class="fields" @submit.prevent="write">
        <h2>By hand</h2>
        <TextField v-model="hand.title" label="Title" maxlength="1000" autofocus />
        <TextField v-model="hand.authors" label="Authors, separated by semicolons" />
        <div class="row">
          <TextField v-model="hand.year" label="Year" inputmode="numeric" maxlength="4" /><TextField
            v-model="hand.journal"
            label="Journal"
            maxlength="500"
          />
        </div>
        <TextField v-model="hand.doi" label="DOI" maxlength="300" />
        <TextArea v-model="hand.abstract" label="Abstract" rows="3" maxlength="50000" />
        <p v-if="hand.title.trim() && missing" class="small odd">Missing for screening: {{ missing }}.</p>
        <div class="row">
          <v-btn class="main" type="submit" :disabled="!hand.title.trim()">Add as a seed</v-btn
          ><v-btn @click="writing = false">Leave it</v-btn>
        </div>
      </form>
    </template>
    <template v-else>
      <h2>{{ plural(answers.length, 'line') }} looked up</h2>
      <table class="small">
        <tbody>
          <tr v-for="answer in answers" :key="keyOf(answer)">
            <td>
              <input
                type="checkbox"
                :checked="wanted.includes(answer)"
                :disabled="answer.seed || (answer.state === 'nowhere' && answer.kind === 'title')"
                :aria-label="`Add ${answer.line}`"
                @change="leave(answer)"
              />
            </td>
            <td class="named">
              <router-link v-if="answer.record" :to="`/reviews/${review}/screen?record=${answer.record}`">{{
                answer.title
              }}</router-link><template v-else>{{ answer.title || answer.line }}</template
              ><span v-if="answer.year" class="soft">{{ ` ${answer.year}` }}</span>
              <div v-if="answer.title && (answer.kind !== 'title' || !answer.sure)" class="soft">{{ answer.line }}</div>
            </td>
            <td class="what" :class="answer.state === 'here' && answer.sure ? 'soft' : 'odd'">
              {{
                answer.seed
                  ? 'a seed already'
                  : !answer.sure
                    ? 'much like it, not the same: look before you add it'
                    : answer.state === 'here'
                      ? 'found here'
                      : answer.state === 'catalogue'
                        ? 'in the catalogue: will be brought in'
                        : answer.kind === 'title'
                          ? 'not found'
                          : 'not found: waited for'
              }}
              <div v-if="answer.problem" class="bad">{{ answer.problem }}</div>
            </td>
          </tr>
        </tbody>
      </table>
      <div class="row">
        <v-btn class="main" :disabled="!wanted.length || asking" @click="add">{{
          asking ? 'Adding …' : `Add ${wanted.length} as seeds`
        }}</v-btn><v-btn @click="answers = null">Back to the lines</v-btn>
      </div>
    </template>
  </div>
</template>

<style scoped>
.what {
  min-width: 118px;
}
.named {
  overflow-wrap: anywhere;
}
</style>
