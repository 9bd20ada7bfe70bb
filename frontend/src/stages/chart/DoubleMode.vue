<script setup lang="ts">
// Which values two read, and how. What another mode would do is said first; nothing that was read is lost by it.
import { computed, ref, watch } from 'vue'
import { got, POST, PUT, type Schemas } from '@/api/client'
import { plural, SETTLING } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import type { Item, Study } from './layout'

type Mode = Schemas['ExtractionMode']
const props = defineProps<{ mode: Mode; items: Item[]; studies: Study[]; mayLead: boolean }>()
const { path } = useReview()
const refresh = useRefresh()
const SECOND = [
  { value: 'nobody', title: 'one person' },
  { value: 'person', title: 'two people, each for themselves' },
  { value: 'proposals', title: 'a person, compared with what is proposed' },
]
const KNOWN = [
  { value: true, title: 'hidden until both have read' },
  { value: false, title: 'open to each other' },
]
const NUMBERS = [
  { value: true, title: 'one is the other, rounded' },
  { value: false, title: 'they are equal' },
]
const TEXTS = [
  { value: false, title: 'apart from case, accents, marks' },
  { value: true, title: 'letter by letter' },
]
const said = ref<Mode>({ ...props.mode })
const firstReadings = ref(false)
watch(
  () => props.mode,
  (mode) => (said.value = { ...mode }),
)
const changed = computed(() => JSON.stringify(said.value) !== JSON.stringify(props.mode))
const double = computed(() => said.value.second !== 'nobody')
const toggled = (from: number[] | null | undefined, all: number[], id: number) => {
  const some = from ?? all
  const next = some.includes(id)
    ? some.filter((one) => one !== id)
    : all.filter((one) => one === id || some.includes(one))
  return next.length === all.length ? null : next
}
const every = (list: { id?: number | null }[]) => list.map((one) => one.id!)
const found = ref<Schemas['ExtractionConsequences']>()
watch(
  () => JSON.stringify([said.value, firstReadings.value]),
  async (now) => {
    found.value = undefined
    if (!changed.value || !props.mayLead) return
    try {
      const effect = await got(POST('/api/reviews/{review}/extraction/preview', { params: path.value, body: body() }))
      if (now === JSON.stringify([said.value, firstReadings.value])) found.value = effect
    } catch (error) {
      complain(error)
    }
  },
)
const body = () => ({ mode: said.value, first_readings: firstReadings.value })
async function change() {
  if (!(await attempt(() => got(PUT('/api/reviews/{review}/extraction/mode', { params: path.value, body: body() })))))
    return
  firstReadings.value = false
  await refresh('extraction', 'compared', 'evidence', 'proposals', 'figures', 'cell')
  say('Values are read so from now on.')
}
</script>

<template>
  <form class="pad fields" @submit.prevent="change">
    <ChoiceField v-model="said.second" :items="SECOND" label="A value is read by" :disabled="!mayLead" />
    <template v-if="double">
      <ChoiceField
        v-if="said.second === 'person'"
        v-model="said.blind"
        :items="KNOWN"
        label="Of the other’s values"
        :disabled="!mayLead"
      />
      <ChoiceField v-model="said.rounding" :items="NUMBERS" label="Numbers are the same where" :disabled="!mayLead" />
      <ChoiceField v-model="said.letters" :items="TEXTS" label="Texts are the same" :disabled="!mayLead" />
      <ChoiceField v-model="said.settling" :items="SETTLING" label="What differs is settled by" :disabled="!mayLead" />
      <details :open="said.items != null">
        <summary class="small">
          {{ said.items == null ? 'All items' : plural(said.items.length, 'item') }} are read so
        </summary>
        <TickBox
          v-for="item in items"
          :key="item.id!"
          :model-value="said.items?.includes(item.id!) ?? true"
          :label="item.name"
          :disabled="!mayLead"
          @update:model-value="said.items = toggled(said.items, every(items), item.id!)"
        />
      </details>
      <details :open="said.studies != null">
        <summary class="small">
          of {{ said.studies == null ? 'all studies' : plural(said.studies.length, 'study', 'studies') }}
        </summary>
        <TickBox
          v-for="study in studies"
          :key="study.id"
          :model-value="said.studies?.includes(study.id) ?? true"
          :label="study.label"
          :disabled="!mayLead"
          @update:model-value="said.studies = toggled(said.studies, every(studies), study.id)"
        />
      </details>
    </template>
    <div v-if="changed && mayLead" class="notice small" role="status">
      <p v-if="!found" class="soft">Working out what that would do …</p>
      <template v-else>
        <TickBox
          v-if="found.stay || found.first_readings"
          v-model="firstReadings"
          :label="`Values that stand count as first readings of those who wrote them (${found.stay + found.first_readings})`"
        />
        <p v-if="found.stay">
          {{ plural(found.stay, 'value that stands stays', 'values that stand stay') }} as they are; two read what is
          still empty.
        </p>
        <p v-if="found.first_readings">
          {{ plural(found.first_readings, 'value leaves', 'values leave') }} the table until a second one has read
          {{ found.first_readings === 1 ? 'it' : 'them' }}.
        </p>
        <p v-if="found.enter">
          {{ plural(found.enter, 'value', 'values') }} that one person read
          {{ found.enter === 1 ? 'enters' : 'enter' }} the table, as no second reading is awaited.
        </p>
        <p v-if="found.differ">{{ plural(found.differ, 'difference stays', 'differences stay') }} to be settled.</p>
        <p v-if="!found.stay && !found.first_readings && !found.enter && !found.differ">No value is touched.</p>
        <div class="row">
          <v-btn class="main" type="submit">Read so from now on</v-btn>
          <v-btn @click="((said = { ...mode }), (firstReadings = false))">Leave it</v-btn>
        </div>
      </template>
    </div>
    <p v-if="double" class="small soft">Proposals are not offered for what two read: both would follow the same one.</p>
  </form>
</template>

<style scoped>
details :deep(.tick) {
  display: flex;
}
summary {
  cursor: pointer;
}
</style>
