<script setup lang="ts">
// A list goes out as a spreadsheet, and comes back in with decisions and notes: what it would change is shown first.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, type Schemas } from '@/api/client'
import { count, plural, VERDICT_WORDS } from '@/common/format'
import LongList from '@/common/LongList.vue'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import UploadBox from '@/common/UploadBox.vue'
import VerdictMark from '@/common/VerdictMark.vue'

const AT_ONCE = 100
const route = useRoute()
const router = useRouter()
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const pass = computed<1 | 2>(() => (route.query.pass === '2' ? 2 : 1))
const list = computed(() => String(route.query.list ?? (pass.value === 1 ? 'open' : 'second_open')))
const set = (wanted: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...wanted } })
const { data: shown } = useQuery({
  queryKey: ['lists', review, list],
  queryFn: () => got(GET('/api/reviews/{review}/lists', { params: { ...path.value, query: { list: list.value } } })),
})
const { data: page } = useQuery({
  queryKey: ['records', review, 'sheet', list, pass],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/records', {
        params: { ...path.value, query: { list: list.value, pass_number: pass.value, limit: 1 } },
      }),
    ),
})
const link = computed(
  () => `/api/reviews/${review.value}/sheet?list=${encodeURIComponent(list.value)}&pass_number=${pass.value}`,
)

const looked = ref<Schemas['SheetLooked']>()
const busy = ref(false)
const done = ref(0)
const refused = ref<Schemas['RefusedRow'][]>([])
function came(answer: unknown) {
  refused.value = []
  looked.value = answer as Schemas['SheetLooked']
}
const changes = computed(() => looked.value?.changes ?? [])
const load = (offset: number, limit: number) =>
  Promise.resolve({ total: changes.value.length, rows: changes.value.slice(offset, offset + limit) })

async function takeIn() {
  const [wanted, number] = [changes.value, pass.value]
  busy.value = true
  done.value = 0
  const taken: Schemas['SheetChange'][] = []
  try {
    for (let at = 0; at < wanted.length && busy.value; at += AT_ONCE) {
      const some = wanted.slice(at, at + AT_ONCE)
      const said = await got(
        POST('/api/reviews/{review}/sheet/rows', {
          params: path.value,
          body: {
            pass_number: number,
            rows: some.map((one) => ({
              record: one.record,
              verdict: one.verdict as '' | 'include',
              criterion: one.criterion,
              note: one.note,
            })),
          },
        }),
      )
      taken.push(...some.filter((one) => said.records.includes(one.record)))
      refused.value = [...refused.value, ...said.refused]
      done.value = at + some.length
    }
  } catch (error) {
    complain(error)
  }
  const whole = busy.value
  busy.value = false
  looked.value = undefined
  await again()
  say(
    `${plural(taken.length, 'row')} of the sheet taken in${refused.value.length ? `, ${count(refused.value.length)} refused` : ''}${whole ? '' : '; the rest was left'}.`,
    () => undo(taken, number),
  )
}
async function undo(taken: Schemas['SheetChange'][], number: 1 | 2) {
  for (const one of taken) {
    if (one.verdict)
      await got(
        POST('/api/reviews/{review}/decisions/take-back', {
          params: path.value,
          body: { pass_number: number, record: one.record },
        }),
      )
    if (one.note !== null)
      await got(
        PUT('/api/reviews/{review}/records/{record}/note', {
          params: { path: { review: review.value, record: one.record } },
          body: { text: one.note_before },
        }),
      )
  }
  await again()
}
const again = () => refresh('records', 'figures', 'queue', 'own', 'passes', 'differences', 'remaining', 'progress')
const word = (verdict: string) => (verdict ? (VERDICT_WORDS[verdict] ?? verdict) : 'nothing')
</script>

