<script setup lang="ts">
// Setting records aside before screening by a rule of the team's: seen beforehand, counted under its name,
// taken back at any time.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import { count, moment, plural } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { FRESH, ruleOf, type Limits } from './narrowing'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['narrowings', review],
  queryFn: () => got(GET('/api/reviews/{review}/narrowings', { params: path.value })),
})
const { data: divided } = useQuery({
  queryKey: ['records', review, 'divided', 'screened'],
  queryFn: () =>
    got(GET('/api/reviews/{review}/records/divided', { params: { ...path.value, query: { list: 'all' } } })),
})
const making = computed(() => route.query.new === '1' && mayWrite.value)
const form = reactive<Limits>({ ...FRESH })
watch(making, (now) => now && Object.assign(form, { ...FRESH, query: String(route.query.query ?? '') }), {
  immediate: true,
})
const rule = computed(() => ruleOf(form))
const said = refDebounced(rule, 250)
const asks = computed(() => {
  const limits = said.value
  return !!(limits.query || limits.abstract || limits.before || limits.after || limits.language || limits.kind)
})
const {
  data: preview,
  error: fault,
  isFetching,
} = useQuery({
  queryKey: ['narrowings', review, 'preview', said],
  queryFn: () => got(POST('/api/reviews/{review}/narrowings/preview', { params: path.value, body: said.value })),
  enabled: computed(() => making.value && asks.value),
  placeholderData: keepPreviousData,
  retry: false,
})
const close = () => router.push({ query: {} })
async function apply() {
  try {
    const made = await got(POST('/api/reviews/{review}/narrowings', { params: path.value, body: rule.value }))
    say(`${plural(made.records, 'record')} set aside as “${rule.value.name}”.`, () => withdrawing(made.id))
    await close()
    await refresh('narrowings', 'figures', 'records', 'flow')
  } catch (failure) {
    complain(failure)
  }
}
const at = (narrowing: number) => ({ params: { path: { review: review.value, narrowing } } })
async function withdrawing(narrowing: number) {
  await got(POST('/api/reviews/{review}/narrowings/{narrowing}/withdraw', at(narrowing)))
  await refresh('narrowings', 'figures', 'records', 'flow')
}
async function withdraw(narrowing: Schemas['Narrowing']) {
  const undo = async () => {
    await got(POST('/api/reviews/{review}/narrowings/{narrowing}/back', at(narrowing.id)))
    await refresh('narrowings', 'figures', 'records', 'flow')
  }
  if (narrowing.withdrawn_at) {
    if (await attempt(undo)) say(`“${narrowing.name}” is in force again.`, () => withdrawing(narrowing.id))
  } else if (await attempt(() => withdrawing(narrowing.id)))
    say(`“${narrowing.name}” is taken back; its records are in again.`, undo)
}
async function again(narrowing: Schemas['Narrowing'], on: boolean) {
  await attempt(() =>
    got(PUT('/api/reviews/{review}/narrowings/{narrowing}/again', { ...at(narrowing.id), body: { again: on } })),
  )
  await refresh('narrowings')
}
const ruleWords = (narrowing: Schemas['Narrowing']) =>
  !narrowing.has_rule
    ? narrowing.by_hand
      ? 'what was picked by hand'
      : 'what was undecided then'
    : `${narrowing.keep ? 'all but ' : ''}${[narrowing.query, narrowing.abstract === 'no' ? 'without abstract' : narrowing.abstract === 'yes' ? 'with abstract' : ''].filter(Boolean).join(', and ')}`
const languages = computed(() => (divided.value?.languages ?? []).filter((language) => language.value))
const kinds = computed(() => divided.value?.kinds ?? [])
const recordsLink = (one: { id: number }) => `/reviews/${review.value}/records/${one.id}`
</script>

