<script setup lang="ts">
// One record: by its DOI or accession number, from a PDF, or typed; always shown and corrected before it comes in.
import { computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { got, POST, upload, type Schemas } from '@/api/client'
import { KIND_WORDS, SOURCE_KINDS } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const router = useRouter()
const asked = ref('')
const answer = ref<Schemas['OneFound'] | null>(null)
const busy = ref(false)
const blank = () => ({
  source: '',
  source_kind: 'citation' as Schemas['OneRecord']['source_kind'],
  kind: 'article',
  title: '',
  authors: '',
  year: '',
  journal: '',
  volume: '',
  issue: '',
  pages: '',
  doi: '',
  accession: '',
  abstract: '',
  language: '',
  url: '',
  label: '',
})
const form = reactive(blank())
const pdf = ref<File | null>(null)
const kinds = Object.entries(KIND_WORDS).map(([value, title]) => ({ value, title }))

function propose(found: Schemas['OneFound']) {
  answer.value = found
  const fields = found.fields
  if (!fields) return
  Object.assign(form, {
    ...blank(),
    source: form.source,
    source_kind: form.source_kind,
    label: form.label,
    kind: fields.kind,
    title: fields.title,
    authors: fields.authors.join('\n'),
    year: fields.year ? String(fields.year) : '',
    journal: fields.journal,
    volume: fields.volume,
    issue: fields.issue,
    pages: fields.pages,
    doi: fields.doi,
    accession: fields.accession,
    abstract: fields.abstract,
    language: fields.language,
    url: fields.url,
  })
}
async function lookUp() {
  busy.value = true
  pdf.value = null
  await attempt(async () =>
    propose(await got(POST('/api/reviews/{review}/one/look-up', { params: path.value, body: { text: asked.value } }))),
  )
  busy.value = false
}
const input = ref<HTMLInputElement | null>(null)
const over = ref(false)
async function read(files: FileList | null | undefined) {
  const file = files?.[0]
  if (!file) return
  busy.value = true
  try {
    propose((await upload(`/api/reviews/${review.value}/one/pdf`, file, () => {})) as unknown as Schemas['OneFound'])
    pdf.value = file
  } catch (failure) {
    complain(failure)
  }
  busy.value = false
  if (input.value) input.value.value = ''
}
const lacking = computed(() =>
  [
    ['title', form.title],
    ['abstract', form.abstract],
    ['authors', form.authors],
    ['year', form.year],
  ]
    .filter(([, value]) => !String(value).trim())
    .map(([name]) => name),
)
async function add() {
  busy.value = true
  await attempt(async () => {
    const body = {
      ...form,
      authors: form.authors
        .split('\n')
        .map((author) => author.trim())
        .filter(Boolean),
      year: form.year.trim() ? Number(form.year) : null,
    } as Schemas['OneRecord']
    const { id } = await got(POST('/api/reviews/{review}/one', { params: path.value, body }))
    if (pdf.value) await upload(`/api/reviews/${review.value}/records/${id}/pdf`, pdf.value, () => {})
    say('The record is in; copies of it are being looked for.')
    await refresh('figures', 'records', 'searches', 'files')
    await router.push(`/reviews/${review.value}/records/${id}`)
  })
  busy.value = false
}
</script>

<template>
  <div class="panes columns">
    <aside class="pane pad">
      <h2>One record</h2>
      <form class="fields gap" @submit.prevent="lookUp">
        <TextField v-model="asked" label="DOI or accession number" maxlength="300" autofocus />
        <div><v-btn type="submit" :disabled="busy || !asked.trim() || !mayWrite">Look it up</v-btn></div>
      </form>
      <div
        class="drop"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="((over = false), read($event.dataTransfer?.files))"
      >
        <input
          ref="input"
          type="file"
          accept="application/pdf,.pdf"
          class="unseen"
          aria-label="PDF of a record"
          @change="read(input?.files)"
        />
        <v-btn :disabled="busy || !mayWrite" @click="input?.click()">From a PDF</v-btn
        ><span class="small soft">or drop it here: title, authors, year and DOI are proposed from its text</span>
      </div>
      <p v-if="busy" class="small soft" role="status">One moment …</p>
      <template v-else-if="answer">
        <p v-if="answer.here" class="odd" role="status">
          It is here already:
          <router-link :to="`/reviews/${review}/records/${answer.here}`">{{ answer.title }}</router-link>
        </p>
        <p v-else-if="answer.problem" class="odd" role="alert">{{ answer.problem }}</p>
        <p v-else class="soft" role="status">Proposed from {{ answer.source }}. Check it, and correct what is wrong.</p>
      </template>
    </aside>
    <section class="pane sheet pad">
      <form class="fields grid" @submit.prevent="add">
        <TextArea v-model="form.title" label="Title" rows="1" class="wide" maxlength="3000" />
        <TextArea v-model="form.authors" label="Authors, one a line: Family, Given" rows="3" class="wide" />
        <TextField v-model="form.year" label="Year" inputmode="numeric" maxlength="4" /><ChoiceField
          v-model="form.kind"
          :items="kinds"
          label="Kind"
        />
        <TextField v-model="form.journal" label="Journal or place" class="wide" maxlength="1000" />
        <TextField v-model="form.volume" label="Volume" maxlength="60" /><TextField
          v-model="form.issue"
          label="Issue"
          maxlength="60"
        />
        <TextField v-model="form.pages" label="Pages" maxlength="60" /><TextField
          v-model="form.doi"
          label="DOI"
          maxlength="300"
        />
        <TextField v-model="form.accession" label="Accession" maxlength="200" /><TextField
          v-model="form.language"
          label="Language"
          maxlength="100"
        />
        <TextArea v-model="form.abstract" label="Abstract" rows="5" class="wide" maxlength="50000" />
        <TextField v-model="form.url" label="Address" class="wide" maxlength="2000" />
        <TextField v-model="form.source" label="Found in; empty: added by hand" maxlength="200" /><ChoiceField
          v-model="form.source_kind"
          :items="[...SOURCE_KINDS]"
          label="Kind of source"
        />
        <TextField v-model="form.label" label="Label, if you like" maxlength="100" /><span />
        <p v-if="lacking.length" class="wide small" :class="lacking.includes('title') ? 'odd' : 'soft'">
          For screening it lacks {{ lacking.join(', ') }}.
        </p>
        <p v-if="pdf" class="wide small soft">{{ pdf.name }} is kept as its full text.</p>
        <div class="wide">
          <v-btn type="submit" class="main" :disabled="busy || !form.title.trim() || !mayWrite">Take it in</v-btn>
        </div>
      </form>
    </section>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: 320px minmax(0, 1fr);
}
.gap {
  margin: 12px 0;
}
.drop {
  border: 1px dashed var(--ks-hair);
  border-radius: 3px;
  padding: 12px;
  display: grid;
  gap: 8px;
  justify-items: start;
  margin: 16px 0;
}
.drop.over {
  border-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.grid {
  grid-template-columns: 1fr 1fr;
}
.grid .wide {
  grid-column: 1 / -1;
}
</style>
