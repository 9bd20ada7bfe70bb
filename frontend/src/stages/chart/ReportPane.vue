<script setup lang="ts">
// The report beside the table: its PDF, or the abstract; a quote lit; marked words go into the cell.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { GET, got, POST } from '@/api/client'
import { useKeys } from '@/common/keys'
import PdfReader from '@/common/PdfReader.vue'
import { bare } from '@/common/pdf'
import { useReview } from '@/common/review'
import type { Study } from './layout'

const props = defineProps<{
  study: Study
  item: number
  /** What marked words go into, in words. */
  into: string
  quote: { text: string; page: number | null; record: number | null } | null
  mayWrite: boolean
  /** Marked words are taken as they are, without the value that they state. */
  asWords?: boolean
}>()
const emit = defineEmits<{
  /** A value that marked words state, or what was typed instead, with the words and where they stand. */
  take: [value: string, words: string, page: string, record: number]
}>()
const { review, path } = useReview()
const chosen = ref<number | null>(null)
watch(
  () => [props.study.id, props.quote?.record],
  () => (chosen.value = null),
)
const report = computed(
  () =>
    props.study.reports.find((report) => report.record_id === (chosen.value ?? props.quote?.record)) ??
    props.study.reports[0],
)
const { data: sheet } = useQuery({
  queryKey: ['records', review, computed(() => report.value?.record_id), 'whole'],
  enabled: computed(() => Boolean(report.value && !report.value.file)),
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/records/{record}/whole', {
        params: { path: { review: review.value, record: report.value!.record_id } },
      }),
    ),
})
const here = computed(() =>
  props.quote && (!props.quote.record || props.quote.record === report.value?.record_id) ? props.quote : null,
)
const there = ref(true)
watch(
  () => [here.value?.text, report.value?.file],
  () => (there.value = true),
)

/** The abstract in three parts: before the quote, the quote, after it. */
const abstract = computed(() => {
  const text = sheet.value?.fields.abstract ?? ''
  const wanted = bare(here.value?.text ?? '').letters
  const page = bare(text)
  const from = wanted ? page.letters.indexOf(wanted) : -1
  if (from < 0) return [text, '', '']
  const [begin, end] = [page.at[from]!, page.at[from + wanted.length - 1]! + 1]
  return [text.slice(0, begin), text.slice(begin, end), text.slice(end)]
})

const marked = ref<{ words: string; page: number } | null>(null)
const value = ref('')
let asked = 0
async function mark(words: string, page: number) {
  const mine = ++asked
  marked.value = words ? { words: words.slice(0, 4000), page } : null
  value.value = ''
  if (!words || !props.mayWrite || props.asWords) return
  const read = await got(
    POST('/api/reviews/{review}/proposals/marked', {
      params: path.value,
      body: { item: props.item, words: words.slice(0, 4000) },
    }),
  ).catch(() => ({ text: '' }))
  if (mine === asked) value.value = read.text
}
function markAbstract() {
  const selection = window.getSelection()
  void mark(selection && !selection.isCollapsed ? selection.toString().replace(/\s+/g, ' ').trim() : '', 0)
}
watch(
  () => [props.item, props.study.id, props.into],
  () => (marked.value = null),
)
function take() {
  if (!marked.value || !(props.asWords || value.value.trim()) || !report.value || !props.mayWrite) return
  emit(
    'take',
    value.value,
    marked.value.words,
    marked.value.page ? String(marked.value.page) : '',
    report.value.record_id,
  )
  marked.value = null
}
useKeys({ m: take })
</script>

<template>
  <section class="report" :aria-label="`Report: ${report?.title ?? ''}`">
    <nav v-if="study.reports.length > 1" class="row small reports" aria-label="Reports of this study">
      <button
        v-for="(one, k) in study.reports"
        :key="one.record_id"
        class="link clip"
        :class="{ chosen: one.record_id === report?.record_id }"
        :aria-pressed="one.record_id === report?.record_id"
        :title="one.title"
        @click="chosen = one.record_id"
      >
        {{ k + 1 }}. {{ one.title }}
      </button>
    </nav>
    <p v-if="here && !there" class="odd small note" role="status">
      The quote is no longer found in this file. It was: “{{ here.text }}”
    </p>
    <div v-if="marked && mayWrite" class="taking small" role="status">
      <span class="clip soft" :title="marked.words">“{{ marked.words }}”</span>
      <form class="row" @submit.prevent="take">
        <span v-if="asWords" class="small clip">{{ into }}</span>
        <TextField v-else v-model="value" :label="`${into}, from these words`" @keydown.esc="marked = null" />
        <v-btn type="submit" class="small push" :disabled="!asWords && !value.trim()"
          >{{ asWords ? 'They support it' : 'Take it' }}<kbd>M</kbd></v-btn
        >
      </form>
    </div>
    <PdfReader
      v-if="report?.file"
      :address="`/api/reviews/${review}/pdfs/${report.file}`"
      :name="report.filename || report.title"
      :quote="here"
      @marked="mark"
      @quoted="(one) => (there = one)"
    />
    <div
      v-else
      class="abstract pad"
      tabindex="0"
      role="region"
      aria-label="Abstract"
      @mouseup="markAbstract"
      @keyup="markAbstract"
    >
      <p class="odd small">No PDF is attached: this is the abstract only.</p>
      <h2 class="read">{{ report?.title }}</h2>
      <p v-if="sheet" class="read text">
        {{ abstract[0] }}<mark v-if="abstract[1]">{{ abstract[1] }}</mark
        >{{ abstract[2] }}{{ sheet.fields.abstract ? '' : 'It has no abstract either.' }}
      </p>
    </div>
  </section>
</template>

<style scoped>
.report {
  display: flex;
  flex-direction: column;
  min-height: 0;
  height: 100%;
}
.report > :last-child {
  flex: 1;
  min-height: 0;
}
.reports {
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.reports button {
  min-width: 0;
  max-width: 45%;
}
.note,
.taking {
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.taking {
  display: grid;
  gap: 4px;
  background: var(--ks-copper-wash);
}
.taking form {
  align-items: end;
}
.taking form > :first-child {
  flex: 1;
}
.abstract {
  overflow: auto;
  display: grid;
  gap: 10px;
  align-content: start;
}
.text {
  font-size: 15px;
  line-height: 24px;
}
mark {
  background: var(--ks-copper-wash);
  color: inherit;
  border-bottom: 2px solid var(--ks-copper);
}
</style>
