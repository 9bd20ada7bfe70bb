<script setup lang="ts">
// What the whole, every branch and every term finds.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

import type { Elsewhere } from './catalogueCounts'

type Branch = Schemas['QueryBranch']
const props = defineProps<{
  trial: Schemas['QueryTrial']
  review: number
  lit: string | null
  elsewhere: Elsewhere | null
  alone: boolean
}>()
const emit = defineEmits<{ light: [branch: Branch]; look: [branch: Branch] }>()

const most = computed(() => Math.max(1, ...props.trial.branches.map((branch) => branch.hits)))
const width = (n: number) => (n ? 4 + 96 * (Math.log(1 + n) / Math.log(1 + most.value)) : 0)

interface Row {
  branch: Branch
  key: string
  depth: number
  joint: string
  name: string
  where: string
}
/** One row for each branch; a branch with a single part, such as a field around a group, is one with its part. */
const rows = computed<Row[]>(() => {
  const out: Row[] = []
  const below = (branch: Branch) =>
    props.trial.branches.filter(
      (other) => other.path.length === branch.path.length + 1 && branch.path.every((k, n) => other.path[n] === k),
    )
  function put(branch: Branch, depth: number) {
    let [inner, parts, label, where] = [
      branch,
      below(branch),
      branch.joint === 'in' ? '' : branch.label,
      branch.joint === 'in' ? branch.label : '',
    ]
    while (parts.length === 1) {
      inner = parts[0]!
      parts = below(inner)
      if (inner.joint === 'in') where = inner.label
      else label ||= inner.label
    }
    const joint = parts.length ? inner.joint : ''
    const name = label || (!parts.length ? branch.text : !branch.path.length ? 'The whole query' : inner.text)
    out.push({ branch, key: branch.path.join('.'), depth, joint, name, where: parts.length ? where : '' })
    parts.forEach((part) => put(part, depth + 1))
  }
  if (props.trial.branches[0]) put(props.trial.branches[0], 0)
  return out
})
const JOINTS: Record<string, string> = { any: 'any of', all: 'all of', not: 'without', near: 'near' }
const records = (branch: Branch) => ({
  path: `/reviews/${props.review}/records`,
  query: { list: 'all', query: branch.query },
})
const change = (branch: Branch) => {
  if (branch.without_hits === null) return ''
  const by = branch.without_hits - props.trial.branches[0]!.hits
  return by === 0 ? '±0' : (by > 0 ? '+' : '−') + count(Math.abs(by))
}
const seeded = computed(() => props.trial.seeds.length)
const there = (branch: Branch) => props.elsewhere?.of(branch)
const whole = computed(() => props.trial.branches[0])
/** How the catalogue's count of the whole would change without a branch. */
function thereWithout(branch: Branch) {
  const [without, total] = [there(branch)?.without, whole.value && there(whole.value)?.hits]
  if (without === undefined || total === undefined) return ''
  return without === total ? '±0' : (without > total ? '+' : '−') + count(Math.abs(without - total))
}
const parentOf = (branch: Branch) =>
  props.trial.branches.find(
    (other) => other.path.length === branch.path.length - 1 && other.path.every((k, n) => branch.path[n] === k),
  )
/** What stands out of a branch in the catalogue, by the same rules as in the records. */
function thereRemark(branch: Branch) {
  const found = there(branch)
  if (!found || found.hits === undefined) return found?.problem ?? ''
  const [above, total] = [parentOf(branch), whole.value && there(whole.value)]
  if (above?.joint === 'any' && total?.hits !== undefined) {
    if (found.withoutSeeds !== undefined && total.seeds && found.withoutSeeds < total.seeds.length)
      return 'alone brings a seed'
    if (!found.hits) return 'finds nothing'
    if (found.without === total.hits) return 'adds nothing'
    const group = there(above)?.hits
    if (seeded.value && !found.seeds?.length && group && found.hits * 20 >= group) return 'many hits, no seed'
  }
  return found.understood?.length && !branch.joint ? `taken as ${found.understood.map((u) => u.taken).join('; ')}` : ''
}
</script>

