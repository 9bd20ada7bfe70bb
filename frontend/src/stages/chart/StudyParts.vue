<script setup lang="ts">
// A study: its name, its reports, and the arms, outcomes and time points that it has for itself.
import { computed, ref } from 'vue'
import { DELETE, got, POST, PUT } from '@/api/client'
import { attempt, say } from '@/common/messages'
import { useReview } from '@/common/review'
import type { Evidence } from './evidence'
import { FACTOR_NAMES, FACTORS, type Factor, type Level, type Study } from './layout'

const props = defineProps<{ study: Study; evidence: Evidence; mayWrite: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const { review } = useReview()
const data = computed(() => props.evidence.data.value)
const label = ref(props.study.label)
const own = computed(() => (data.value?.levels ?? []).filter((level) => level.study === props.study.id))
const factor = ref<Factor>('arm')
const name = ref('')

/** The name that was shown when the typing began; another one since is told. */
async function rename() {
  await attempt(() =>
    got(
      PUT('/api/reviews/{review}/studies/{study}/label', {
        params: { path: { review: review.value, study: props.study.id } },
        body: { label: label.value, seen: seen },
      }),
    ),
  )
  seen = label.value
  emit('changed')
}
let seen = props.study.label

const link = (record: number, study: number | null) =>
  got(
    PUT('/api/reviews/{review}/records/{record}/study', {
      params: { path: { review: review.value, record } },
      body: { study },
    }),
  )
async function move(record: number, study: number | null) {
  const from = props.study.id
  if (await attempt(() => link(record, study)))
    say('The report is with another study now, and the values that were read from it.', async () => {
      await link(record, from)
      emit('changed')
    })
  emit('changed')
}
const others = computed(() => (data.value?.studies ?? []).filter((study) => study.id !== props.study.id))

async function add() {
  const done = await attempt(() =>
    got(
      POST('/api/reviews/{review}/studies/{study}/levels', {
        params: { path: { review: review.value, study: props.study.id } },
        body: { factor: factor.value, name: name.value, words: [] },
      }),
    ),
  )
  if (done) name.value = ''
  emit('changed')
}
const params = (level: Level) => ({ params: { path: { review: review.value, level: level.id } } })
async function remove(level: Level) {
  if (await attempt(() => got(DELETE('/api/reviews/{review}/levels/{level}', params(level)))))
    say(`${level.name} is taken away from this study; its values are kept.`, async () => {
      await got(POST('/api/reviews/{review}/levels/{level}/back', params(level)))
      emit('changed')
    })
  emit('changed')
}
const CHOICES = FACTORS.map((factor) => ({ value: factor, title: FACTOR_NAMES[factor][0] }))
</script>

<template>
  <div class="pad fields parts">
    <form class="row" @submit.prevent="rename">
      <TextField v-model="label" label="Name of the study" :readonly="!mayWrite" maxlength="120" />
      <v-btn v-if="mayWrite" type="submit" :disabled="label === study.label">Rename</v-btn>
    </form>
    <h3>Reports</h3>
    <ul class="small ruled">
      <li v-for="report in study.reports" :key="report.record_id">
        <router-link :to="`/reviews/${review}/screen/second?record=${report.record_id}`">{{
          report.title
        }}</router-link>
        <span class="row">
          <span class="soft">{{ report.file ? report.filename : 'no PDF' }}</span>
          <v-menu v-if="mayWrite">
            <template #activator="{ props: on }"><v-btn v-bind="on" class="small">Belongs to …</v-btn></template>
            <v-list max-height="300" aria-label="Studies">
              <v-list-item
                v-if="study.reports.length > 1"
                title="A study of its own"
                @click="move(report.record_id, null)"
              />
              <v-list-item
                v-for="other in others"
                :key="other.id"
                :title="other.label"
                @click="move(report.record_id, other.id)"
              />
            </v-list>
          </v-menu>
        </span>
      </li>
    </ul>
    <h3>Arms, outcomes and time points of this study alone</h3>
    <ul class="small ruled">
      <li v-for="one in own" :key="one.id" class="row">
        <span>{{ one.name }}</span><span class="soft">{{ FACTOR_NAMES[one.factor][0].toLowerCase() }}</span>
        <v-btn v-if="mayWrite" class="small push" @click="remove(one)">Take away</v-btn>
      </li>
      <li v-if="!own.length" class="soft">None beside those of the codebook.</li>
    </ul>
    <form v-if="mayWrite" class="row" @submit.prevent="add">
      <ChoiceField v-model="factor" :items="CHOICES" label="What" />
      <TextField v-model="name" label="Name" maxlength="120" />
      <v-btn type="submit" :disabled="!name.trim()">Add</v-btn>
    </form>
  </div>
</template>

<style scoped>
.parts {
  overflow: auto;
  align-content: start;
}
</style>
