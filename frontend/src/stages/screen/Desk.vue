<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got, PUT, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import Facets from '@/common/Facets.vue'
import { useFilter } from '@/common/filter'
import FirstStep from '@/common/FirstStep.vue'
import LongList from '@/common/LongList.vue'
import { attempt, complain } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import VerdictMark from '@/common/VerdictMark.vue'
import { useDesk, type Decision } from './desk'
import OrderChoice from './OrderChoice.vue'
import FullTextBox from './FullTextBox.vue'
import RecordSheet from './RecordSheet.vue'
import ReportSheet from './ReportSheet.vue'
import Underlining from './Underlining.vue'
import VerdictPanel from './VerdictPanel.vue'

const props = defineProps<{ pass: 1 | 2 }>()
const route = useRoute()
const { review, path, figures, protocol, mayWrite } = useReview()
const refresh = useRefresh()
const { filter, narrowed, query, set, clear } = useFilter({ list: props.pass === 1 ? 'screened' : 'assessed' })
const filtering = ref(false)
watch(filtering, (open) => open && nextTick(() => document.querySelector<HTMLElement>('.facets input')?.focus()))
const wording = ref(false)
const panel = ref<InstanceType<typeof VerdictPanel> | null>(null)
const { data: facets } = useQuery({
  queryKey: ['records', review, 'divided', props.pass, query],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/records/divided', {
        params: { ...path.value, query: { ...query.value, pass_number: props.pass } },
      }),
    ),
  enabled: filtering,
  placeholderData: keepPreviousData,
})
const queue = ref<{
  find: (match: (listed: Schemas['Listed']) => boolean) => number
  at: (index: number) => Promise<Schemas['Listed'] | undefined>
} | null>(null)
const total = ref(0)
const unlearnt = computed(() => desk.shown.value?.learned_from === 0)
const saves = ref(0)

const order = computed(() => Number(route.query.order) || undefined)
const deskQuery = computed(() => ({ ...query.value, verdict: undefined, order: order.value }))
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
const account = computed(() => me.value?.id)
const desk = useDesk(review, props.pass, deskQuery, afterwards, account)
function afterwards() {
  saves.value++
  void refresh('own', 'figures')
  if (several.value && ++since.value % 20 === 0) void refresh('passes') // counting all shares anew at each decision would cost more than it
}
const criteria = computed(() =>
  (protocol.data.value?.criteria ?? [])
    .map((criterion, k) => ({ ...criterion, number: k + 1 }))
    .filter((criterion) => (props.pass === 1 ? criterion.first : criterion.second)),
)
const { data: own } = useQuery({
  queryKey: ['own', review, props.pass],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/decisions/own', {
        params: { ...path.value, query: { pass_number: props.pass, limit: 12 } },
      }),
    ),
})
const { dataUpdatedAt } = useQuery({ queryKey: ['queue', review, props.pass], queryFn: () => Date.now() })
watch(dataUpdatedAt, (_, before) => before && mayWrite.value && desk.renew())
const version = computed(
  () => `${review.value} ${JSON.stringify(query.value)}${order.value}|${dataUpdatedAt.value}-${saves.value}`,
)
const stateOf = (listed: Schemas['Listed']) => listed.mine ?? (props.pass === 1 ? listed.first : listed.second)
const { data: passes } = useQuery({
  queryKey: ['passes', review],
  queryFn: () => got(GET('/api/reviews/{review}/passes', { params: path.value })),
})
const mode = computed(() => passes.value?.find((pass) => pass.pass_number === props.pass))
const several = computed(() => (mode.value?.mode.readers ?? 1) > 1)
const since = ref(0)
watch(passes, () => (since.value = 0))

async function load(offset: number, limit: number) {
  const page = await got(
    GET('/api/reviews/{review}/records', {
      params: { ...path.value, query: { ...query.value, order: order.value, pass_number: props.pass, offset, limit } },
    }),
  )
  return { total: page.total, rows: page.records }
}

