<script setup lang="ts">
// What the whole, every branch and every term finds.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

type Branch = Schemas['QueryBranch']
const props = defineProps<{ trial: Schemas['QueryTrial']; review: number; lit: string | null }>()
const emit = defineEmits<{ light: [branch: Branch] }>()

const most = computed(() => Math.max(1, ...props.trial.branches.map((it) => it.hits)))
const width = (n: number) => (n ? 4 + 96 * (Math.log(1 + n) / Math.log(1 + most.value)) : 0)

interface Row {
  it: Branch
  key: string
  depth: number
  joint: string
  name: string
  where: string
}
/** One row for each branch; a branch with a single part, such as a field around a group, is one with its part. */
const rows = computed<Row[]>(() => {
  const out: Row[] = []
  const below = (it: Branch) => props.trial.branches.filter((other) => other.path.length === it.path.length + 1 && it.path.every((k, n) => other.path[n] === k))
  function put(it: Branch, depth: number) {
    let [inner, parts, label, where] = [it, below(it), it.joint === 'in' ? '' : it.label, it.joint === 'in' ? it.label : '']
    while (parts.length === 1) {
      inner = parts[0]!
      parts = below(inner)
      if (inner.joint === 'in') where = inner.label
      else label ||= inner.label
    }
    const joint = parts.length ? inner.joint : ''
    const name = label || (!parts.length ? it.text : !it.path.length ? 'The whole query' : inner.text)
    out.push({ it, key: it.path.join('.'), depth, joint, name, where: parts.length ? where : '' })
    parts.forEach((part) => put(part, depth + 1))
  }
  if (props.trial.branches[0]) put(props.trial.branches[0], 0)
  return out
})
const JOINTS: Record<string, string> = { any: 'any of', all: 'all of', not: 'without', near: 'near' }
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
      <tr v-for="{ it, key, depth, joint, name, where } in rows" :key="key" :class="{ on: lit === key }">
        <td :style="{ paddingLeft: `${12 + 22 * depth}px` }" class="clip what" :title="it.text"><span v-if="joint" class="soft joint">{{ `${JOINTS[joint]} ` }}</span><b v-if="!depth">{{ name }}</b><span v-else :class="{ mono: !joint }">{{ name }}</span><span v-if="where" class="soft"> in {{ where }}</span></td>
        <td class="drawn"><span class="bar" :class="{ ochre: it.remark === 'many hits, no seed' }" :style="{ width: `${width(it.hits)}%` }" /></td>
        <td class="num"><router-link :to="records(it)">{{ count(it.hits) }}</router-link></td>
        <td class="num"><button v-if="seeded" class="seeds" :aria-label="`${it.seeds.length} of ${seeded} seeds found by ${it.text.slice(0, 80)}: show which`" @click="emit('light', it)">{{ it.seeds.length }} of {{ seeded }}</button><span v-else class="soft">—</span></td>
        <td class="num soft">{{ change(it) }}</td>
        <td class="small" :class="it.remark.startsWith('alone') ? 'pine' : 'odd'">{{ it.lost_seeds.length > 1 && it.remark ? `alone brings ${it.lost_seeds.length} seeds` : it.remark }}</td>
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
@media (max-width: 1200px) {
  .trial th:nth-child(2) { width: 64px; }
  .trial th:nth-child(3), .trial th:nth-child(4) { width: 68px; }
  .trial th:nth-child(5) { width: 80px; }
  .trial th:nth-child(6) { width: 108px; }
}
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
