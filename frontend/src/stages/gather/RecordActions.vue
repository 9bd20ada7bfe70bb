<script setup lang="ts">
// What can be done with records that were picked: labelled, set aside under a name, let in again, written to a file.
import { useQuery } from '@tanstack/vue-query'
import { nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import MoreFromCatalogue from './MoreFromCatalogue.vue'

const props = defineProps<{ records: number[]; label: number; aside: boolean }>()
const emit = defineEmits<{ export: []; none: [] }>()
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const router = useRouter()
const { data: labels } = useQuery({
  queryKey: ['labels', review],
  queryFn: () => got(GET('/api/reviews/{review}/labels', { params: path.value })),
})

const naming = ref<false | 'label' | 'aside'>(false)
const name = ref('')
const box = ref<HTMLInputElement | null>(null)
async function ask(what: 'label' | 'aside') {
  if (!mayWrite.value || !props.records.length || (what === 'aside' && props.aside)) return
  naming.value = what
  await nextTick()
  box.value?.focus()
}
function done() {
  naming.value = false
  name.value = ''
  emit('none')
}

async function putLabel(said: string) {
  const body = { name: said, records: props.records }
  const made = await got(POST('/api/reviews/{review}/labels', { params: path.value, body }))
  const params = { path: { review: review.value, label: made.label } }
  say(`${plural(made.copies.length, 'record')} labelled “${said}”.`, async () => {
    const back = { copies: made.copies, only: true }
    if (made.copies.length) await got(POST('/api/reviews/{review}/labels/{label}/take', { params, body: back }))
    await refresh('records', 'labels', 'lists')
  })
}
async function setAside(said: string) {
  const body = { name: said, records: props.records }
  const made = await got(POST('/api/reviews/{review}/narrowings/picked', { params: path.value, body }))
  const params = { path: { review: review.value, narrowing: made.id } }
  say(`${plural(made.records, 'record')} set aside as “${said}”.`, async () => {
    await got(POST('/api/reviews/{review}/narrowings/{narrowing}/withdraw', { params }))
    await refresh('records', 'figures', 'narrowings')
  })
}
async function named() {
  const [what, said] = [naming.value, name.value.trim()]
  if (!what || !said) return
  if (await attempt(() => (what === 'label' ? putLabel(said) : setAside(said)))) done()
  await refresh('records', ...(what === 'label' ? ['labels', 'lists'] : ['figures', 'narrowings']))
}
async function unlabel() {
  const known = labels.value?.find((label) => label.id === props.label)
  if (!known) return
  const params = { path: { review: review.value, label: known.id } }
  const body = { copies: props.records, only: false }
  await attempt(async () => {
    const { copies } = await got(POST('/api/reviews/{review}/labels/{label}/take', { params, body }))
    say(`“${known.name}” is taken off ${plural(body.copies.length, 'record')}.`, () =>
      got(POST('/api/reviews/{review}/labels/{label}/give', { params, body: { copies } })),
    )
  })
  done()
  await refresh('records', 'labels')
}
async function letIn() {
  const records = props.records
  await attempt(async () => {
    const body = await got(POST('/api/reviews/{review}/records/let-in', { params: path.value, body: { records } }))
    say(`${plural(records.length, 'record')} let in again.`, () =>
      got(POST('/api/reviews/{review}/records/hold-again', { params: path.value, body })),
    )
  })
  done()
  await refresh('records', 'figures', 'narrowings')
}
/** The desk, with those that are most like the picked ones first. */
async function screenAlike() {
  const body = { kind: 'alike' as const, seed: 0, question: '', records: props.records }
  await attempt(async () => {
    const { id } = await got(POST('/api/reviews/{review}/orders', { params: path.value, body }))
    await refresh('orders', 'jobs')
    await router.push(`/reviews/${review.value}/screen?order=${id}`)
  })
}
defineExpose({ ask, stop: () => (naming.value = false) })
</script>

<template>
  <b role="status">{{ plural(records.length, 'record') }} picked</b>
  <template v-if="naming">
    <input
      ref="box"
      v-model="name"
      class="box"
      maxlength="100"
      :list="naming === 'label' ? 'known-labels' : undefined"
      :placeholder="naming === 'label' ? 'Label' : 'Name in the flow'"
      :aria-label="naming === 'label' ? 'Label' : 'Name in the flow'"
      @keydown.enter.prevent="named"
      @keydown.esc="naming = false"
    />
    <datalist id="known-labels"><option v-for="known in labels" :key="known.id" :value="known.name" /></datalist>
    <v-btn class="main" @click="named">{{ naming === 'label' ? 'Label them' : 'Set them aside' }}</v-btn>
  </template>
  <template v-else-if="mayWrite">
    <v-btn @click="ask('label')">Label <kbd>T</kbd></v-btn>
    <v-btn v-if="!aside" @click="ask('aside')">Set aside <kbd>S</kbd></v-btn>
    <v-btn
      v-if="!aside && records.length <= 50"
      title="Screen the records that are most like these"
      @click="screenAlike"
      >Most like these first</v-btn
    >
    <MoreFromCatalogue v-if="!aside && records.length <= 20" :records="records" />
    <v-btn v-if="label" @click="unlabel">Take the label off</v-btn>
    <v-btn v-if="aside" @click="letIn">Let in again</v-btn>
  </template>
  <v-btn @click="emit('export')">Export <kbd>E</kbd></v-btn>
  <v-btn @click="emit('none')">None</v-btn>
</template>
