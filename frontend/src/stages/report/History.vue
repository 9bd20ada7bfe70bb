<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { GET, got } from '@/api/client'
import { count, moment, plain } from '@/common/format'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path } = useReview()
const route = useRoute()
const kind = computed(() => String(route.query.kind ?? ''))
const { data, error, isPending, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: ['history', review, kind],
  initialPageParam: undefined as number | undefined,
  queryFn: ({ pageParam }) =>
    got(
      GET('/api/reviews/{review}/history', {
        params: { ...path.value, query: { before: pageParam, limit: 200, kind: kind.value } },
      }),
    ),
  getNextPageParam: (last) => (last.events.length === 200 ? last.events.at(-1)?.id : undefined),
})
const events = computed(() => data.value?.pages.flatMap((page) => page.events) ?? [])
const box = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({
    count: events.value.length,
    getScrollElement: () => box.value,
    estimateSize: () => 44,
    overscan: 20,
  })),
)
watch(
  () => virtual.value.getVirtualItems().at(-1)?.index,
  (last) => {
    if (last !== undefined && last > events.value.length - 40 && hasNextPage.value && !isFetchingNextPage.value)
      void fetchNextPage()
  },
)

const WORDS: Record<string, string> = {
  'plan.invited': 'made a link that invites',
  'plan.invitation_withdrawn': 'withdrew an invitation',
  'plan.review_made': 'made the review',
  'plan.amended': 'amended the protocol',
  'plan.question_changed': 'changed question or limits',
  'plan.elements_changed': 'changed the elements',
  'plan.sources_changed': 'changed the planned sources',
  'plan.archived': 'archived the review',
  'plan.brought_back': 'brought the review back',
  'plan.query_tried': 'tried a query',
  'plan.query_kept': 'kept a version of the query',
  'plan.vocabulary_loaded': 'loaded a vocabulary',
  'plan.vocabulary_not_read': 'a vocabulary could not be read',
  'plan.vocabulary_removed': 'put a vocabulary out of use',
  'plan.vocabulary_used': 'brought a vocabulary back',
  'plan.catalogue_connected': 'connected a catalogue',
  'plan.catalogue_disconnected': 'disconnected a catalogue',
  'plan.syntax_declared': 'changed a syntax',
  'plan.syntax_forgotten': 'removed a syntax',
  'plan.criteria_changed': 'changed the criteria',
  'plan.member_added': 'added a member',
  'plan.member_changed': 'changed a role',
  'plan.member_removed': 'removed a member',
  'gather.search_written': 'wrote a search into the log',
  'gather.search_changed': 'changed a search',
  'gather.search_removed': 'removed a search',
  'gather.search_brought_back': 'brought a search back',
  'gather.run_written': 'wrote that a search was done again',
  'gather.run_changed': 'changed a run',
  'gather.run_removed': 'removed a run',
  'gather.run_begun': 'began a run in a catalogue',
  'gather.run_composed': 'a catalogue was asked for what is like some records',
  'gather.run_resumed': 'took a run up again',
  'gather.run_stopped': 'a run stopped',
  'gather.run_done': 'a run was fetched',
  'gather.run_scheduled': 'planned runs',
  'gather.schedule_stopped': 'stopped planned runs',
  'gather.schedule_resumed': 'resumed planned runs',
  'gather.read_again': 'had a file read otherwise',
  'gather.recipe_kept': 'kept a reading recipe',
  'gather.recipe_removed': 'removed a recipe',
  'gather.recipe_brought_back': 'brought a recipe back',
  'gather.labelled': 'labelled records',
  'gather.unlabelled': 'took a label off',
  'gather.label_removed': 'removed a label',
  'gather.label_brought_back': 'brought a label back',
  'gather.narrowed': 'set records aside by a rule',
  'gather.narrowing_withdrawn': 'took a narrowing back',
  'gather.narrowed_again': 'applied a narrowing again',
  'gather.let_in': 'let a record in again',
  'gather.narrowed_one_again': 'set a record aside again',
  'gather.narrowing_changed': 'changed a narrowing',
  'gather.narrowing_repeated': 'a narrowing was repeated',
  'gather.gaps_left': 'left proposals',
  'gather.gaps_brought_back': 'brought proposals back',
  'gather.file_uploaded': 'uploaded a file',
  'gather.file_read': 'a file was read',
  'gather.file_not_read': 'a file could not be read',
  'gather.taken_in': 'took a file in',
  'gather.set_aside': 'set a file aside',
  'gather.brought_back': 'brought a file back',
  'gather.seed_marked': 'marked a seed',
  'gather.seed_unmarked': 'took a seed mark away',
  'gather.seeds_pasted': 'named seeds',
  'gather.seeds_brought_in': 'brought seeds in',
  'gather.filled': 'filled what a record lacked',
  'gather.unfilled': 'took back what was filled',
  'gather.seed_key_removed': 'removed an identifier',
  'match.run': 'copies were matched',
  'match.same': 'joined a pair',
  'match.different': 'told a pair apart',
  'match.later': 'put a pair off',
  'match.taken_back': 'took an answer back',
  'match.related': 'said a pair is two reports of one study',
  'match.rule': 'put a rule of matching in force',
  'match.applied': 'applied a dry run',
  'match.undone': 'undid a dry run',
  'match.value_chosen': 'chose a value',
  'match.value_unchosen': 'undid the choice of a value',
  'match.sample_drawn': 'drew a sample',
  'match.checked': 'checked a pair of a sample',
  'match.split': 'took a copy out of its group',
  'match.apart': 'took a group apart',
  'screen.decided_pass_1': 'decided, first pass',
  'screen.decided_pass_2': 'decided, second pass',
  'screen.taken_back_pass_1': 'took a decision back, first pass',
  'screen.taken_back_pass_2': 'took a decision back, second pass',
  'screen.settled_pass_1': 'settled a difference, first pass',
  'screen.settled_pass_2': 'settled a difference, second pass',
  'screen.reopened_pass_1': 'took back what settled a difference, first pass',
  'screen.reopened_pass_2': 'took back what settled a difference, second pass',
  'screen.mode_pass_1': 'changed how the first pass is screened',
  'screen.mode_pass_2': 'changed how the second pass is screened',
  'screen.shared_out': 'shared records out',
  'screen.given_back': 'gave records of a share back',
  'screen.put_back_on_share': 'put records back on a share',
  'screen.sample_drawn': 'drew a random sample',
  'screen.sample_withdrawn': 'took a random sample back',
  'screen.sample_brought_back': 'brought a random sample back',
  'screen.stopped': 'stopped the screening',
  'screen.grouped': 'grouped what is undecided',
  'screen.group_set_aside': 'set a far group aside',
  'screen.order_made': 'asked for another order',
  'screen.noted': 'noted',
  'screen.full_text': 'full text',
  'screen.underlining': 'changed the words to underline',
  'screen.pdf_dropped': 'dropped a delivered PDF',
  'screen.pdf_put_back': 'brought a dropped PDF back',
  'chart.codebook_changed': 'changed the codebook',
  'chart.value': 'wrote a value',
  'chart.read': 'read a value, as one of two',
  'chart.settled': 'settled a value that two read differently',
  'chart.settled_back': 'took back how a value was settled',
  'chart.extraction_mode': 'changed who reads values',
  'chart.studies_given': 'gave studies to people to read',
  'chart.judged': 'judged a domain of a study',
  'chart.judgement_settled': 'settled what two judged differently',
  'chart.judgement_settled_back': 'took back how a judgement was settled',
  'chart.appraisal_form': 'changed the form of appraisal',
  'pool.made': 'made an analysis',
  'pool.changed': 'changed an analysis',
  'pool.summed_up': 'changed the summary table',
  'pool.moved': 'moved an analysis to place',
  'pool.removed': 'took an analysis out of sight',
  'pool.brought_back': 'brought an analysis back',
  'chart.study_renamed': 'renamed a study',
  'chart.report_linked': 'moved a report to a study',
  'chart.level_added': 'gave a study an arm, outcome or time point',
  'chart.level_removed': 'took an arm, outcome or time point of a study away',
  'chart.reading_asked': 'had reports read for values',
  'chart.model_allowed': 'let the language model be asked',
  'chart.model_forbidden': 'no longer lets the language model be asked',
  'chart.proposal_refused': 'refused what was proposed',
  'chart.told_apart': 'said that two reports are of different studies',
  'chart.told_apart_back': 'took back that two reports are of different studies',
  'chart.question_kept': 'kept a question',
  'chart.question_dropped': 'dropped a question',
  'chart.answer_taken_back': 'took an answer to proposals back',
}
const STAGES = [
  ['', 'All'],
  ['plan', 'Plan'],
  ['gather', 'Gather'],
  ['match', 'Match'],
  ['screen', 'Screen'],
  ['chart', 'Chart'],
  ['pool', 'Pool'],
] as const
function shown(value: unknown): string {
  if (value === null || value === undefined || value === '') return '—'
  if (typeof value === 'string') return value
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value))
    return (
      value
        .map((one) =>
          typeof one === 'object' && one
            ? String(
                (one as { name?: string; label?: string }).name ??
                  (one as { label?: string }).label ??
                  JSON.stringify(one),
              )
            : shown(one),
        )
        .join('; ') || '—'
    )
  if (typeof value === 'object')
    return Object.entries(value)
      .filter(([name]) => name !== 'sha256')
      .map(([name, inner]) => `${name.replaceAll('_', ' ')} ${shown(inner)}`)
      .join(', ')
  return plain(value)
}
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <nav class="row small" aria-label="Stage">
        <router-link
          v-for="[key, name] in STAGES"
          :key="key"
          :to="{ query: key ? { kind: key } : {} }"
          :class="{ chosen: kind === key }"
          :aria-current="kind === key ? 'page' : undefined"
          >{{ name }}</router-link
        >
      </nav>
      <v-btn class="main" :href="`/api/reviews/${review}/history.csv`" download>Download CSV</v-btn>
    </Teleport>
    <section class="pane sheet whole">
      <div class="line head small soft">
        <span>When</span><span>Who</span><span>What</span><span>Of what</span><span>From</span><span>To</span>
      </div>
      <div ref="box" class="long" role="list" aria-label="History, newest first" tabindex="0">
        <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
          <div
            v-for="item in virtual.getVirtualItems()"
            :key="String(item.key)"
            class="line at"
            role="listitem"
            :style="{ transform: `translateY(${item.start}px)` }"
          >
            <span class="small soft">{{ moment(events[item.index]!.at) }}</span><span class="small">{{
              events[item.index]!.by
            }}</span
            ><span class="small">{{ WORDS[events[item.index]!.kind] ?? events[item.index]!.kind }}</span>
            <span class="two" :title="events[item.index]!.subject">{{ events[item.index]!.subject }}</span><span
              class="two small soft"
              :title="shown(events[item.index]!.before)"
              >{{ shown(events[item.index]!.before) }}</span
            ><span class="two small" :title="shown(events[item.index]!.after)">{{
              shown(events[item.index]!.after)
            }}</span>
          </div>
        </div>
      </div>
      <p class="small soft foot">{{ count(data?.pages[0]?.total ?? 0) }} events in all</p>
    </section>
  </StateOf>
</template>

<style scoped>
.whole {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  height: 100%;
  overflow: hidden;
}
.long {
  overflow: auto;
  min-height: 0;
}
.line {
  display: grid;
  grid-template-columns: 130px 110px 160px minmax(0, 1.4fr) minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  padding: 4px 12px;
  align-items: start;
}
.line.at {
  position: absolute;
  top: 0;
  left: 0;
  right: 0;
  height: 44px;
  border-bottom: 1px solid var(--ks-hair);
}
.two {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
  line-height: 17px;
  overflow-wrap: anywhere;
}
.foot {
  padding: 6px 12px;
  border-top: 1px solid var(--ks-hair);
}
.chosen {
  color: var(--ks-ink);
  font-weight: 600;
  text-decoration: none;
}
</style>
