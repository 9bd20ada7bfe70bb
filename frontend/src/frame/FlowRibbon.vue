<script setup lang="ts">
// The flow ribbon: seven stages' worth of navigation and status in one band, as thick as the records still in play.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { count, plural } from '@/common/format'
import { useReview } from '@/common/review'

const route = useRoute()
const { review, figures } = useReview()
const box = ref<HTMLElement | null>(null)
const width = ref(860)
const observer = new ResizeObserver(([entry]) => (width.value = Math.max(480, entry?.contentRect.width ?? 860)))
onMounted(() => box.value && observer.observe(box.value))
onBeforeUnmount(() => observer.disconnect())

const H = 88
const MID = 55
const LEFT = 8

interface Stage {
  name: string
  to: string
  figure: string
  list: string
  after: number
  lost: Lost[]
}

/** Records that leave the band at a stage, and the list of them. */
interface Lost {
  words: string
  list: string
}

const stages = computed<Stage[]>(() => {
  const base = `/reviews/${review.value}`
  const list = (key: string) => `${base}/records?list=${key}`
  const left = (...some: [number, string, string][]): Lost[] =>
    some.filter(([number]) => number).map(([, words, key]) => ({ words, list: list(key) }))
  const f = figures.data.value
  const now = f ?? {
    seeds: 0,
    found: 0,
    copies: 0,
    aside: 0,
    records: 0,
    questions: 0,
    open: 0,
    excluded: 0,
    sought: 0,
    missing: 0,
    reports_excluded: 0,
    included: 0,
    studies: 0,
    charted: 0,
    analyses: 0,
    adds_up: true,
    decided: 0,
  }
  return [
    {
      name: 'Plan',
      to: `${base}/plan`,
      figure: plural(now.seeds, 'seed'),
      list: list('seeds'),
      after: 0,
      lost: [],
    },
    {
      name: 'Gather',
      to: `${base}/gather`,
      figure: `${count(now.found)} in`,
      list: list('found'),
      after: now.found,
      lost: [],
    },
    {
      name: 'Match',
      to: `${base}/match`,
      figure: now.questions ? `${plural(now.questions, 'pair')} open` : now.found ? 'all settled' : '—',
      list: `${base}/match`,
      after: now.records,
      lost: left(
        [now.copies, plural(now.copies, 'copy', 'copies'), 'copies'],
        [now.aside, `${count(now.aside)} set aside`, 'aside'],
      ),
    },
    {
      name: 'Screen',
      to: `${base}/screen`,
      figure: now.open ? `${count(now.open)} to go` : now.records ? 'all decided' : '—',
      list: list('open'),
      after: now.sought + now.open,
      lost: left([now.excluded, `${count(now.excluded)} excluded`, 'excluded']),
    },
    {
      name: 'Chart',
      to: `${base}/chart`,
      figure: now.studies ? `${count(now.charted)} of ${count(now.studies)}` : '—',
      list: list('studies'),
      after: now.included,
      lost: left(
        [now.missing, `${count(now.missing)} no full text`, 'missing'],
        [now.reports_excluded, `${count(now.reports_excluded)} excluded`, 'reports_excluded'],
      ),
    },
    {
      name: 'Pool',
      to: `${base}/pool`,
      figure: now.analyses ? plural(now.analyses, 'analysis', 'analyses') : '—',
      list: `${base}/pool`,
      after: now.included,
      lost: [],
    },
    {
      name: 'Report',
      to: `${base}/report`,
      figure: now.found ? (now.adds_up ? 'flow adds up' : 'does not add up') : '—',
      list: `${base}/report`,
      after: now.included,
      lost: [],
    },
  ]
})

const step = computed(() => (width.value - 2 * LEFT) / stages.value.length)
const most = computed(() => Math.max(1, ...stages.value.map((stage) => stage.after)))
const thick = (n: number) => (n ? Math.max(3, 22 * Math.sqrt(n / most.value)) : 2)

