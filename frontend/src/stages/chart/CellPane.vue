<script setup lang="ts">
// The cell in focus: its value and how it came, what is proposed for it, and the report with the quote lit;
// its history; its study with reports and arms.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { GET, got, type Schemas } from '@/api/client'
import { moment } from '@/common/format'
import { complain, say } from '@/common/messages'
import { useReview } from '@/common/review'
import { useAnswers } from './answers'
import type { Evidence } from './evidence'
import { FACTORS, keyOf, nameOf, type Place, type Study, sureness } from './layout'
import ReportPane from './ReportPane.vue'
import StudyParts from './StudyParts.vue'
import WorkOut from './WorkOut.vue'

const props = defineProps<{
  place: Place
  study: Study
  evidence: Evidence
  proposed: boolean
  mayWrite: boolean
  wide: number
}>()
const emit = defineEmits<{ accept: []; widen: [width: number] }>()
const HOW: Record<string, string> = {
  typed: 'typed',
  pasted: 'pasted',
  marked: 'marked in the report',
  accepted: 'accepted as proposed',
  changed: 'corrected from a proposal',
  derived: 'worked out from other numbers',
  carried: 'carried over',
  agreed: 'as both read it, first',
  settled: 'settled',
}
const { review } = useReview()
const tab = ref<'report' | 'history' | 'work' | 'study'>('report')
const data = computed(() => props.evidence.data.value)
const item = computed(() => data.value?.items.find((item) => item.id === props.place.item))
const name = computed(() => nameOf(props.place, data.value?.items ?? [], data.value?.levels ?? []))
const value = computed(() => props.evidence.value(props.place))
const failed = computed(() => props.evidence.wrong.get(keyOf(props.place)))
const at = computed(() => ({
  path: { review: review.value, study: props.place.study, item: props.place.item },
  query: Object.fromEntries(FACTORS.flatMap((factor) => (props.place[factor] ? [[factor, props.place[factor]]] : []))),
}))
const { data: past } = useQuery({
  queryKey: ['cell', review, computed(() => keyOf(props.place))],
  queryFn: () => props.evidence.history(props.place),
})
/** What stands, or what the person read for themselves while nothing does. */
const now = computed(() => past.value?.find((one) => one.own === Boolean(value.value?.read)))

/** Two read this cell: what others have read of it, as far as one may know. */
const { data: extraction } = useQuery({
  queryKey: ['extraction', review],
  queryFn: () => got(GET('/api/reviews/{review}/extraction', { params: { path: { review: review.value } } })),
})
const mode = computed(() => extraction.value?.mode)
const double = computed(
  () =>
    mode.value &&
    mode.value.second !== 'nobody' &&
    (mode.value.items?.includes(props.place.item) ?? true) &&
    (mode.value.studies?.includes(props.place.study) ?? true),
)
const { data: readings } = useQuery({
  queryKey: ['cell', review, computed(() => keyOf(props.place)), 'readings'],
  enabled: double,
  queryFn: () => got(GET('/api/reviews/{review}/extraction/readings/{study}/{item}', { params: at.value })),
})
const { data: proposals } = useQuery({
  queryKey: ['proposals', review, computed(() => keyOf(props.place))],
  enabled: computed(() => props.proposed),
  queryFn: () => got(GET('/api/reviews/{review}/proposals/{study}/{item}', { params: at.value })),
})
const first = computed(() => (props.proposed && !value.value ? proposals.value?.[0] : undefined))
const quote = computed(() => {
  if (first.value) return { text: first.value.quote, page: first.value.page ?? null, record: first.value.record }
  const value = now.value
  return value?.text && value.quote
    ? { text: value.quote, page: Number(value.page) || null, record: value.record ?? null }
    : null
})

const answers = useAnswers()
async function refuse() {
  try {
    const { stroke } = await answers.refuse(props.place)
    say('None of what is proposed is right.', () => answers.takeBack(stroke), 'proposal')
  } catch (failure) {
    complain(failure)
  }
  await answers.renewed()
}
const take = (text: string, words: string, page: string, record: number) =>
  props.evidence.write([
    { ...props.place, text, seen: value.value?.text ?? '', quote: words, page, record, how: 'marked' },
  ])

/** "Worked out from n 36, mean 12, se 0.5" for a value. */
function givensOf(from: Schemas['WorkedOutFrom']) {
  const arms = (from.arms ?? []).map(
    (id) => data.value?.levels.find((one) => one.id === id)?.name ?? 'an arm that is gone',
  )
  const said = Object.entries(from.givens ?? {}).map(([name, value]) => `${name.replace('_', ' ')} ${value}`)
  return `Worked out from ${[...arms, ...said].join(', ')}`
}
const words = ref('')
const page = ref('')
watch(now, (one) => ((words.value = one?.text ? one.quote : ''), (page.value = one?.text ? one.page : '')), {
  immediate: true,
})
const changed = computed(() => words.value !== (now.value?.quote ?? '') || page.value !== (now.value?.page ?? ''))
const keepQuote = () =>
  props.evidence.write([
    {
      ...props.place,
      text: value.value?.text ?? '',
      seen: value.value?.text ?? '',
      quote: words.value,
      page: page.value,
      record: now.value?.record,
      how: 'typed',
    },
  ])
const WIDTHS = [340, 480, 640, 820]
const wider = () => emit('widen', WIDTHS.find((width) => width > props.wide) ?? WIDTHS[0]!)
</script>