<template>
  <table class="trial" :class="{ alone, both: elsewhere && !alone }">
    <thead>
      <tr>
        <th>Branch</th>
        <template v-if="!alone"
          ><th class="narrow"><span class="unseen">Hits, drawn</span></th>
          <th class="num">Hits</th>
          <th class="num">Seeds</th></template
        ><template v-if="elsewhere"
          ><th class="num there">{{ alone ? 'Hits' : 'There' }}</th>
          <th class="num there">Seeds<span v-if="!alone" class="unseen"> there</span></th></template
        >
        <th class="num" title="How the whole would change if this were taken out">Without it</th>
        <th><span class="unseen">Remark</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="{ branch, key, depth, joint, name, where } in rows" :key="key" :class="{ on: lit === key }">
        <td :style="{ paddingLeft: `${12 + 22 * depth}px` }" class="clip what" :title="branch.text">
          <span v-if="joint" class="soft joint">{{ `${JOINTS[joint]} ` }}</span><b v-if="!depth">{{ name }}</b
          ><span v-else :class="{ mono: !joint }">{{ name }}</span
          ><span v-if="where" class="soft"> in {{ where }}</span>
        </td>
        <template v-if="!alone">
          <td class="drawn">
            <span
              class="bar"
              :class="{ ochre: branch.remark === 'many hits, no seed' }"
              :style="{ width: `${width(branch.hits)}%` }"
            />
          </td>
          <td class="num">
            <router-link :to="records(branch)">{{ count(branch.hits) }}</router-link>
          </td>
          <td class="num">
            <button
              v-if="seeded"
              class="seeds"
              :aria-label="`${branch.seeds.length} of ${seeded} seeds found by ${branch.text.slice(0, 80)}: show which`"
              @click="emit('light', branch)"
            >
              {{ branch.seeds.length }} of {{ seeded }}</button
            ><span v-else class="soft">—</span>
          </td>
        </template>
        <template v-if="elsewhere">
          <td class="num there" :title="there(branch)?.asked">
            <button
              v-if="there(branch)?.hits"
              class="seeds"
              :aria-label="`${count(there(branch)!.hits!)} in the catalogue: read them`"
              @click="emit('look', branch)"
            >
              {{ count(there(branch)!.hits!) }}</button><template v-else>{{
              there(branch)?.hits === 0 ? 0 : there(branch)?.problem ? '?' : '…'
            }}</template>
          </td>
          <td class="num there">{{ there(branch)?.seeds ? `${there(branch)!.seeds!.length} of ${seeded}` : '' }}</td>
        </template>
        <td class="num soft">{{ alone ? thereWithout(branch) : change(branch) }}</td>
        <td
          v-if="alone || thereRemark(branch).startsWith('The catalogue')"
          class="small clip"
          :title="thereRemark(branch)"
          :class="
            thereRemark(branch).startsWith('alone') ? 'pine' : thereRemark(branch).startsWith('taken') ? 'soft' : 'odd'
          "
        >
          {{ thereRemark(branch) }}
        </td>
        <td v-else class="small" :class="branch.remark.startsWith('alone') ? 'pine' : 'odd'">
          {{
            branch.lost_seeds.length > 1 && branch.remark
              ? `alone brings ${branch.lost_seeds.length} seeds`
              : branch.remark
          }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.trial {
  table-layout: fixed;
}
.trial th:nth-child(2) {
  width: 130px;
}
.trial th:nth-child(3),
.trial th:nth-child(4) {
  width: 84px;
}
.trial th:nth-child(5) {
  width: 88px;
}
.trial th:nth-child(6) {
  width: 140px;
}
@media (max-width: 1200px) {
  .trial th:nth-child(2) {
    width: 64px;
  }
  .trial th:nth-child(3),
  .trial th:nth-child(4) {
    width: 68px;
  }
  .trial th:nth-child(5) {
    width: 80px;
  }
  .trial th:nth-child(6) {
    width: 108px;
  }
}
.trial.alone th:nth-child(2),
.trial.alone th:nth-child(3) {
  width: 84px;
}
.trial.alone th:nth-child(4) {
  width: 88px;
}
.trial.alone th:nth-child(5) {
  width: 220px;
}
.trial.both th:nth-child(2) {
  width: 70px;
}
.trial.both th:nth-child(5),
.trial.both th:nth-child(6) {
  width: 76px;
}
.trial.both th:nth-child(7) {
  width: 84px;
}
.trial.both th:nth-child(8) {
  width: 120px;
}
.there {
  background: var(--ks-pine-wash);
}
.what {
  font-size: 13px;
}
.what .mono {
  white-space: nowrap;
}
.joint {
  white-space: pre;
}
.num {
  white-space: nowrap;
}
.drawn {
  vertical-align: middle;
}
.bar {
  background: var(--ks-pine);
  display: block;
}
.ochre {
  background: var(--ks-ochre);
}
.num a {
  color: inherit;
}
.seeds:hover,
.num a:hover {
  color: var(--ks-pine);
}
.seeds {
  text-decoration: underline;
  text-decoration-color: var(--ks-hair);
  text-underline-offset: 3px;
}
.pine {
  color: var(--ks-pine);
}
</style>
