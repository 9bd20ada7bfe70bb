<script setup lang="ts">
// Records shared out among people, and how far each has read their part.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { GET, got, POST, type Schemas } from '@/api/client'
import { ago, count, plural } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const props = defineProps<{ pass: 1 | 2; readers: number }>()
const { review, path, mayLead } = useReview()
const refresh = useRefresh()
const pass = computed(() => props.pass)
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['sharings', review, pass],
  queryFn: () =>
    got(GET('/api/reviews/{review}/sharings', { params: { ...path.value, query: { pass_number: props.pass } } })),
})
const { data: members } = useQuery({
  queryKey: ['members', review],
  queryFn: () => got(GET('/api/reviews/{review}/members', { params: path.value })),
})
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const people = computed(() =>
  (members.value ?? []).filter((member) => !member.removed_at && member.role !== 'observer'),
)

const KINDS = [
  { value: 'share', title: 'Each reads a part' },
  { value: 'pilot', title: 'A pilot: all read the same' },
]
const said = reactive({ kind: 'share', name: '', most: '', order: 'closeness', seed: '', overlap: '0' })
const parts = reactive<Record<number, string>>({})
watch(people, (some) => some.forEach((one) => (parts[one.id] ??= '1')), { immediate: true })
const pilot = computed(() => said.kind === 'pilot')
watch(pilot, (now) => (said.most = now ? '50' : ''))
const shares = computed(() =>
  Object.entries(parts).flatMap(([id, part]) =>
    Number(part) > 0 && people.value.some((person) => person.id === Number(id))
      ? [{ account: Number(id), share: pilot.value ? 1 : Number(part) }]
      : [],
  ),
)
const body = computed(() => ({
  pass_number: props.pass,
  name: said.name,
  parts: shares.value,
  most: Number(said.most) > 0 ? Math.round(Number(said.most)) : null,
  pilot: pilot.value,
  overlap: pilot.value ? 0 : Math.min(1, Math.max(0, Number(said.overlap) / 100 || 0)),
  seed: said.order === 'shuffled' ? Math.max(0, Math.round(Number(said.seed) || 0)) : null,
}))
/** By how many each record is read; hours count only where there are more people than that. */
const reading = computed(() => {
  const some = shares.value.length
  if (pilot.value || some > props.readers) return `Each is read by ${pilot.value ? some : props.readers}.`
  if (!some) return 'Give somebody a share.'
  const more = body.value.overlap ? ', and nobody is left to read one more' : ''
  return `With ${plural(some, 'person', 'people')} each reads all that they have not read yet${more}.`
})
const query = computed(() => ({ list: props.pass === 1 ? 'open' : 'second_open', pass_number: props.pass }))
const would = ref<Schemas['SharedOut']>()
const refused = ref('')
let asked = 0
async function look() {
  const mine = ++asked
  if (!mayLead.value || !shares.value.length) return void (would.value = undefined)
  try {
    const found = await got(
      POST('/api/reviews/{review}/sharings/preview', {
        params: { ...path.value, query: query.value },
        body: body.value,
      }),
    )
    if (mine === asked) [would.value, refused.value] = [found, '']
  } catch (error) {
    if (mine === asked)
      [would.value, refused.value] = [undefined, error instanceof Error ? error.message : String(error)]
  }
}
let soon: ReturnType<typeof setTimeout> | undefined
watch(
  [body, () => props.readers, mayLead],
  () => {
    clearTimeout(soon)
    soon = setTimeout(() => void look(), 250)
  },
  { immediate: true, deep: true },
)
const part = (id: number) => would.value?.parts.find((part) => part.account === id)?.records
const again = async () => {
  await refresh('sharings', 'passes', 'records', 'queue', 'figures')
  await look()
}
async function shareOut() {
  let made: Schemas['SharedOut'] | undefined
  const done = await attempt(
    async () =>
      (made = await got(
        POST('/api/reviews/{review}/sharings', { params: { ...path.value, query: query.value }, body: body.value }),
      )),
  )
  await again()
  if (done && made?.id) {
    const number = made.id
    say(`${plural(made.records, 'record')} shared out.`, () => give(number, null))
    said.name = ''
  }
}
async function give(sharing: number, person: number | null, back = false) {
  const params = { path: { review: review.value, sharing }, query: person === null ? {} : { person } }
  const { records } = await got(
    back
      ? POST('/api/reviews/{review}/sharings/{sharing}/put-back', { params })
      : POST('/api/reviews/{review}/sharings/{sharing}/give-back', { params }),
  )
  await again()
  return records
}
async function giveBack(sharing: Schemas['Sharing'], part: Schemas['SharePart'] | null) {
  try {
    const n = await give(sharing.id, part?.account_id ?? null)
    say(`${plural(n, 'record')} given back; others may read them.`, () =>
      give(sharing.id, part?.account_id ?? null, true),
    )
  } catch (error) {
    complain(error)
  }
}
const mayGive = (part: Schemas['SharePart']) =>
  (mayLead.value || part.account_id === me.value?.id) && part.records > (part.read ?? 0)
