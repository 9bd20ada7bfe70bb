<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { guideOpen } from '@/common/guide'
import { attempt } from '@/common/messages'
import VerdictMark from '@/common/VerdictMark.vue'
import { plural, VERDICT_WORDS } from '@/common/format'
import type { Decision } from './desk'

const props = defineProps<{
  sheet: Schemas['Sheet'] | null
  criteria: (Schemas['Criterion'] & { number: number })[]
  recent: Schemas['Own'][]
  mayWrite: boolean
  review: number
  pass: number
}>()
const emit = defineEmits<{ decide: [said: Decision]; takeBack: [record?: number]; noted: [] }>()
const route = useRoute()
const note = ref('')
const field = ref<HTMLTextAreaElement | null>(null)
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const mine = () => props.sheet?.notes.find((note) => note.account_id === me.value?.id)?.text ?? ''
/** Notes that name one, and the colleagues whom one may name. */
const { data: toMe } = useQuery({
  queryKey: ['notes', computed(() => props.review)],
  queryFn: () => got(GET('/api/reviews/{review}/notes-to-me', { params: { path: { review: props.review } } })),
})
const waiting = computed(() => toMe.value?.filter((one) => !one.done).length ?? 0)
const naming = ref(false)
const { data: members } = useQuery({
  queryKey: ['members', computed(() => props.review)],
  enabled: naming,
  queryFn: () => got(GET('/api/reviews/{review}/members', { params: { path: { review: props.review } } })),
})
/** Whose names begin as what stands after the last @. */
const calls = computed(() => {
  const begun = /(?:^|[^\w@])@([\w.-]*)$/.exec(note.value)?.[1]?.toLowerCase()
  return begun === undefined
    ? []
    : (members.value ?? []).filter(
        (one) =>
          !one.removed_at && one.id !== me.value?.id && one.name.toLowerCase().startsWith(begun) && one.name !== begun,
      )
})
watch(note, (text) => text.includes('@') && (naming.value = true))
function call(name: string) {
  note.value = `${note.value.replace(/@[\w.-]*$/, '')}@${name} `
  field.value?.focus()
}
const others = computed(() =>
  (props.sheet?.notes ?? []).filter((note) => note.account_id !== me.value?.id && note.text),
)
let noteOf: number | undefined
let before = ''
watch(
  [() => props.sheet?.id, me],
  ([id]) => {
    noteOf = id
    note.value = before = mine()
  },
  { immediate: true },
)

/** Save the note of the record that is being left. */
async function flush() {
  const record = noteOf
  if (!record || note.value === before) return
  const text = note.value
  before = text
  await attempt(() =>
    got(
      PUT('/api/reviews/{review}/records/{record}/note', {
        params: { path: { review: props.review, record } },
        body: { text },
      }),
    ),
  )
}
async function leave() {
  field.value?.blur() // at once: the next key is for the desk
  await flush()
  emit('noted')
}
defineExpose({ flush, focusNote: () => field.value?.focus() })
</script>