<template>
  <div class="panes" :class="{ columns: making }">
    <Teleport to="#view-actions" defer
      ><v-btn v-if="mayWrite" class="main" @click="router.push({ query: { new: '1' } })"
        >Set records aside by a rule</v-btn
      ></Teleport
    >
    <section class="pane sheet">
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="!data?.length" class="pad soft">
          <h2>Nothing is set aside</h2>
          <p>
            A rule sets aside, before anybody screens, what cannot belong: too old, in a language that nobody reads, not
            about the subject. Its records are counted in the flow under its name, as done by automation, and can be let
            in again, all or one by one.
          </p>
        </div>
        <table v-else>
          <thead>
            <tr>
              <th>Name in the flow</th>
              <th>Sets aside</th>
              <th class="num">Records</th>
              <th class="num">Let in</th>
              <th>Later intakes</th>
              <th>By</th>
              <th><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data" :key="one.id" :class="{ soft: one.withdrawn_at }">
              <td>
                <b>{{ one.name }}</b>
                <div v-if="!one.spare && one.has_rule" class="small odd">seeds and included ones too</div>
              </td>
              <td class="mono rule">{{ ruleWords(one) }}</td>
              <td class="num">
                <router-link
                  v-if="!one.withdrawn_at"
                  :to="`/reviews/${review}/records?list=narrowed:${one.id}`"
                  :aria-label="`${count(one.records)} records set aside by ${one.name}`"
                  >{{ count(one.records) }}</router-link><template v-else>—</template>
              </td>
              <td class="num">{{ one.withdrawn_at ? '—' : count(one.released) }}</td>
              <td>
                <label v-if="one.has_rule" class="small"
                  ><input
                    type="checkbox"
                    :checked="one.again"
                    :disabled="!mayWrite || !!one.withdrawn_at"
                    :aria-label="`Repeat ${one.name} on later intakes`"
                    @change="again(one, ($event.target as HTMLInputElement).checked)"
                  />
                  repeated</label
                ><template v-else>—</template>
              </td>
              <td class="small soft">
                {{ one.by }}, {{ moment(one.at) }}
                <div v-if="one.withdrawn_at">taken back {{ moment(one.withdrawn_at) }}</div>
              </td>
              <td class="num">
                <v-btn
                  v-if="mayWrite"
                  :aria-label="`${one.withdrawn_at ? 'Apply again' : 'Take back'} ${one.name}`"
                  @click="withdraw(one)"
                  >{{ one.withdrawn_at ? 'Apply again' : 'Take back' }}</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside v-if="making" class="pane pad">
      <form class="fields" @submit.prevent="apply">
        <div class="row">
          <h2>Set aside</h2>
          <v-btn class="push" @click="close">Close</v-btn>
        </div>
        <TextField v-model="form.name" label="Name in the flow, such as Before 1980" maxlength="120" autofocus />
        <div class="row" role="radiogroup" aria-label="Which">
          <label><input v-model="form.keep" type="radio" :value="false" /> what this says</label
          ><label><input v-model="form.keep" type="radio" :value="true" /> all but what this says</label>
        </div>
        <div class="row">
          <TextField v-model="form.before" label="Before the year" inputmode="numeric" maxlength="4" /><TextField
            v-model="form.after"
            label="After the year"
            inputmode="numeric"
            maxlength="4"
          />
        </div>
        <div class="three">
          <label class="small soft"
            >Language
            <select v-model="form.language" class="box wide">
              <option value="">any</option>
              <option v-for="language in languages" :key="language.value" :value="language.value">
                {{ language.value }} ({{ count(language.n) }})
              </option>
            </select></label
          >
          <label class="small soft"
            >Kind
            <select v-model="form.kind" class="box wide">
              <option value="">any</option>
              <option v-for="kind in kinds" :key="kind.value" :value="kind.value">
                {{ kind.value }} ({{ count(kind.n) }})
              </option>
            </select></label
          >
          <label class="small soft"
            >Abstract
            <select v-model="form.abstract" class="box wide">
              <option value="">with or without</option>
              <option value="no">without</option>
              <option value="yes">with</option>
            </select></label
          >
        </div>
        <TextArea v-model="form.query" label="and found by the query" rows="2" class="code" maxlength="20000" />
        <p v-if="preview?.query && (form.before || form.after || form.language || form.kind)" class="small soft">
          As a query: <span class="mono">{{ preview.query }}</span>
        </p>
        <label class="small"
          ><input v-model="form.spare" type="checkbox" /> leave seeds and what is included already in</label
        >
        <label class="small"><input v-model="form.again" type="checkbox" /> repeat on what comes in later</label>
        <p v-if="fault && asks" class="bad small" role="alert">{{ (fault as Refusal).message }}</p>
        <template v-else-if="preview && asks">
          <p role="status">
            <b>{{ plural(preview.records, 'record') }}</b> would be set aside<span v-if="isFetching" class="soft">
              …</span
            >
          </p>
          <p v-if="preview.seeds.length" class="odd small">
            {{ plural(preview.seeds.length, 'seed') }}
            {{ form.spare ? 'would be among them and stay in' : 'are among them' }}:
            <template v-for="(seed, k) in preview.seeds.slice(0, 4)" :key="seed.id"
              >{{ k ? '; ' : '' }}<router-link :to="recordsLink(seed)">{{ seed.title }}</router-link></template
            >{{ preview.seeds.length > 4 ? ' …' : '' }}
          </p>
          <p v-if="preview.included.length" class="odd small">
            {{ plural(preview.included.length, 'included record') }}
            {{ form.spare ? 'would be among them and stay in' : 'are among them' }}:
            <template v-for="(one, k) in preview.included.slice(0, 4)" :key="one.id"
              >{{ k ? '; ' : '' }}<router-link :to="recordsLink(one)">{{ one.title }}</router-link></template
            >{{ preview.included.length > 4 ? ' …' : '' }}
          </p>
          <p v-if="preview.decided" class="small soft">
            {{ plural(preview.decided, 'record') }} it speaks of {{ preview.decided === 1 ? 'is' : 'are' }} excluded
            already and stay{{ preview.decided === 1 ? 's' : '' }} so.
          </p>
        </template>
        <p v-else class="small soft">Say a year, a language, a kind, or a query as under Plan.</p>
        <div class="row">
          <v-btn type="submit" class="main" :disabled="!preview?.records || !form.name.trim() || isFetching || !!fault"
            >Set {{ preview && asks ? count(preview.records) : '' }} aside</v-btn
          >
        </div>
      </form>
      <table v-if="preview?.examples.length && asks" class="small">
        <tbody>
          <tr v-for="example in preview.examples" :key="example.id">
            <td class="read">
              <router-link :to="recordsLink(example)">{{ example.title || 'Untitled' }}</router-link>
            </td>
            <td class="num soft">{{ example.year }}</td>
          </tr>
        </tbody>
      </table>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 400px;
}
.rule {
  max-width: 320px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.wide {
  width: 100%;
  display: block;
  margin-top: 2px;
}
td:first-child {
  overflow-wrap: anywhere;
}
</style>
