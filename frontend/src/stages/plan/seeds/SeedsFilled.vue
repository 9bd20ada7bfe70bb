<script setup lang="ts">
// What the DOI registry would fill in the seeds: asked one by one, shown, and applied only then.
import { computed, onBeforeUnmount, ref } from 'vue'
import { GET, got, POST, Refusal, type Schemas } from '@/api/client'
import { plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const props = defineProps<{ seeds: Schemas['Seed'][] }>()
const emit = defineEmits<{ close: [] }>()
const { review, path } = useReview()
const refresh = useRefresh()
const proposals = ref<Schemas['Proposal'][]>([])
const left = ref(new Set<string>())
const asking = ref(true)
const busy = ref(false)
let stopped = false
const titleOf = (record: number) => props.seeds.find((seed) => seed.id === record)?.title ?? ''

async function ask() {
  for (const seed of props.seeds) {
    if (stopped) break
    try {
      proposals.value.push(
        await got(
          GET('/api/reviews/{review}/seeds/{record}/proposal', {
            params: { path: { review: review.value, record: seed.id } },
          }),
        ),
      )
    } catch (error) {
      proposals.value.push({
        record: seed.id,
        fields: {},
        problem: error instanceof Refusal ? error.message : 'It could not be asked for.',
      })
    }
  }
  asking.value = false
}
void ask()
onBeforeUnmount(() => (stopped = true))
const NAMES: Record<string, string> = { keywords: 'descriptors' }
const rows = computed(() =>
  proposals.value.flatMap((proposal) =>
    Object.entries(proposal.fields).map(([field, value]) => ({
      record: proposal.record,
      field,
      value: Array.isArray(value) ? value.join('; ') : String(value),
      key: `${proposal.record} ${field}`,
    })),
  ),
)
const chosen = computed(() => rows.value.filter((row) => !left.value.has(row.key)))
const without = computed(() => proposals.value.filter((proposal) => !Object.keys(proposal.fields).length))
function leave(key: string) {
  const next = new Set(left.value)
  if (!next.delete(key)) next.add(key)
  left.value = next
}
async function apply() {
  const body = [...new Set(chosen.value.map((one) => one.record))].map((record) => ({
    record,
    fields: chosen.value.filter((one) => one.record === record).map((one) => one.field),
  }))
  busy.value = true
  const done = await attempt(async () => {
    const made = await got(POST('/api/reviews/{review}/seeds/fill', { params: path.value, body }))
    say(`${plural(made.supplements.length, 'field')} filled; what the sources delivered stays as it was.`, async () => {
      await got(POST('/api/reviews/{review}/seeds/unfill', { params: path.value, body: made }))
      await refresh('seeds', 'records', 'trial')
    })
  })
  busy.value = false
  await refresh('seeds', 'records', 'trial')
  if (done) emit('close')
}
</script>

<template>
  <div class="pad">
    <div class="row">
      <h2>What the DOI registry would fill</h2>
      <span v-if="asking" class="soft small" role="status">{{ proposals.length }} of {{ seeds.length }} asked</span>
      <v-btn class="push" @click="emit('close')">Leave as it is</v-btn
      ><v-btn class="main" :disabled="asking || busy || !chosen.length" @click="apply"
        >Fill {{ plural(chosen.length, 'field') }}</v-btn
      >
    </div>
    <table v-if="rows.length" class="gap">
      <thead>
        <tr>
          <th><span class="unseen">Fill</span></th>
          <th>Seed</th>
          <th>Field, empty now</th>
          <th>What the registry says</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.key">
          <td>
            <input
              type="checkbox"
              :checked="!left.has(row.key)"
              :aria-label="`Fill ${row.field} of ${titleOf(row.record)}`"
              @change="leave(row.key)"
            />
          </td>
          <td class="read title">{{ titleOf(row.record) }}</td>
          <td class="small">{{ NAMES[row.field] ?? row.field }}</td>
          <td class="read small value">{{ row.value }}</td>
        </tr>
      </tbody>
    </table>
    <template v-if="without.length">
      <h2 class="gap">Nothing to fill</h2>
      <table class="small">
        <tbody>
          <tr v-for="one in without" :key="one.record">
            <td class="read">{{ titleOf(one.record) }}</td>
            <td class="soft">{{ one.problem }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.gap {
  margin-top: 14px;
}
.title {
  width: 32%;
}
.value {
  max-height: 90px;
}
</style>
