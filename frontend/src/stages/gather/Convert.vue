<script setup lang="ts">
// A file of records in another format, outside any review. Nothing is kept.
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { Refusal, upload, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { complain } from '@/common/messages'
import AccountMenu from '@/frame/AccountMenu.vue'
import { CERTAINTY, FIELD_NAMES } from './reading'
import { FILE_COLUMNS, LOSS_WORDS, save, WRITE_FORMATS, type WriteFormat } from './writing'

const router = useRouter()
const input = ref<HTMLInputElement | null>(null)
const file = ref<File | null>(null)
const found = ref<Schemas['Converted'] | null>(null)
const sent = ref(-1)
const fault = ref('')
const over = ref(false)
const to = ref<WriteFormat>('ris')
const columns = ref(FILE_COLUMNS.map(([key]) => key as string).filter((key) => key !== 'other'))
const isTable = computed(() => to.value === 'csv' || to.value === 'xlsx')
const losses = computed(() => found.value?.losses[to.value] ?? [])
async function look(files: FileList | null | undefined) {
  const picked = files?.[0]
  if (!picked) return
  found.value = null
  fault.value = ''
  sent.value = 0
  try {
    found.value = (await upload(
      '/api/convert/look',
      picked,
      (share) => (sent.value = share),
    )) as unknown as Schemas['Converted']
    file.value = picked
  } catch (failure) {
    if (failure instanceof Refusal && failure.status === 401)
      return router.replace({ path: '/sign-in', query: { next: '/convert' } })
    fault.value = failure instanceof Refusal ? failure.message : String(failure)
  }
  sent.value = -1
  if (input.value) input.value.value = ''
}
async function write() {
  if (!file.value) return
  const body = new FormData()
  body.append('file', file.value)
  const query = new URLSearchParams({ to: to.value })
  if (isTable.value) columns.value.forEach((key) => query.append('columns', key))
  try {
    await save(`/api/convert?${query}`, body, 'records')
  } catch (failure) {
    complain(failure)
  }
}
const toggle = (key: string) =>
  (columns.value = columns.value.includes(key)
    ? columns.value.filter((column) => column !== key)
    : FILE_COLUMNS.map(([name]) => name as string).filter((name) => name === key || columns.value.includes(name)))
const filled = computed(() => Object.entries(found.value?.filled ?? {}).filter(([, n]) => n))
</script>

<template>
  <div class="page">
    <header class="bar-top sheet">
      <router-link to="/" class="read brand">Kettle Sort</router-link><span class="push" /><AccountMenu />
    </header>
    <main class="body">
      <h1 class="read">A file of records, in another format</h1>
      <p class="soft">
        RIS, NBIB, BibTeX, CSV, TSV, XLSX, ODS, MEDLINE XML, CSL-JSON, labelled text of any kind, or a ZIP of these.
        Nothing of it is kept here.
      </p>
      <div
        class="drop"
        :class="{ over }"
        @dragover.prevent="over = true"
        @dragleave="over = false"
        @drop.prevent="((over = false), look($event.dataTransfer?.files))"
      >
        <input ref="input" type="file" class="unseen" aria-label="File to convert" @change="look(input?.files)" /><v-btn
          class="main"
          @click="input?.click()"
          >Choose a file</v-btn
        ><span class="soft">or drop it here</span>
        <span v-if="sent >= 0" class="small soft" role="status">{{
          sent < 1 ? `${Math.round(sent * 100)} % sent` : 'being read …'
        }}</span>
      </div>
      <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
      <div v-if="found" class="two">
        <section>
          <h2>{{ found.filename }}</h2>
          <table class="small">
            <tbody>
              <tr>
                <th>Read as</th>
                <td>{{ found.format }}, {{ CERTAINTY[found.certainty] }}</td>
              </tr>
              <tr>
                <th>Encoding</th>
                <td>{{ found.encoding }}</td>
              </tr>
              <tr>
                <th>Records</th>
                <td>{{ count(found.records) }}</td>
              </tr>
              <tr v-for="[name, n] in filled" :key="name">
                <th>{{ FIELD_NAMES[name] ?? name }}</th>
                <td>{{ count(n) }}</td>
              </tr>
            </tbody>
          </table>
          <template v-if="found.doubts.length || found.problems.length"
            ><h3>Look at these</h3>
            <table class="small">
              <tbody>
                <tr v-for="doubt in found.doubts" :key="doubt.message">
                  <td class="odd">{{ doubt.message }}</td>
                  <td class="num soft">
                    {{
                      doubt.lines.length
                        ? `line ${doubt.lines.slice(0, 3).map(count).join(', ')}${doubt.records > 3 ? ' …' : ''}`
                        : ''
                    }}
                  </td>
                </tr>
                <tr v-for="(problem, k) in found.problems.slice(0, 40)" :key="k">
                  <td class="odd">{{ problem.message }}</td>
                  <td class="num soft">{{ problem.line ? `line ${count(problem.line)}` : '' }}</td>
                </tr>
              </tbody>
            </table></template
          >
        </section>
        <section>
          <h2>Written as</h2>
          <div class="formats" role="radiogroup" aria-label="Format">
            <label v-for="write_format in WRITE_FORMATS" :key="write_format.value"
              ><input v-model="to" type="radio" name="format" :value="write_format.value" /> {{ write_format.title }}
              <span class="soft small">{{
                found.losses[write_format.value]?.length
                  ? `loses something of ${plural(Math.max(...found.losses[write_format.value]!.map((one) => one.records)), 'record')}`
                  : 'loses nothing'
              }}</span></label
            >
          </div>
          <div v-if="isTable" class="columns small">
            <label v-for="[key, title] in FILE_COLUMNS" :key="key"
              ><input type="checkbox" :checked="columns.includes(key)" @change="toggle(key)" /> {{ title }}</label
            >
          </div>
          <template v-if="losses.length"
            ><h3>
              What it cannot hold{{
                found.compared < found.records ? `, in the first ${count(found.compared)} records` : ''
              }}
            </h3>
            <table class="small">
              <tbody>
                <tr v-for="loss in losses" :key="loss.field">
                  <td>{{ LOSS_WORDS[loss.field] ?? loss.field }}</td>
                  <td class="num">{{ count(loss.records) }}</td>
                  <td class="soft value">
                    {{ loss.before }}<template v-if="loss.after"> → {{ loss.after }}</template>
                  </td>
                </tr>
              </tbody>
            </table></template
          >
          <p class="gap">
            <v-btn class="main" @click="write">Write {{ plural(found.records, 'record') }}</v-btn>
          </p>
        </section>
      </div>
    </main>
  </div>
</template>

<style scoped>
.page {
  height: 100dvh;
  overflow: auto;
}
.bar-top {
  display: flex;
  align-items: center;
  height: 48px;
  padding: 0 24px;
  border-bottom: 1px solid var(--ks-hair);
}
.brand {
  font-weight: 700;
  color: var(--ks-ink);
  text-decoration: none;
}
.body {
  max-width: 1080px;
  padding: 24px;
  display: grid;
  gap: 12px;
}
h1 {
  font-size: 22px;
  line-height: 30px;
}
h3 {
  margin-top: 14px;
}
.drop {
  border: 1px dashed var(--ks-hair);
  border-radius: 3px;
  padding: 20px;
  display: flex;
  gap: 12px;
  align-items: center;
}
.drop.over {
  border-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 32px;
}
.formats {
  display: grid;
  gap: 4px;
  margin: 6px 0;
}
.columns {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 2px 8px;
}
.value {
  overflow-wrap: anywhere;
  max-width: 260px;
}
.gap {
  margin-top: 16px;
}
th {
  font-weight: 400;
}
td:first-child,
th:first-child {
  padding-left: 0;
}
</style>
