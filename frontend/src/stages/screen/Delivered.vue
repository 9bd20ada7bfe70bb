<script setup lang="ts">
// PDFs that came in a heap: each beside the records that it may belong to; what was sure is attached already.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST, PUT, type Schemas } from '@/api/client'
import { count, people, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import LongList from '@/common/LongList.vue'
import { attempt, say } from '@/common/messages'
import PdfReader from '@/common/PdfReader.vue'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import UploadBox from '@/common/UploadBox.vue'

type Pdf = Schemas['DeliveredPdf']
const STATES: Record<Pdf['state'], string> = {
  asked: 'whose is it?',
  unplaced: 'no record found',
  twice: 'came twice',
  refused: 'cannot be read',
  waiting: 'waits to be read',
  placed: 'attached',
}
const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch, dataUpdatedAt } = useQuery({
  queryKey: ['delivered', review],
  queryFn: () => got(GET('/api/reviews/{review}/delivered-pdfs', { params: path.value })),
})
const { data: sought } = useQuery({
  queryKey: ['full-texts', review],
  queryFn: () => got(GET('/api/reviews/{review}/full-texts', { params: path.value })),
})
const rows = computed(() => data.value ?? [])
const open = computed(() => rows.value.filter((row) => row.state === 'asked' || row.state === 'unplaced'))
const chosen = computed(() => rows.value.find((row) => row.id === Number(route.query.pdf)) ?? open.value[0])
const current = computed(() => rows.value.findIndex((row) => row.id === chosen.value?.id))
const version = computed(() => String(dataUpdatedAt.value))
const load = (offset: number, limit: number) =>
  Promise.resolve({ total: rows.value.length, rows: rows.value.slice(offset, offset + limit) })
const choose = (pdfundefined: Pdf | undefined) =>
  pdfundefined && router.replace({ query: { pdf: String(pdfundefined.id) } })
const move = (by: number) => choose(rows.value[Math.min(rows.value.length - 1, Math.max(0, current.value + by))])

const records = computed(() => new Map((sought.value ?? []).map((one) => [one.id, one])))
const proposals = computed(() =>
  (chosen.value?.proposals ?? []).flatMap((proposal) => {
    const record = records.value.get(proposal.id)
    return record ? [{ ...proposal, record }] : []
  }),
)
const typed = ref('')
watch(
  () => chosen.value?.id,
  () => (typed.value = ''),
)
const others = computed(() => {
  const words = typed.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return []
  return (sought.value ?? [])
    .filter((one) => {
      const text = `${one.title} ${one.authors.join(' ')} ${one.year ?? ''} ${one.doi}`.toLowerCase()
      return words.every((word) => text.includes(word))
    })
    .slice(0, 30)
})
const byHand = computed(() => chosen.value?.state !== 'placed' && chosen.value?.state !== 'waiting' && mayWrite.value)

