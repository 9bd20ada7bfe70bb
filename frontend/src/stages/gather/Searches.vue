<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import { count, day, plural, SOURCE_KINDS } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import UploadBox from '@/common/UploadBox.vue'

const { review, path, protocol, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({ queryKey: ['searches', review], queryFn: () => got(GET('/api/reviews/{review}/searches', { params: path.value })) })
const { data: files } = useQuery({ queryKey: ['files', review], queryFn: () => got(GET('/api/reviews/{review}/files', { params: path.value })) })

const blank = () => ({ source: '', kind: 'database' as Schemas['SearchEntry']['kind'], query: '', run_on: '', run_by: '', notes: '', announced: '', limits: '' })
const form = reactive(blank())
const chosen = computed(() => (route.query.search === 'new' ? 'new' : Number(route.query.search) || null))
const entry = computed(() => data.value?.find((it) => it.id === chosen.value))
const touched = ref(false)
watch([chosen, entry, () => protocol.data.value?.limits], ([now], [before]) => {
  if (touched.value && now === before) return
  touched.value = false
  const it = entry.value
  const given = chosen.value === 'new' ? String(history.state?.query ?? '') : '' // a query written under Plan
  Object.assign(form, it ? { ...it, run_on: it.run_on ?? '', announced: it.announced ?? '' } : { ...blank(), query: given, limits: protocol.data.value?.limits ?? '' })
}, { immediate: true })

const choose = (search: number | 'new' | undefined) => router.push({ query: search ? { search: String(search) } : {} })
async function save() {
  const announced = String(form.announced).replace(/[\s,.]/g, '')
  if (announced && !/^\d+$/.test(announced)) return complain(new Refusal('The announced count is a whole number, such as 1284.', 422))
  const body = { ...form, run_on: form.run_on || null, announced: announced ? Number(announced) : null } as Schemas['SearchEntry']
  try {
    if (entry.value) await got(PUT('/api/reviews/{review}/searches/{search}', { params: { path: { review: review.value, search: entry.value.id } }, body }))
    else {
      const made = await got(POST('/api/reviews/{review}/searches', { params: path.value, body }))
      touched.value = false
      await refresh('searches')
      await choose(made.id)
    }
    touched.value = false
    await refresh('searches', 'figures', 'files')
    say('The search is in the log.')
  } catch (failure) {
    complain(failure)
  }
}
async function remove() {
  const search = entry.value
  if (!search) return
  const params = { path: { review: review.value, search: search.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/searches/{search}', { params })))) {
    say(`Search ${search.number} is out of the log.`, () => got(POST('/api/reviews/{review}/searches/{search}/back', { params })))
    await choose(undefined)
  }
  await refresh('searches')
}
const gap = (it: Schemas['Search']) => (it.announced === null || it.announced === undefined ? null : it.imported - it.announced)
const gapWords = (n: number) => (n === 0 ? 'all came' : n < 0 ? `${count(-n)} fewer came` : `${count(n)} more came`)
const own = computed(() => (files.value ?? []).filter((it) => it.search_id === chosen.value))
const sum = computed(() => (data.value ?? []).reduce((n, it) => n + it.imported, 0))
const STATES: Record<string, string> = { waiting: 'waiting', reading: 'being read', read: 'to look at', failed: 'could not be read', taken: 'taken in', aside: 'set aside' }
</script>

<template>
  <div class="panes" :class="{ columns: chosen }">
    <Teleport to="#view-actions" defer>
      <span class="soft small">{{ data?.length ? `${plural(data.length, 'search', 'searches')} · ${count(sum)} copies taken in` : '' }}</span>
      <v-btn v-if="mayWrite" class="main" @click="choose('new')">New search</v-btn>
    </Teleport>
    <section class="pane sheet">
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="!data?.length" class="pad soft">
          <h2>The search log is empty</h2>
          <p>Write down each search as it was run, then upload what the source exported for it. To see how it goes, upload a file from the folder <code>demo/files</code> of Kettle Sort.</p>
        </div>
        <table v-else>
          <thead><tr><th class="num">Search</th><th>Source</th><th>Run</th><th>Query</th><th class="num">Files</th><th class="num">Announced</th><th class="num">Taken in</th><th></th></tr></thead>
          <tbody>
            <tr v-for="it in data" :key="it.id" :class="{ on: it.id === chosen }">
              <td class="num">{{ it.number }}</td>
              <td><router-link :to="{ query: { search: String(it.id) } }"><b>{{ it.source }}</b></router-link><div class="soft small">{{ SOURCE_KINDS.find((kind) => kind.value === it.kind)?.title }}</div></td>
              <td class="small nowrap">{{ it.run_on ? day(it.run_on) : '—' }}<div class="soft">{{ it.run_by }}</div></td>
              <td><div class="mono query">{{ it.query || '—' }}</div></td>
              <td class="num"><router-link :to="`/reviews/${review}/gather/files?search=${it.id}`" :aria-label="`${it.files} files of search ${it.number}`">{{ it.files }}</router-link></td>
              <td class="num">{{ it.announced === null || it.announced === undefined ? '—' : count(it.announced) }}</td>
              <td class="num"><router-link :to="`/reviews/${review}/records?list=search:${it.id}`">{{ count(it.imported) }}</router-link></td>
              <td class="small" :class="gap(it) === 0 ? 'soft' : 'odd'">{{ gap(it) === null || (!it.imported && !it.files) ? '' : gapWords(gap(it)!) }}<div v-if="gap(it) && it.notes" class="soft clip note" :title="it.notes">{{ it.notes }}</div></td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside v-if="chosen" class="pane pad">
      <form class="fields" @submit.prevent="save" @input="touched = true">
        <div class="row"><h2>{{ entry ? `Search ${entry.number}` : 'New search' }}</h2><v-btn class="push" aria-label="Close" @click="choose(undefined)">Close</v-btn></div>
        <v-text-field v-model="form.source" label="Source" maxlength="200" :readonly="!mayWrite" />
        <v-select v-model="form.kind" :items="[...SOURCE_KINDS]" label="Kind of source, as PRISMA counts it" :readonly="!mayWrite" @update:model-value="touched = true" />
        <v-textarea v-model="form.query" label="Query, exactly as run" rows="3" class="code" :readonly="!mayWrite" />
        <v-text-field v-model="form.limits" label="Limits, such as dates and languages" maxlength="2000" :readonly="!mayWrite" />
        <div class="row">
          <v-text-field v-model="form.run_on" label="Run on" type="date" :readonly="!mayWrite" />
          <v-text-field v-model="form.run_by" label="by" :readonly="!mayWrite" />
        </div>
        <v-text-field v-model="form.announced" label="Count that the source announced" inputmode="numeric" :readonly="!mayWrite" />
        <v-textarea v-model="form.notes" label="Notes, such as why fewer came" rows="1" :readonly="!mayWrite" />
        <div v-if="mayWrite" class="row">
          <v-btn class="main" type="submit" :disabled="!form.source.trim()">{{ entry ? 'Save' : 'Write into the log' }}</v-btn>
          <v-btn v-if="entry && !entry.files" @click="remove">Remove</v-btn>
        </div>
      </form>
      <template v-if="entry">
        <UploadBox v-if="mayWrite" :address="`/api/reviews/${review}/searches/${entry.id}/files`" label="Files for this search" button="Upload files" hint="or drop them here: RIS, NBIB, BibTeX, CSV, TSV, XLSX" :refreshes="['files', 'searches']" class="block" />
        <table v-if="own.length" class="small">
          <tbody>
            <tr v-for="it in own" :key="it.id">
              <td><router-link :to="`/reviews/${review}/gather/files/${it.id}`">{{ it.filename }}</router-link></td>
              <td class="num">{{ it.records ? plural(it.records, 'record') : '' }}</td>
              <td :class="it.state === 'failed' ? 'bad' : it.state === 'read' ? 'odd' : 'soft'">{{ STATES[it.state] }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </aside>
  </div>
</template>

<style scoped>
.columns { grid-template-columns: minmax(0, 1fr) 400px; }
.query { max-width: 340px; max-height: 36px; overflow: hidden; }
.nowrap { white-space: nowrap; }
.note { max-width: 160px; }
.block { margin: 20px 0 8px; }
.code :deep(textarea) { font-family: ui-monospace, 'DejaVu Sans Mono', monospace; font-size: 12px; }
</style>
