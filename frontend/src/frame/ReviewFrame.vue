<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { Refusal } from '@/api/client'
import { count } from '@/common/format'
import { useReview } from '@/common/review'
import { guideOpen } from '@/common/guide'
import LateDialog from '@/common/LateDialog.vue'
import StateOf from '@/common/StateOf.vue'
import FlowRibbon from './FlowRibbon.vue'
import { useLive } from './live'
import WorkInProgress from './WorkInProgress.vue'

const route = useRoute()
const router = useRouter()
const { review, protocol, role, figures } = useReview()
const { connected } = useLive(review)

watch(protocol.error, (error) => {
  if (error instanceof Refusal && error.status === 401)
    void router.replace({ path: '/sign-in', query: { next: route.fullPath } })
})

/** Keys belong to the view that has just opened, not to the link that opened it. */
const main = ref<HTMLElement | null>(null)
watch(
  () => route.path,
  () => nextTick(() => main.value?.focus({ preventScroll: true })),
)

const VIEWS: Record<string, [string, string][]> = {
  Plan: [
    ['plan', 'Protocol'],
    ['plan/seeds', 'Seeds'],
    ['plan/words', 'Words'],
    ['plan/vocabulary', 'Vocabulary'],
    ['plan/query', 'Query'],
    ['plan/syntaxes', 'Syntaxes'],
    ['plan/team', 'Team'],
  ],
  Gather: [
    ['gather', 'Searches'],
    ['gather/files', 'Files'],
    ['records', 'Records'],
    ['gather/narrowing', 'Narrowing'],
    ['gather/gaps', 'Gaps'],
    ['gather/recipes', 'Recipes'],
  ],
  Match: [
    ['match', 'To decide'],
    ['match/groups', 'Groups'],
    ['match/rule', 'Rule'],
    ['match/dry-runs', 'Dry runs'],
    ['match/checks', 'Checks'],
    ['match/answers', 'Answers'],
    ['match/late', 'Late copies'],
  ],
  Screen: [
    ['screen', 'First pass'],
    ['screen/groups', 'Groups'],
    ['screen/full-texts', 'Full texts'],
    ['screen/second', 'Second pass'],
    ['screen/differences', 'Differences'],
    ['screen/passes', 'Passes'],
    ['screen/agreement', 'Agreement'],
    ['screen/left', 'What is left'],
    ['screen/standing', 'Standing'],
  ],
  Chart: [
    ['chart', 'Evidence table'],
    ['chart/proposals', 'Proposals'],
    ['chart/extractors', 'Two extractors'],
    ['chart/appraisal', 'Appraisal'],
    ['chart/codebook', 'Codebook'],
    ['chart/concepts', 'Concepts'],
    ['chart/ask', 'Ask'],
  ],
  Pool: [
    ['pool', 'Analyses'],
    ['pool/summary', 'Summary table'],
  ],
  Report: [
    ['report', 'Flow'],
    ['report/history', 'History'],
  ],
}
const base = computed(() => `/reviews/${review.value}`)
const tabs = computed(() => VIEWS[String(route.meta.stage)] ?? [])
const WITHIN: Record<string, string> = {
  'gather/files': 'gather/files/',
  records: 'records/',
  plan: 'plan/versions',
  'match/dry-runs': 'match/dry-runs/',
  'screen/passes': 'screen/sheet',
  pool: 'pool/',
  'chart/extractors': 'chart/differences',
  'chart/appraisal': 'chart/appraisal/form',
}
const current = (path: string) =>
  route.path === `${base.value}/${path}` ||
  (path in WITHIN &&
    !tabs.value.some(([other]) => route.path === `${base.value}/${other}`) &&
    route.path.startsWith(`${base.value}/${WITHIN[path]}`))
const broken = computed(() => (figures.data.value?.checks ?? []).filter((check) => !check.holds))
</script>

<template>
  <div class="frame">
    <header class="top sheet">
      <div class="review">
        <router-link to="/" class="read title" :title="`${protocol.data.value?.title ?? ''}: to the list of reviews`">{{
          protocol.data.value?.title ?? 'Kettle Sort'
        }}</router-link>
        <small class="soft">Kettle Sort{{ protocol.data.value ? ` · ${role}` : '' }}</small>
      </div>
      <FlowRibbon />
      <WorkInProgress :connected="connected" />
    </header>
    <div v-if="broken.length" class="broken" role="alert">
      The figures do not add up:
      {{
        broken
          .map((one) => `${one.name} ${one.sum} = ${count(one.expected)}, but ${count(one.counted)} counted`)
          .join('; ')
      }}. Please do not report them; tell whoever runs this server.
    </div>
    <div class="views">
      <nav class="tabs" aria-label="Views">
        <router-link
          v-for="[path, name] in tabs"
          :key="path"
          :to="`${base}/${path}`"
          :class="{ here: current(path) }"
          :aria-current="current(path) ? 'page' : undefined"
          >{{ name }}</router-link
        >
      </nav>
      <button
        class="about"
        aria-label="Guide to this screen, and its keys"
        title="What one does here, and the keys"
        @click="guideOpen = true"
      >
        <kbd>?</kbd>
      </button>
      <div id="view-actions" class="push row"></div>
    </div>
    <main ref="main" class="work" tabindex="-1">
      <StateOf :pending="protocol.isPending.value" :error="protocol.error.value" :retry="() => protocol.refetch()">
        <router-view :key="`${review}-${route.meta.stage}-${route.meta.title}`" />
      </StateOf>
    </main>
    <LateDialog />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-rows: auto auto auto minmax(0, 1fr);
  height: 100dvh;
}
.top {
  display: grid;
  grid-template-columns: 208px minmax(0, 1fr) 184px;
  border-bottom: 1px solid var(--ks-hair);
  height: 88px;
}
.review {
  padding: 12px 16px;
  border-right: 1px solid var(--ks-hair);
  overflow: hidden;
}
.title {
  font-size: 15px;
  line-height: 20px;
  font-weight: 600;
  color: var(--ks-ink);
  text-decoration: none;
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.title:hover {
  text-decoration: underline;
}
.broken {
  background: var(--ks-bad);
  color: var(--ks-sheet);
  padding: 8px 16px;
  font-weight: 600;
  grid-row: 2;
}
.views {
  display: flex;
  align-items: center;
  gap: 20px;
  min-height: 40px;
  padding: 0 16px;
  border-bottom: 1px solid var(--ks-hair);
  grid-row: 3;
  min-width: 0;
}
.tabs {
  display: flex;
  gap: 20px;
  white-space: nowrap;
}
.tabs a {
  color: var(--ks-soft);
  line-height: 40px;
  text-decoration: none;
}
.tabs a.here {
  color: var(--ks-ink);
  font-weight: 600;
  box-shadow: inset 0 -2px var(--ks-copper);
}
.work:focus {
  outline: 0;
}
.work {
  min-height: 0;
  min-width: 0;
  grid-row: 4;
  overflow: hidden;
}
@media (max-width: 1100px) {
  .top {
    grid-template-columns: 168px minmax(0, 1fr) 156px;
  }
  .views {
    flex-wrap: wrap;
    gap: 0 16px;
  }
  .tabs {
    gap: 14px;
  }
  .views > .row:not(:empty) {
    padding-bottom: 4px;
  }
}
</style>