const at = (pdf: number) => ({ path: { review: review.value, delivered: pdf } })
const renewed = () => refresh('delivered', 'full-texts', 'figures')
/** Attach the chosen file to a record, or drop it, and go on to the next that is asked. */
async function place(record: Schemas['Sought'] | null) {
  const pdf = chosen.value
  if (!pdf || !byHand.value || (record && pdf.state === 'refused')) return
  const after = open.value[(open.value.indexOf(pdf) + 1) % Math.max(1, open.value.length)]
  const done = await attempt(() =>
    got(
      PUT('/api/reviews/{review}/delivered-pdfs/{delivered}', {
        params: at(pdf.id),
        body: { record: record?.id ?? null },
      }),
    ).then(() => true),
  )
  if (!done) return
  if (record)
    say(`${pdf.filename} is attached to “${record.title}”.`, async () => {
      await got(
        DELETE('/api/reviews/{review}/records/{record}/pdf', {
          params: { path: { review: review.value, record: record.id } },
        }),
      )
      await renewed()
    })
  else
    say(`${pdf.filename} is dropped.`, async () => {
      await got(POST('/api/reviews/{review}/delivered-pdfs/{delivered}/back', { params: at(pdf.id) }))
      await renewed()
    })
  if (after && after !== pdf) await choose(after)
  await renewed()
}
useKeys({
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
  d: () => place(null),
  ...Object.fromEntries(
    Array.from({ length: 5 }, (_, k) => [String(k + 1), () => proposals.value[k] && place(proposals.value[k].record)]),
  ),
})
const reference = (sought: Schemas['Sought']) =>
  [people(sought.authors), sought.year ?? 'no year', sought.journal].filter(Boolean).join(' · ')
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <span class="soft small"
        >{{ plural(open.length, 'PDF') }} to place ·
        {{ count(rows.filter((row) => row.state === 'placed').length) }} attached</span
      >
      <router-link class="small" :to="`/reviews/${review}/screen/full-texts`">All full texts</router-link>
    </Teleport>
    <div class="panes columns">
      <section class="pane filled" aria-label="Delivered PDFs">
        <UploadBox
          v-if="mayWrite"
          :address="`/api/reviews/${review}/delivered-pdfs`"
          label="PDFs, or a ZIP of PDFs"
          button="Choose PDFs"
          hint="or drop a heap of them, or a ZIP, here"
          :refreshes="['delivered', 'full-texts', 'figures']"
        />
        <LongList :load="load" :version="version" :row-height="52" :current="current" label="Delivered PDFs">
          <template #row="{ row }">
            <button class="entry small" :class="{ on: (row as Pdf).id === chosen?.id }" @click="choose(row as Pdf)">
              <span class="what"
                ><b class="clip">{{ (row as Pdf).filename }}</b
                ><span class="clip soft">{{ (row as Pdf).record_title ?? (row as Pdf).says }}</span></span
              >
              <span
                :class="{
                  odd: ['asked', 'unplaced', 'refused'].includes((row as Pdf).state),
                  soft: ['placed', 'twice', 'waiting'].includes((row as Pdf).state),
                }"
                >{{ STATES[(row as Pdf).state] }}</span
              >
            </button>
          </template>
          <template #empty
            ><p class="pad soft">
              No PDF came in a heap yet. Choose all that you have: each is matched by its DOI, its title and the text of
              its first page.
            </p></template
          >
        </LongList>
      </section>
      <section class="pane sheet">
        <PdfReader
          v-if="chosen && chosen.state !== 'refused'"
          :address="`/api/reviews/${review}/delivered-pdfs/${chosen.id}/pdf`"
          :name="chosen.filename"
        />
        <p v-else-if="chosen" class="pad odd" role="alert">
          {{ chosen.filename }} cannot be read: {{ chosen.problem.replace(/\.$/, '') }}. Ask for it again, and drop this
          one.
        </p>
        <p v-else class="pad soft">What was delivered is shown here beside the records that it may belong to.</p>
      </section>
      <aside class="pane pad side" aria-live="polite">
        <template v-if="chosen">
          <h2 class="clip">{{ chosen.filename }}</h2>
          <p class="small soft">
            {{ chosen.pages ? `${plural(chosen.pages, 'page')} · ` : '' }}came from {{ chosen.by }}
          </p>
          <p v-if="chosen.state === 'placed'" class="small">
            Attached to
            <router-link :to="`/reviews/${review}/screen/full-texts?record=${chosen.record}`">{{
              chosen.record_title
            }}</router-link>. If that is wrong, take it off there.
          </p>
          <p v-else-if="chosen.state === 'twice'" class="small odd">
            <template v-if="chosen.record">
              The same file is attached already to
              <router-link :to="`/reviews/${review}/screen/full-texts?record=${chosen.record}`">{{
                chosen.record_title
              }}</router-link>.</template
            ><template v-else>{{ chosen.problem }}</template>
          </p>
          <p v-else-if="chosen.problem && chosen.state !== 'refused'" class="small odd">{{ chosen.problem }}</p>
          <v-btn v-if="chosen.state === 'refused' && mayWrite" @click="place(null)">Drop it <kbd>D</kbd></v-btn>
          <template v-else-if="byHand">
            <h3 v-if="proposals.length" class="small soft">It may be</h3>
            <ol v-if="proposals.length" class="claims">
              <li v-for="(proposal, k) in proposals" :key="proposal.id" class="small">
                <button class="claim" @click="place(proposal.record)">
                  <kbd>{{ k + 1 }}</kbd>
                  <span class="what"
                    ><span class="read">{{ proposal.record.title }}</span
                    ><span class="soft">{{ reference(proposal.record) }}</span
                    ><span
                      ><template v-for="(word, n) in proposal.why" :key="word"
                        >{{ n ? ', ' : '' }}<span :class="{ odd: word.startsWith('but') }">{{ word }}</span></template
                      ><span v-if="proposal.record.filename" class="odd"> · has a PDF already</span></span
                    ></span
                  >
                </button>
              </li>
            </ol>
            <p v-else-if="chosen.state !== 'twice'" class="small">
              No record whose full text is sought has its DOI or its title.
            </p>
            <TextField v-model="typed" label="Another record" placeholder="Words of its title, author, DOI" />
            <ol v-if="others.length" class="claims others">
              <li v-for="other in others" :key="other.id" class="small">
                <button class="claim" @click="place(other)">
                  <span class="what"
                    ><span class="read">{{ other.title }}</span
                    ><span class="soft">{{ reference(other) }}</span></span
                  >
                </button>
              </li>
            </ol>
            <p v-else-if="typed.trim()" class="small soft">No record whose full text is sought has these words.</p>
            <v-btn @click="place(null)">Drop it <kbd>D</kbd></v-btn>
          </template>
        </template>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 280px minmax(0, 1fr) 300px;
}
.entry {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 8px;
  width: 100%;
  height: 100%;
  padding: 7px 12px;
  text-align: left;
  color: inherit;
}
.what {
  display: grid;
  min-width: 0;
}
.side {
  display: flex;
  flex-direction: column;
  gap: 8px;
  align-items: stretch;
}
.claims {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.others {
  max-height: 40vh;
  overflow: auto;
}
.claim {
  display: flex;
  gap: 8px;
  width: 100%;
  padding: 8px;
  text-align: left;
  align-items: start;
  border: 1px solid var(--ks-hair);
  border-radius: 3px;
  color: inherit;
  background: var(--ks-sheet);
}
.claim:hover {
  border-color: var(--ks-copper);
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 220px minmax(0, 1fr) 250px;
  }
}
</style>
