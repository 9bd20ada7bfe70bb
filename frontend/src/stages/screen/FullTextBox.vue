<script setup lang="ts">
// What became of a full text: sought, obtained with its PDF, or not obtained and why.
import { ref } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { DELETE, GET, got, POST, PUT, Refusal, upload, type Schemas } from '@/api/client'
import { FULL_TEXT_WORDS } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'

const props = defineProps<{
  sheet: Pick<Schemas['Sheet'], 'id' | 'fulltext' | 'full_text'>
  review: number
  mayWrite: boolean
}>()
const emit = defineEmits<{ changed: [] }>()
const reason = ref('')
const asking = ref(false)
const input = ref<HTMLInputElement | null>(null)
const set = (state: Schemas['NewState']['state'], why = '') =>
  got(
    PUT('/api/reviews/{review}/records/{record}/full-text', {
      params: { path: { review: props.review, record: props.sheet.id } },
      body: { state, reason: why },
    }),
  )

async function become(state: Schemas['NewState']['state'], why = '') {
  const before = props.sheet
  if (await attempt(() => set(state, why))) {
    asking.value = false
    say(`Full text: ${FULL_TEXT_WORDS[state]!.toLowerCase()}.`, () =>
      set(before.fulltext, before.full_text?.reason ?? ''),
    )
  }
  emit('changed')
}
const { data: usual } = useQuery({
  queryKey: ['full-text-reasons', () => props.review],
  queryFn: () => got(GET('/api/reviews/{review}/full-texts/reasons', { params: { path: { review: props.review } } })),
  enabled: asking,
})
async function takeOff() {
  const params = { path: { review: props.review, record: props.sheet.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/records/{record}/pdf', { params }))))
    say(`${props.sheet.full_text?.filename || 'The PDF'} is taken off.`, () =>
      got(POST('/api/reviews/{review}/records/{record}/pdf/back', { params })),
    )
  emit('changed')
}
async function attach() {
  const file = input.value?.files?.[0]
  if (!file) return
  try {
    await upload(`/api/reviews/${props.review}/records/${props.sheet.id}/pdf`, file, () => undefined)
    say(`${file.name} is attached.`)
  } catch (error) {
    complain(error instanceof Refusal ? error : new Refusal(String(error), 0))
  }
  if (input.value) input.value.value = ''
  emit('changed')
}
</script>

<template>
  <div class="full-text small">
    <div class="row">
      <b class="soft">Full text</b><span>{{ FULL_TEXT_WORDS[sheet.fulltext] }}</span>
      <a
        v-if="sheet.full_text?.file_id"
        class="push"
        :href="`/api/reviews/${review}/pdfs/${sheet.full_text.file_id}`"
        target="_blank"
        rel="noopener"
        >Open the PDF</a
      >
    </div>
    <p v-if="sheet.fulltext === 'missing'" class="odd">{{ sheet.full_text?.reason }}</p>
    <div v-if="mayWrite" class="row wrap">
      <input
        ref="input"
        type="file"
        accept="application/pdf,.pdf"
        class="unseen"
        tabindex="-1"
        aria-label="PDF of the full text"
        @change="attach"
      />
      <v-btn @click="input?.click()">Attach PDF</v-btn>
      <v-btn v-if="sheet.full_text?.file_id" @click="takeOff">Take the PDF off</v-btn>
      <v-btn v-if="sheet.fulltext !== 'obtained'" @click="become('obtained')">Obtained</v-btn>
      <v-btn v-if="sheet.fulltext !== 'missing'" @click="asking = !asking">Not obtained</v-btn>
      <v-btn v-if="sheet.fulltext !== 'sought'" @click="become('sought')">Still sought</v-btn>
    </div>
    <form v-if="asking" class="fields" @submit.prevent="become('missing', reason)">
      <TextField
        v-model="reason"
        label="Why could it not be obtained?"
        autofocus
        maxlength="2000"
        list="full-text-reasons"
      />
      <datalist id="full-text-reasons"><option v-for="one in usual ?? []" :key="one" :value="one" /></datalist>
      <v-btn type="submit" :disabled="!reason.trim()">Write down</v-btn>
    </form>
  </div>
</template>

<style scoped>
.full-text {
  display: grid;
  gap: 6px;
  margin-bottom: 14px;
}
</style>