<template>
  <div class="panes columns">
    <section class="pane pad side" tabindex="0" aria-label="Out and in">
      <h2>Send a list out</h2>
      <ChoiceField
        :model-value="String(pass)"
        :items="[
          { value: '1', title: 'First pass, titles and abstracts' },
          { value: '2', title: 'Second pass, full texts' },
        ]"
        label="For"
        @update:model-value="((looked = undefined), set({ pass: $event === '2' ? '2' : undefined, list: undefined }))"
      />
      <ChoiceField
        :model-value="list"
        :items="(shown?.offered ?? []).filter((one) => !['found', 'copies'].includes(one.value))"
        label="List"
        @update:model-value="set({ list: String($event) })"
      />
      <p class="small soft">
        A workbook with what you said so far, and columns for decision, reason and note. Decisions and reasons are
        chosen from lists; a row that says nothing changes nothing.
      </p>
      <v-btn :href="link" :disabled="!page?.total" download="to-decide.xlsx"
        >Download {{ plural(page?.total ?? 0, 'record') }}</v-btn
      >
      <template v-if="mayWrite">
        <h2>Take one in</h2>
        <p class="small soft">
          As a workbook or as CSV; all columns but Record and Decision may be gone. What it would change is shown before
          it does.
        </p>
        <UploadBox
          :address="`/api/reviews/${review}/sheet?pass_number=${pass}`"
          label="The sheet as it came back"
          button="Choose the sheet"
          hint="or drop it here"
          :refreshes="[]"
          @done="came"
        />
      </template>
    </section>
    <section class="pane sheet filled" aria-label="What it would change">
      <div v-if="!looked" class="pad soft">
        <p v-if="busy" role="status">
          {{ done ? `${count(done)} rows taken in …` : 'Being read …' }}
          <v-btn v-if="done" @click="busy = false">Stop</v-btn>
        </p>
        <template v-else-if="refused.length">
          <h2>Refused</h2>
          <ul>
            <li v-for="one in refused" :key="one.record">
              <router-link :to="`/reviews/${review}/records/${one.record}`">Record {{ one.record }}</router-link
              >: {{ one.message }}
            </li>
          </ul>
        </template>
        <p v-else>Nothing came back yet.</p>
      </div>
      <template v-else>
        <div class="head tall">
          <b>What it would change</b>
          <span class="soft small"
            >{{ plural(looked.changes.length, 'change') }}, {{ plural(looked.same, 'row') }} as they were{{
              looked.wrong.length ? `, ${count(looked.wrong.length)} not understood` : ''
            }}</span
          >
          <span class="push row">
            <v-btn @click="looked = undefined">Leave it</v-btn>
            <v-btn class="main" :disabled="!looked.changes.length || busy" @click="takeIn">{{
              busy ? `${count(done)} taken in …` : `Take in ${plural(looked.changes.length, 'row')}`
            }}</v-btn>
          </span>
        </div>
        <ul v-if="looked.wrong.length" class="wrong small" tabindex="0" aria-label="Not understood">
          <li v-for="one in looked.wrong" :key="one.line" class="odd">Row {{ one.line }}: {{ one.message }}</li>
        </ul>
        <LongList :load="load" :version="looked" :row-height="52" label="Changes">
          <template #row="{ row }">
            <div class="entry small">
              <span class="soft num">{{ (row as Schemas['SheetChange']).line }}</span>
              <span
                ><router-link
                  :to="`/reviews/${review}/records/${(row as Schemas['SheetChange']).record}`"
                  class="clip"
                  >{{ (row as Schemas['SheetChange']).title || 'Untitled' }}</router-link
                >
                <span v-if="(row as Schemas['SheetChange']).note !== null" class="soft clip"
                  >Note: {{ (row as Schemas['SheetChange']).note || 'removed' }}</span
                ></span
              >
              <span v-if="(row as Schemas['SheetChange']).verdict"
                >{{ word((row as Schemas['SheetChange']).before) }} →
                <VerdictMark :verdict="(row as Schemas['SheetChange']).verdict" words="" />
                {{ word((row as Schemas['SheetChange']).verdict)
                }}<span class="soft">{{
                  (row as Schemas['SheetChange']).reason ? `: ${(row as Schemas['SheetChange']).reason}` : ''
                }}</span></span
              ><span v-else class="soft">verdict as it was</span>
            </div>
          </template>
        </LongList>
      </template>
    </section>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: 320px minmax(0, 1fr);
}
.side {
  display: grid;
  gap: 10px;
  align-content: start;
}
.wrong {
  max-height: 30%;
  overflow: auto;
  margin: 0;
  padding: 8px 16px;
  list-style: none;
}
.entry {
  display: grid;
  grid-template-columns: 40px minmax(0, 1fr) minmax(0, 320px);
  gap: 12px;
  padding: 6px 16px;
  height: 100%;
  border-bottom: 1px solid var(--ks-hair);
}
.entry .clip {
  display: block;
}
</style>
