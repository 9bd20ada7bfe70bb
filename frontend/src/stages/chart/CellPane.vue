<script setup lang="ts">
// One value: who wrote it and when, its quote and page, what it was before; and the study's reports.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { moment } from '@/common/format'
import { attempt, say } from '@/common/messages'

const props = defineProps<{
  study: Schemas['Study']
  item: Schemas['Item']
  studies: Schemas['Study'][]
  wrong?: string
  review: number
  mayWrite: boolean
}>()
const emit = defineEmits<{ write: [cell: Schemas['Cell']]; changed: [] }>()
const value = computed(() => props.study.values[String(props.item.id)])
const quote = ref('')
const page = ref('')
watch(value, (it) => ((quote.value = it?.quote ?? ''), (page.value = it?.page ?? '')), { immediate: true })
const { data: past } = useQuery({
  queryKey: ['cell', props.review, props.study.id, props.item.id, computed(() => value.value?.at)],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/evidence/values/{study}/{item}', {
        params: { path: { review: props.review, study: props.study.id, item: props.item.id! } },
      }),
    ),
})
const changed = computed(() => quote.value !== (value.value?.quote ?? '') || page.value !== (value.value?.page ?? ''))
const save = () =>
  emit('write', {
    study: props.study.id,
    item: props.item.id!,
    text: value.value?.text ?? '',
    seen: value.value?.text ?? '',
    quote: quote.value,
    page: page.value,
  })

const link = (record: number, study: number | null) =>
  got(
    PUT('/api/reviews/{review}/records/{record}/study', {
      params: { path: { review: props.review, record } },
      body: { study },
    }),
  )
async function move(record: number, study: number | null) {
  const from = props.study.id
  if (await attempt(() => link(record, study))) say('The report is with another study now.', () => link(record, from))
  emit('changed')
}
const others = computed(() =>
  props.studies.filter((it) => it.id !== props.study.id).map((it) => ({ value: it.id, title: it.label })),
)
</script>

<template>
  <aside class="pane sheet">
    <div class="head">
      <b>{{ item.name }}</b><span class="soft small clip">{{ study.label }}</span>
    </div>
    <div class="pad fields">
      <div>
        <b class="value">{{ value?.text || 'No value yet' }}</b>
        <div v-if="value" class="soft small">{{ value.by }}, {{ moment(value.at) }}</div>
      </div>
      <p v-if="wrong" class="bad small" role="alert">{{ wrong }}</p>
      <p v-if="item.instructions" class="small soft">{{ item.instructions }}</p>
      <form class="fields" @submit.prevent="save">
        <TextArea
          v-model="quote"
          label="Quote that it comes from"
          rows="2"
          class="read"
          :readonly="!mayWrite"
          maxlength="4000"
        />
        <div class="row">
          <TextField v-model="page" label="Page" :readonly="!mayWrite" maxlength="40" /><v-btn
            v-if="mayWrite"
            type="submit"
            :disabled="!changed"
            >Keep the quote</v-btn
          >
        </div>
      </form>
      <template v-if="(past?.length ?? 0) > 1">
        <h3>Before</h3>
        <ul class="small">
          <li v-for="(it, k) in past!.slice(1)" :key="k">
            {{ it.text || 'empty' }} <span class="soft">{{ it.by }}, {{ moment(it.at) }}</span>
          </li>
        </ul>
      </template>
      <h3>Reports of this study</h3>
      <ul class="small">
        <li v-for="it in study.reports" :key="it.record_id">
          <router-link :to="`/reviews/${review}/screen/second?record=${it.record_id}`">{{ it.title }}</router-link>
          <v-menu v-if="mayWrite">
            <template #activator="{ props: on }"><v-btn v-bind="on" class="small">Belongs to …</v-btn></template>
            <v-list max-height="300" aria-label="Studies">
              <v-list-item
                v-if="study.reports.length > 1"
                title="A study of its own"
                @click="move(it.record_id, null)"
              />
              <v-list-item
                v-for="other in others"
                :key="other.value"
                :title="other.title"
                @click="move(it.record_id, other.value)"
              />
            </v-list>
          </v-menu>
        </li>
      </ul>
    </div>
  </aside>
</template>

<style scoped>
.value {
  font-size: 17px;
  line-height: 24px;
  overflow-wrap: anywhere;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  padding: 6px 0;
  border-top: 1px solid var(--ks-hair);
  display: grid;
  gap: 4px;
  justify-items: start;
}
</style>