<template>
  <aside class="pane sheet cell" :aria-label="`${name} of ${study.label}`">
    <div class="head">
      <b class="clip">{{ name }}</b><span class="soft small clip">{{ study.label }}</span>
      <button class="link small push" :title="wide >= 820 ? 'Narrow' : 'Wider'" @click="wider">
        {{ wide >= 820 ? '⇥' : '⇤' }}<span class="unseen">{{ wide >= 820 ? 'Narrow pane' : 'Wider pane' }}</span>
      </button>
    </div>
    <div class="now">
      <template v-if="first">
        <div class="line">
          <b class="value">{{ first.text }}</b>
          <span class="soft small"
            >proposed{{ first.model ? ` by ${first.model}` : ''
            }}{{ first.page ? ` from page ${first.page}` : ' from the abstract' }},
            {{ sureness(first.confidence) }} sure</span
          >
        </div>
        <div v-if="mayWrite" class="row">
          <v-btn class="main" @click="emit('accept')">Accept<kbd>Ctrl Enter</kbd></v-btn>
          <v-btn @click="refuse">Refuse</v-btn>
          <router-link class="small push" :to="`/reviews/${review}/chart/proposals?cell=${keyOf(place)}`"
            >All that is proposed</router-link
          >
        </div>
      </template>
      <div v-else class="line">
        <b class="value">{{ value ? (value.shown ?? value.text) : 'No value yet' }}</b>
        <span v-if="now?.text" class="soft small"
          >{{ HOW[now.how] ?? now.how }} by {{ now.by }}, {{ moment(now.at) }}</span
        ><span v-if="now?.text && now.model" class="small whole-line"
          ><span class="by-model">model</span> proposed by {{ now.model }}</span
        >
      </div>
      <p v-if="now?.text && now.derived" class="small soft">{{ givensOf(now.derived) }}: {{ now.derived.by }}</p>
      <div v-if="double" class="small double">
        <template v-if="!value || value.read"
          ><p>
            {{
              value?.read === 'differs'
                ? 'Read by two, differently.'
                : value
                  ? 'Your reading; it enters the table when the second one is the same.'
                  : mode?.second === 'proposals'
                    ? 'Read it yourself; it is compared with what is proposed.'
                    : mode?.blind
                      ? 'Two read this, each without seeing the other’s.'
                      : 'Two read this.'
            }}
            <router-link
              v-if="value?.read === 'differs'"
              :to="`/reviews/${review}/chart/differences?cell=${keyOf(place)}`"
              >Side by side</router-link
            >
          </p></template
        >
        <p v-for="reading in readings" :key="reading.account" class="soft">
          {{ reading.by }} read <b>{{ reading.text }}</b>, {{ moment(reading.at) }}
        </p>
      </div>
      <p v-if="failed" class="bad small" role="alert">{{ failed.message }}</p>
      <p v-else-if="value?.unfit" class="bad small" role="alert">
        It does not fit its item any more: {{ value.unfit }}.
      </p>
      <p v-if="item?.instructions" class="small soft">
        {{ item.instructions }}{{ item.examples ? ` For example: ${item.examples}` : '' }}
      </p>
    </div>
    <div class="row tabs small" role="tablist">
      <button
        v-for="[key, label] in [
          ['report', 'Report'],
          ['history', 'Quote and history'],
          ['work', 'Work it out'],
          ['study', 'Study'],
        ] as const"
        :key="key"
        role="tab"
        class="link"
        :class="{ chosen: tab === key }"
        :aria-selected="tab === key"
        @click="tab = key"
      >
        {{ label }}
      </button>
    </div>
    <ReportPane
      v-if="tab === 'report'"
      :study="study"
      :item="place.item"
      :into="name"
      :quote="quote"
      :may-write="mayWrite"
      @take="take"
    />
    <div v-else-if="tab === 'history'" class="pad fields scroll">
      <form class="fields" @submit.prevent="keepQuote">
        <TextArea
          v-model="words"
          label="Quote that it comes from"
          rows="3"
          class="read"
          :readonly="!mayWrite"
          maxlength="4000"
        />
        <div class="row">
          <TextField v-model="page" label="Page" :readonly="!mayWrite" maxlength="40" /><v-btn
            v-if="mayWrite"
            type="submit"
            :disabled="!changed || !value"
            >Keep the quote</v-btn
          >
        </div>
      </form>
      <h3>History of this value</h3>
      <ul class="small ruled">
        <li v-for="(one, k) in past ?? []" :key="k">
          {{ one.text || 'empty' }}
          <span class="soft"
            >{{ one.own ? 'your reading, ' : '' }}{{ HOW[one.how] ?? one.how
            }}{{ one.model ? `, proposed by ${one.model},` : '' }} by {{ one.by }}, {{ moment(one.at) }}</span
          >
        </li>
        <li v-if="!past?.length" class="soft">Nothing was written here yet.</li>
      </ul>
    </div>
    <WorkOut
      v-else-if="tab === 'work' && item"
      :key="keyOf(place)"
      :place="place"
      :item="item"
      :evidence="evidence"
      :from="now?.text ? (now.derived ?? null) : null"
      :may-write="mayWrite"
    />
    <StudyParts
      v-else
      :key="study.id"
      :study="study"
      :evidence="evidence"
      :may-write="mayWrite"
      @changed="answers.renewed()"
    />
  </aside>
</template>

<style scoped>
.cell {
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
.cell > :last-child {
  flex: 1;
  min-height: 0;
}
.now {
  display: grid;
  gap: 6px;
  padding: 10px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 10px;
}
.value {
  font-size: 17px;
  line-height: 24px;
  overflow-wrap: anywhere;
}
.double {
  display: grid;
  gap: 2px;
}
.tabs {
  gap: 16px;
  padding: 6px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.scroll {
  overflow: auto;
  align-content: start;
}
</style>
