<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, type Schemas } from '@/api/client'
import { count, FULL_TEXT_WORDS, people, plural } from '@/common/format'
import LongList from '@/common/LongList.vue'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import VerdictMark from '@/common/VerdictMark.vue'
import UploadBox from '@/common/UploadBox.vue'
import FullTextBox from './FullTextBox.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch, dataUpdatedAt } = useQuery({
  queryKey: ['full-texts', review],
  queryFn: () => got(GET('/api/reviews/{review}/full-texts', { params: path.value })),
})
const state = computed(() => String(route.query.state ?? ''))
const order = ref<number[]>([]) // as they stood when the page was opened: a report stays where one has just seen it
watch(data, (rows) => (order.value = [...new Set([...order.value, ...(rows ?? []).map((one) => one.id)])]), {
  immediate: true,
})
const shown = computed(() => {
  const found = new Map((data.value ?? []).map((one) => [one.id, one]))
  return order.value.flatMap((id) => found.get(id) ?? []).filter((one) => !state.value || one.fulltext === state.value)
})
const number = (of: string) => (data.value ?? []).filter((one) => !of || one.fulltext === of).length
const chosen = computed(() => data.value?.find((one) => one.id === Number(route.query.record)))
const version = computed(() => `${state.value}|${dataUpdatedAt.value}`)
const load = (offset: number, limit: number) =>
  Promise.resolve({ total: shown.value.length, rows: shown.value.slice(offset, offset + limit) })
const boxed = (sought: Schemas['Sought']) => ({
  id: sought.id,
  fulltext: sought.fulltext,
  full_text: sought.at
    ? {
        state: sought.fulltext,
        reason: sought.reason,
        at: sought.at,
        by: sought.by ?? '',
        file_id: sought.file_id,
        filename: sought.filename,
      }
    : null,
})
const { data: delivered } = useQuery({
  queryKey: ['delivered', review],
  queryFn: () => got(GET('/api/reviews/{review}/delivered-pdfs', { params: path.value })),
})
const toPlace = computed(
  () => (delivered.value ?? []).filter((one) => one.state === 'asked' || one.state === 'unplaced').length,
)
const refused = computed(() => (delivered.value ?? []).filter((one) => one.state === 'refused').length)
const beingRead = computed(() => (delivered.value ?? []).filter((one) => one.state === 'waiting').length)
const changed = () => refresh('full-texts', 'figures')
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <nav class="row small" aria-label="State of full texts">
        <router-link
          v-for="[key, label] in [
            ['', 'All'],
            ['sought', 'Still sought'],
            ['obtained', 'Obtained'],
            ['missing', 'Not obtained'],
          ]"
          :key="key"
          :to="{ query: key ? { state: key } : {} }"
          :aria-current="state === key ? 'page' : undefined"
          :class="{ chosen: state === key }"
          >{{ label }} {{ count(number(key!)) }}</router-link
        >
      </nav>
    </Teleport>
    <div class="panes columns">
      <section class="pane sheet filled">
        <div v-if="mayWrite && data?.length" class="heap small">
          <UploadBox
            :address="`/api/reviews/${review}/delivered-pdfs`"
            label="PDFs, or a ZIP of PDFs"
            button="Choose PDFs"
            hint="or drop a heap of them, or a ZIP, here: each is matched to its record"
            :refreshes="['delivered', 'full-texts', 'figures']"
          />
          <p class="row">
            <span v-if="beingRead" role="status">{{ plural(beingRead, 'PDF is', 'PDFs are') }} being matched</span>
            <router-link v-if="delivered?.length" :to="`/reviews/${review}/screen/delivered`"
              >{{
                toPlace
                  ? `${plural(toPlace, 'PDF')} to place by hand`
                  : `${plural(delivered.length, 'PDF')} came in heaps`
              }}{{ refused ? `, ${count(refused)} cannot be read` : '' }}</router-link
            >
            <a v-if="number('sought')" class="push" :href="`/api/reviews/${review}/full-texts/to-fetch`" download
              >List of {{ count(number('sought')) }} still sought, for a library (CSV)</a
            >
          </p>
        </div>
        <LongList :load="load" :version="version" :row-height="52" label="Full texts">
          <template #row="{ row }">
            <button
              class="entry"
              :class="{ on: (row as Schemas['Sought']).id === chosen?.id }"
              @click="router.replace({ query: { ...route.query, record: String((row as Schemas['Sought']).id) } })"
            >
              <VerdictMark :verdict="(row as Schemas['Sought']).second" />
              <span class="what"
                ><span class="clip read">{{ (row as Schemas['Sought']).title || 'Untitled' }}</span
                ><span class="soft small clip"
                  >{{ people((row as Schemas['Sought']).authors) }} ·
                  {{ (row as Schemas['Sought']).year ?? 'no year' }} · {{ (row as Schemas['Sought']).journal }}</span
                ></span
              >
              <span
                class="small"
                :class="
                  (row as Schemas['Sought']).fulltext === 'missing'
                    ? 'odd'
                    : (row as Schemas['Sought']).fulltext === 'sought'
                      ? 'soft'
                      : ''
                "
                >{{ FULL_TEXT_WORDS[(row as Schemas['Sought']).fulltext] }}<br /><span class="soft">{{
                  (row as Schemas['Sought']).filename ? 'PDF' : (row as Schemas['Sought']).reason
                }}</span></span
              >
            </button>
          </template>
          <template #empty
            ><div class="pad soft">
              <h2>No full text is sought</h2>
              <p>Records that the first pass includes appear here.</p>
            </div></template
          >
        </LongList>
      </section>
      <aside class="pane pad">
        <template v-if="chosen">
          <h2 class="read">{{ chosen.title }}</h2>
          <p class="small soft by">
            {{ people(chosen.authors, 6) }} · {{ chosen.journal }} {{ chosen.year
            }}<template v-if="chosen.doi">
              ·
              <a :href="`https://doi.org/${chosen.doi}`" target="_blank" rel="noreferrer noopener">{{
                chosen.doi
              }}</a></template
            >
          </p>
          <FullTextBox
            :key="chosen.id"
            :sheet="boxed(chosen)"
            :review="review"
            :may-write="mayWrite"
            @changed="changed"
          />
          <p v-if="chosen.fulltext === 'obtained'" class="small">
            <router-link :to="`/reviews/${review}/screen/second?record=${chosen.id}`">{{
              chosen.second === 'open' ? 'Decide in the second pass' : 'Its verdict in the second pass'
            }}</router-link>{{ chosen.criterion ? `: ${chosen.criterion}` : '' }}
          </p>
        </template>
        <p v-else class="soft">Choose a report to say what became of its full text, and to attach its PDF.</p>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 360px;
}
.heap {
  display: grid;
  gap: 6px;
  padding: 10px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.entry {
  display: grid;
  grid-template-columns: 16px minmax(0, 1fr) 150px;
  gap: 8px;
  width: 100%;
  height: 100%;
  padding: 6px 12px;
  text-align: left;
  color: inherit;
}
.entry .mark {
  margin-top: 4px;
}
.what {
  display: grid;
  font-size: 14px;
}
.by {
  margin: 6px 0 14px;
}
.chosen {
  color: var(--ks-ink);
  font-weight: 600;
  text-decoration: none;
}
</style>