onMounted(async () => {
  const record = Number(route.query.record)
  if (record) await desk.show(record)
  else if (mayWrite.value) await desk.next()
  if (!desk.shown.value) {
    const first = await queue.value?.at(0)
    if (first) await desk.show(first.id)
  }
})
watch(desk.shown, (one) => void set({ record: one ? String(one.id) : '' }), { flush: 'post' })
watch(
  () => Number(route.query.record),
  (record) => record && record !== desk.shown.value?.id && desk.show(record),
)
watch(
  () => JSON.stringify(deskQuery.value),
  () => mayWrite.value && desk.restart(),
)
/** Where the record that is shown stands in the queue: unfiltered, that is its rank. */
const current = computed(() => {
  const sheet = desk.shown.value
  if (!sheet || !total.value) return -1
  const found = queue.value?.find((row) => row.id === sheet.id) ?? -1
  const rank = order.value ? sheet.spoken?.rank : sheet.rank
  return found < 0 && !narrowed.value && props.pass === 1 && rank ? rank - 1 : found
})

function decide(said: Decision) {
  if (!mayWrite.value || !desk.shown.value) return
  panel.value?.flush()
  desk.decide(said)
}
function exclude(number: number) {
  const criterion = criteria.value.find((criterion) => criterion.number === number)
  if (criterion?.id) decide({ verdict: 'exclude', criterion: criterion.id })
}
async function move(by: number) {
  const to = await queue.value?.at(Math.max(0, current.value + by))
  if (to) await desk.show(to.id)
}
async function takeBack(record?: number) {
  if (!mayWrite.value) return
  try {
    await desk.takeBack(record)
    await refresh('passes')
  } catch (error) {
    complain(error)
  }
}
async function setSeed(seed: boolean) {
  const record = desk.shown.value?.id
  if (record)
    await attempt(() =>
      got(
        PUT('/api/reviews/{review}/records/{record}/seed', {
          params: { path: { review: review.value, record } },
          body: { seed },
        }),
      ),
    )
  await desk.again()
}
useKeys({
  Enter: () => decide({ verdict: 'include' }),
  '0': () => decide({ verdict: 'unsure' }),
  ...Object.fromEntries(Array.from({ length: 9 }, (_, k) => [String(k + 1), () => exclude(k + 1)])),
  Backspace: () => takeBack(),
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
  n: () => panel.value?.focusNote(),
  '*': () => takeBack(), // beside the digits of a number pad, for one hand
  f: () => (filtering.value = !filtering.value),
  w: () => (wording.value = true),
})
const done = computed(() =>
  props.pass === 1
    ? [figures.data.value?.decided ?? 0, figures.data.value?.records ?? 0]
    : [(figures.data.value?.assessed ?? 0) - (figures.data.value?.second_open ?? 0), figures.data.value?.assessed ?? 0],
)
const recent = computed(() => own.value ?? [])
</script>

