<script setup lang="ts">
// What the whole, every branch and every term finds.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

type Branch = Schemas['QueryBranch']
const props = defineProps<{ trial: Schemas['QueryTrial']; review: number; lit: string | null }>()
const emit = defineEmits<{ light: [branch: Branch] }>()

const most = computed(() => Math.max(1, ...props.trial.branches.map((it) => it.hits)))
const width = (n: number) => (n ? 4 + 106 * (Math.log(1 + n) / Math.log(1 + most.value)) : 0)
const name = (it: Branch) => it.label || (it.joint && it.path.length === 0 ? 'The whole query' : it.joint ? '' : it.text)
const JOINTS: Record<string, string> = { any: 'any of', all: 'all of', not: 'without', in: 'in', near: 'near' }
const records = (it: Branch) => ({ path: `/reviews/${props.review}/records`, query: { list: 'all', query: it.query } })
const change = (it: Branch) => {
  if (it.without_hits === null) return ''
  const by = it.without_hits - props.trial.branches[0]!.hits
  return by === 0 ? '±0' : (by > 0 ? '+' : '−') + count(Math.abs(by))
}
const seeded = computed(() => props.trial.seeds.length)
</script>

<template>
  <table class="trial">
    <thead><tr><th>Branch</th><th><span class="unseen">Hits, drawn</span></th><th class="num">Hits</th><th class="num">Seeds</th><th class="num" title="How the whole would change if this were taken out">Without it</th><th><span class="unseen">Remark</span></th></tr></thead>
    <tbody>
      <tr v-for="it in trial.branches" :key="it.path.join('.')" :class="{ on: lit === it.path.join('.') }">
        <td :style="{ paddingLeft: `${12 + 22 * it.path.length}px` }" class="clip what" :title="it.text"><span v-if="it.joint" class="soft joint">{{ `${JOINTS[it.joint]} ` }}</span><b v-if="!it.path.length">{{ name(it) }}</b><span v-else :class="{ mono: !it.joint }">{{ name(it) || it.text }}</span></td>
        <td class="drawn"><span class="bar" :class="{ ochre: it.remark === 'many hits, no seed' }" :style="{ width: `${width(it.hits)}px` }" /></td>
        <td class="num"><router-link :to="records(it)">{{ count(it.hits) }}</router-link></td>
        <td class="num"><button v-if="seeded" class="seeds" :aria-label="`${it.seeds.length} of ${seeded} seeds found by ${it.text.slice(0, 80)}: show which`" @click="emit('light', it)">{{ it.seeds.length }} of {{ seeded }}</button><span v-else class="soft">—</span></td>
        <td class="num soft">{{ change(it) }}</td>
        <td class="small" :class="it.remark.startsWith('alone') ? 'pine' : 'odd'">{{ it.remark }}<template v-if="it.lost_seeds.length > 1"> ({{ it.lost_seeds.length }})</template></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.trial { table-layout: fixed; }
.trial th:nth-child(2) { width: 130px; }
.trial th:nth-child(3), .trial th:nth-child(4) { width: 84px; }
.trial th:nth-child(5) { width: 88px; }
.trial th:nth-child(6) { width: 140px; }
.what { font-size: 13px; }
.what .mono { white-space: nowrap; }
.joint { white-space: pre; }
.num { white-space: nowrap; }
.drawn { vertical-align: middle; }
.bar { background: var(--ks-pine); display: block; }
.ochre { background: var(--ks-ochre); }
.num a { color: inherit; }
.seeds:hover, .num a:hover { color: var(--ks-pine); }
.seeds { text-decoration: underline; text-decoration-color: var(--ks-hair); text-underline-offset: 3px; }
.pine { color: var(--ks-pine); }
</style>