<template>
  <div class="verdicts">
    <template v-if="mayWrite">
      <div class="row buttons">
        <v-btn class="main" :disabled="!sheet" @click="emit('decide', { verdict: 'include' })"
          >Include <kbd>Enter</kbd></v-btn
        >
        <v-btn :disabled="!sheet" @click="emit('decide', { verdict: 'unsure' })"
          ><VerdictMark verdict="unsure" words="" />&nbsp;Unsure <kbd>0</kbd></v-btn
        >
      </div>
      <b class="small soft">Exclude, because</b>
      <ol>
        <li v-for="criterion in criteria" :key="criterion.id ?? criterion.number">
          <button
            :disabled="!sheet"
            :title="criterion.wording"
            @click="emit('decide', { verdict: 'exclude', criterion: criterion.id })"
          >
            <kbd>{{ criterion.number }}</kbd> {{ criterion.name }}
          </button>
        </li>
      </ol>
      <p v-if="!criteria.length" class="odd small">
        This pass has no criterion: a lead writes them under
        <router-link :to="`/reviews/${review}/plan`">Plan</router-link>.
      </p>
    </template>
    <p v-else class="soft small">Observers look, and decide nothing.</p>
    <label class="small soft" for="note"><b>Note</b> <kbd v-if="mayWrite">N</kbd></label>
    <textarea
      id="note"
      ref="field"
      v-model="note"
      rows="3"
      maxlength="10000"
      :readonly="!mayWrite"
      placeholder="What a colleague should know; @ calls one"
      @blur="flush"
      @keydown.tab="calls[0] && ($event.preventDefault(), call(calls[0].name))"
      @keydown.esc.prevent="leave"
      @keydown.enter.exact.prevent="leave"
    />
    <p v-if="calls.length" class="small calls">
      <button v-for="one in calls" :key="one.id" class="link" @mousedown.prevent @click="call(one.name)">
        @{{ one.name }} <span class="soft">{{ one.full_name }}</span>
      </button>
    </p>
    <p v-if="sheet?.blind && /(^|[^\w@])@\w/.test(note)" class="small soft">
      Whom it calls sees it once all readers of this record have decided.
    </p>
    <p v-if="waiting" class="small">
      <router-link :to="`/reviews/${review}/screen/standing`">{{ plural(waiting, 'note') }} to you</router-link>
    </p>
    <p v-for="other in others" :key="other.account_id" class="small soft">{{ other.by }}: {{ other.text }}</p>
    <b class="small soft">Your last decisions</b>
    <ul class="small">
      <li v-for="one in recent.slice(0, 7)" :key="one.id" class="done" :class="{ gone: one.withdrawn }">
        <router-link :to="{ query: { ...route.query, record: String(one.record_id) } }" class="past"
          ><VerdictMark :verdict="one.verdict" /><span class="clip">{{ one.title }}</span
          ><span class="soft clip">{{
            one.withdrawn ? 'taken back' : one.criterion || VERDICT_WORDS[one.verdict]
          }}</span></router-link
        >
        <button
          v-if="mayWrite && !one.withdrawn"
          class="soft"
          title="Take back"
          :aria-label="`Take back: ${one.title}`"
          @click="emit('takeBack', one.record_id)"
        >
          ⌫
        </button>
      </li>
      <li v-if="!recent.length" class="soft">None in this pass yet.</li>
    </ul>
    <p class="small soft keys">
      <button class="quiet" :disabled="!mayWrite" @click="emit('takeBack')">Take back <kbd>⌫</kbd></button>
      <span>Move <kbd>↑</kbd> <kbd>↓</kbd></span>
      <button class="quiet" @click="guideOpen = true">All keys <kbd>?</kbd></button>
    </p>
  </div>
</template>

<style scoped>
.verdicts {
  display: grid;
  gap: 4px;
  align-content: start;
}
.buttons {
  margin-bottom: 8px;
}
.buttons .v-btn {
  flex: 1;
  padding: 0 8px;
}
ol,
ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
}
ol li {
  border-bottom: 1px solid var(--ks-hair);
}
ol button {
  width: 100%;
  text-align: left;
  padding: 5px 0;
  display: grid;
  grid-template-columns: 34px minmax(0, 1fr);
  color: inherit;
  align-items: start;
}
ol button kbd {
  justify-self: start;
}
ol button:hover:not(:disabled) {
  background: var(--ks-wash);
}
textarea {
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  background: var(--ks-sheet);
  padding: 6px 8px;
  width: 100%;
  resize: vertical;
  font: inherit;
  color: inherit;
  margin-bottom: 10px;
}
textarea::placeholder {
  color: var(--ks-soft);
  opacity: 1;
}
ul li {
  border-bottom: 1px solid var(--ks-hair);
}
.done {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 6px;
  align-items: center;
}
.past {
  display: grid;
  grid-template-columns: 16px minmax(0, 1fr) 84px;
  gap: 4px;
  padding: 5px 0;
  color: inherit;
  text-decoration: none;
  align-items: center;
}
.gone .clip {
  text-decoration: line-through;
}
.gone .soft.clip {
  text-decoration: none;
}
.keys {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
}
.quiet {
  color: inherit;
}
</style>