<template>
  <div class="desk">
    <Teleport to="#view-actions" defer>
      <span v-if="desk.away.value" class="odd small" role="status"
        >The server cannot be reached.
        {{
          desk.unsent.value
            ? `${plural(desk.unsent.value, 'decision')} wait here and are sent when it is back.`
            : 'It is tried again by itself.'
        }}</span
      >
      <span v-else class="soft small"
        ><template v-if="several && mode"
          >you read {{ count(mode.mine_read + since) }}, {{ count(Math.max(0, mode.mine_left - since)) }} left for
          you</template
        ><template v-else>{{ pass === 1 ? 'Titles and abstracts' : 'Full texts' }}</template> · {{ count(done[0]!) }} of
        {{ count(done[1]!) }} decided</span
      >
      <v-btn @click="wording = true">Words <kbd>W</kbd></v-btn>
      <v-btn :aria-expanded="filtering" @click="filtering = !filtering"
        >Filter{{ narrowed ? ` (${narrowed})` : '' }} <kbd>F</kbd></v-btn
      >
    </Teleport>
    <Underlining v-model="wording" @changed="desk.again()" />
    <div class="panes columns">
      <Facets
        v-if="filtering"
        :total="total"
        :filter="filter"
        :facets="facets ?? {}"
        :verdicts="true"
        @set="set"
        @clear="clear"
      />
      <section v-show="!filtering" class="pane filled" aria-label="Queue">
        <div class="head">
          <OrderChoice
            :closeness="
              unlearnt ? 'In the order of import' : narrowed ? 'Filtered, by closeness' : 'By closeness to seeds'
            "
            :record="desk.shown.value?.id"
            @ready="mayWrite ? desk.restart() : desk.again()"
          /><span class="soft small push">{{ count(total) }}</span>
        </div>
        <p v-if="unlearnt" class="small soft begin">
          Nothing is known yet of what belongs.
          <router-link :to="`/reviews/${review}/plan/seeds`">Name studies that you know</router-link>, or include the
          first that fits: from then on the closest come first.
        </p>
        <LongList
          ref="queue"
          :load="load"
          :version="version"
          :row-height="62"
          :current="current"
          label="Records in order of closeness"
          @total="total = $event"
        >
          <template #row="{ row }">
            <router-link
              :to="{ query: { ...route.query, record: String((row as Schemas['Listed']).id) } }"
              class="entry small"
              :class="{ on: (row as Schemas['Listed']).id === desk.shown.value?.id }"
              :aria-current="(row as Schemas['Listed']).id === desk.shown.value?.id ? 'true' : undefined"
            >
              <span class="soft num">{{ (row as Schemas['Listed']).rank ?? '' }}</span>
              <VerdictMark :verdict="stateOf(row as Schemas['Listed'])" />
              <span class="what"
                ><span class="two">{{ (row as Schemas['Listed']).title || 'Untitled' }}</span
                ><span class="soft"
                  >{{ (row as Schemas['Listed']).year ?? 'no year' }}
                  <span
                    v-if="!unlearnt"
                    class="bar"
                    :style="{ width: `${Math.round(64 * ((row as Schemas['Listed']).closeness ?? 0))}px` }" /></span
              ></span>
            </router-link>
          </template>
          <template #empty
            ><p class="pad soft">
              {{
                narrowed
                  ? 'No record fits the filter.'
                  : pass === 1
                    ? 'No records yet: gather some first.'
                    : 'No full text has been obtained yet.'
              }}
            </p></template
          >
        </LongList>
      </section>
      <section class="pane sheet" aria-live="polite">
        <ReportSheet
          v-if="desk.shown.value?.full_text?.file_id && pass === 2"
          :key="`${desk.shown.value.id} in full`"
          :sheet="desk.shown.value"
          :review="review"
          :may-write="mayWrite"
          @seed="setSeed"
        />
        <RecordSheet
          v-else-if="desk.shown.value"
          :key="desk.shown.value.id"
          :sheet="desk.shown.value"
          :review="review"
          :may-write="mayWrite"
          :pass="pass"
          @seed="setSeed"
        />
        <div v-else-if="desk.empty.value" class="pad soft">
          <template v-if="pass === 1 && !figures.data.value?.records"
            ><h2>There is nothing to screen yet</h2>
            <FirstStep stage="Screen"
          /></template>
          <template v-else-if="narrowed"
            ><h2>Nothing undecided fits the filter</h2>
            <p><button class="link" @click="clear">Clear the filter</button> to go on.</p></template
          >
          <template v-else-if="pass === 1"
            ><h2>
              {{
                several
                  ? 'You have read everything that was for you'
                  : "Every record has a verdict, or is on a colleague's desk"
              }}
            </h2>
            <p v-if="several && mode?.differ">
              <router-link :to="`/reviews/${review}/screen/differences`"
                >{{ plural(mode.differ, 'record') }} on which verdicts differ</router-link
              >
              may wait for you.
            </p>
            <p>
              Go on with <router-link :to="`/reviews/${review}/screen/full-texts`">full texts</router-link>.
            </p></template
          >
          <template v-else
            ><h2>No obtained full text waits for a decision</h2>
            <p>
              Say what became of each under
              <router-link :to="`/reviews/${review}/screen/full-texts`">Full texts</router-link>.
            </p></template
          >
        </div>
        <p v-else class="pad soft" role="status">Loading …</p>
      </section>
      <aside class="pane pad">
        <FullTextBox
          v-if="pass === 2 && desk.shown.value"
          :sheet="desk.shown.value"
          :review="review"
          :may-write="mayWrite"
          @changed="desk.again()"
        />
        <VerdictPanel
          ref="panel"
          :sheet="desk.shown.value"
          :criteria="criteria"
          :recent="recent"
          :may-write="mayWrite"
          :review="review"
          :pass="pass"
          @decide="decide"
          @take-back="takeBack"
          @noted="desk.again()"
        />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
}
.columns {
  grid-template-columns: 284px minmax(0, 1fr) 292px;
}
.begin {
  padding: 8px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.entry {
  display: grid;
  grid-template-columns: 34px 16px minmax(0, 1fr);
  gap: 6px;
  padding: 6px 10px 4px 6px;
  height: 100%;
  color: inherit;
  text-decoration: none;
  align-items: start;
}
.entry .mark {
  margin-top: 2px;
}
.two {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.what {
  display: grid;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 220px minmax(0, 1fr) 240px;
  }
}
</style>