const band = computed(() => {
  let top = ''
  const bottom: string[] = []
  stages.value.forEach((stage, i) => {
    const x0 = LEFT + i * step.value
    const x1 = x0 + step.value
    const c = x0 + 26
    const now = thick(stage.after)
    const before = i ? thick(stages.value[i - 1]!.after) : 2
    const [y0, y1] = [MID - before / 2, MID - now / 2]
    top += `${i ? 'L' : 'M'}${x0} ${y0} C${c} ${y0} ${c - 14} ${y1} ${x0 + 44} ${y1} L${x1} ${y1} `
    bottom.unshift(
      `L${x1} ${MID + now / 2} L${x0 + 44} ${MID + now / 2} C${c - 14} ${MID + now / 2} ${c} ${MID + before / 2} ${x0} ${MID + before / 2} `,
    )
  })
  return `${top}${bottom.join('')}Z`
})

function branch(i: number): { path: string; size: number } {
  const x0 = LEFT + i * step.value
  const before = thick(stages.value[i - 1]?.after ?? 0)
  const size = Math.max(1.5, Math.min(7, (before - thick(stages.value[i]!.after)) / 3))
  const y = MID + before / 2 - size / 2
  return { path: `M${x0} ${y} C${x0 + 18} ${y} ${x0 + 20} ${MID + 12} ${x0 + 20} 82`, size }
}
</script>

<template>
  <nav ref="box" class="ribbon" aria-label="Stages">
    <svg :viewBox="`0 0 ${width} ${H}`" :width="width" :height="H" aria-hidden="true">
      <path :d="band" fill="var(--ks-copper)" fill-opacity=".22" stroke="var(--ks-copper)" stroke-opacity=".5" />
      <template v-for="(stage, i) in stages" :key="stage.name">
        <path
          v-if="stage.lost.length"
          :d="branch(i).path"
          fill="none"
          stroke="var(--ks-slate)"
          stroke-opacity=".45"
          :stroke-width="branch(i).size"
        />
      </template>
    </svg>
    <div
      v-for="(stage, i) in stages"
      :key="stage.name"
      class="stage"
      :class="{ live: route.meta.stage === stage.name }"
      :style="{ left: `${LEFT + i * step}px`, width: `${step}px` }"
    >
      <router-link :to="stage.to" class="name" :aria-current="route.meta.stage === stage.name ? 'page' : undefined">{{
        stage.name
      }}</router-link>
      <router-link
        :to="stage.list"
        class="figure"
        :class="{ bad: stage.figure === 'does not add up' }"
        :aria-label="`${stage.name}: ${stage.figure}, open the list`"
        >{{ figures.data.value ? stage.figure : '…' }}</router-link
      >
      <div class="lost">
        <router-link
          v-for="one in stage.lost"
          :key="one.list"
          :to="one.list"
          :aria-label="`${one.words}, open the list`"
          >{{ one.words }}</router-link
        >
      </div>
    </div>
  </nav>
</template>

<style scoped>
.ribbon {
  position: relative;
  min-width: 0;
  height: 88px;
  overflow: hidden;
}
.ribbon svg {
  position: absolute;
  inset: 0;
}
.stage {
  position: absolute;
  top: 0;
  height: 88px;
  padding: 8px 4px 0 8px;
}
.stage.live::before {
  content: '';
  position: absolute;
  left: 8px;
  right: 16px;
  top: 0;
  border-top: 2px solid var(--ks-copper);
}
.stage a {
  color: inherit;
  text-decoration: none;
  display: block;
  width: max-content;
  max-width: 100%;
}
.name {
  font-weight: 600;
  line-height: 16px;
}
.live .name {
  color: var(--ks-copper);
}
.figure {
  color: var(--ks-soft);
  font-size: 12px;
  line-height: 16px;
}
.figure.bad {
  color: var(--ks-bad);
  font-weight: 600;
}
.figure:hover,
.lost a:hover {
  text-decoration: underline;
}
.lost {
  position: absolute;
  left: 32px;
  bottom: 1px;
  font-size: 11px;
  line-height: 12px;
  white-space: nowrap;
}
.stage .lost a {
  color: var(--ks-soft);
}
</style>