const orderOf = (sharing: Schemas['Sharing']) =>
  sharing.seed === null ? 'the closest first' : `shuffled, seed ${sharing.seed}`
</script>

<template>
  <div class="shares pad">
    <form v-if="mayLead" class="new" @submit.prevent="shareOut">
      <h2>Share out what is to be read</h2>
      <div class="line">
        <ChoiceField v-model="said.kind" :items="KINDS" label="How" />
        <TextField v-model="said.name" label="Name" :placeholder="pilot ? 'Pilot' : 'Share'" maxlength="100" />
        <TextField v-model="said.most" label="Records at most" type="number" min="1" placeholder="all" />
        <ChoiceField
          v-model="said.order"
          label="In the order of"
          :items="[
            { value: 'closeness', title: 'closeness' },
            { value: 'shuffled', title: 'a shuffle' },
          ]"
        />
        <TextField
          v-if="said.order === 'shuffled'"
          v-model="said.seed"
          label="Seed"
          type="number"
          min="0"
          placeholder="0"
        />
        <TextField v-if="!pilot" v-model="said.overlap" label="Read by one more, %" type="number" min="0" max="100" />
      </div>
      <table class="small">
        <thead>
          <tr>
            <th>Person</th>
            <th class="num">{{ pilot ? 'Takes part' : 'Hours, or any measure of their share' }}</th>
            <th class="num">Would read</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="person in people" :key="person.id">
            <td>{{ person.full_name }}</td>
            <td class="num">
              <input
                v-if="pilot"
                type="checkbox"
                :checked="Number(parts[person.id]) > 0"
                :aria-label="`${person.full_name} takes part`"
                @change="parts[person.id] = ($event.target as HTMLInputElement).checked ? '1' : '0'"
              />
              <input
                v-else
                v-model="parts[person.id]"
                class="box part"
                type="number"
                min="0"
                step="any"
                :aria-label="`Share of ${person.full_name}`"
              />
            </td>
            <td class="num">{{ part(person.id) === undefined ? '—' : count(part(person.id)!) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="refused" class="odd small" role="alert">{{ refused }}</p>
      <div class="row">
        <v-btn class="main" type="submit" :disabled="!would?.records"
          >Share out {{ plural(would?.records ?? 0, 'record') }}</v-btn
        >
        <span class="soft small"
          >{{ reading }} Whoever has a share is handed that first; without one, whatever wants a reader.</span
        >
      </div>
    </form>
    <p class="small">
      <router-link :to="`/reviews/${review}/screen/sheet${pass === 2 ? '?pass=2' : ''}`"
        >Decide on a list in a spreadsheet</router-link
      >
      <span class="soft"> and bring it back in, for whoever works away from the network.</span>
    </p>
    <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
      <p v-if="!data?.length" class="soft">
        Nothing is shared out in this pass: everybody is handed the next record that wants a reader.
      </p>
      <section v-for="one in data" :key="one.id" class="one">
        <div class="row">
          <h3>{{ one.name }}</h3>
          <span class="soft small"
            >{{ one.pilot ? 'pilot, ' : '' }}{{ orderOf(one) }} · {{ one.by }}, {{ ago(one.at) }}</span
          >
          <v-btn v-if="mayLead && one.parts.some(mayGive)" class="push" @click="giveBack(one, null)"
            >Give all back</v-btn
          >
        </div>
        <table class="small">
          <thead>
            <tr>
              <th>Person</th>
              <th class="num">Records</th>
              <th class="num">Read</th>
              <th class="num">Given back</th>
              <th><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="share in one.parts" :key="share.account_id">
              <td>{{ share.person }}</td>
              <td class="num">{{ count(share.records) }}</td>
              <td class="num">
                <template v-if="share.read !== null"
                  ><span class="done" aria-hidden="true"
                    ><span :style="{ width: `${share.records ? (100 * share.read) / share.records : 0}%` }"
                  /></span>
                  {{ count(share.read) }}</template
                ><span v-else class="soft" title="How far somebody is, they and a lead know">—</span>
              </td>
              <td class="num soft">{{ share.given_back ? count(share.given_back) : '' }}</td>
              <td class="num">
                <v-btn
                  v-if="mayGive(share)"
                  :aria-label="`Give back the rest of ${share.person}`"
                  @click="giveBack(one, share)"
                  >Give back the rest</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
      </section>
    </StateOf>
  </div>
</template>

<style scoped>
.shares,
.new {
  display: grid;
  gap: 12px;
  align-content: start;
}
.new {
  padding-bottom: 16px;
  border-bottom: 1px solid var(--ks-hair);
}
.line {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 8px 12px;
}
.part {
  width: 84px;
  text-align: right;
}
td {
  vertical-align: middle;
}
.done {
  display: inline-block;
  width: 72px;
  height: 4px;
  background: var(--ks-hair);
  vertical-align: 3px;
  margin-right: 6px;
}
.done > span {
  display: block;
  height: 100%;
  background: var(--ks-pine);
}
</style>
