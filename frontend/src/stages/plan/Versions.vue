<script setup lang="ts">
// Two versions of the protocol side by side, the differing words marked.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got } from '@/api/client'
import { differ } from '@/common/differ'
import { moment } from '@/common/format'
import { useKeys } from '@/common/keys'
import { useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path } = useReview()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['protocol', review, 'versions'],
  queryFn: () => got(GET('/api/reviews/{review}/protocol/versions', { params: path.value })),
})
const newest = computed(() => data.value?.[0]?.version ?? 1)
const right = computed(() => Number(route.query.version) || newest.value)
const left = computed(() => Number(route.query.beside) || Math.max(1, right.value - 1))
const whole = computed(() => route.query.all === 'yes')
const choose = (said: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...said } })
const of = (version: number) => data.value?.find((one) => one.version === version)
const parts = computed(() => {
  const [one, two] = [of(left.value)?.sections ?? [], of(right.value)?.sections ?? []]
  const names = [...new Set([...two, ...one].map((one) => one.name))]
  return names
    .map((name) => ({
      name,
      a: one.find((one) => one.name === name)?.text ?? '',
      b: two.find((one) => one.name === name)?.text ?? '',
    }))
    .filter((name) => whole.value || name.a !== name.b)
    .map((name) => ({ ...name, pieces: differ(name.a, name.b) }))
})
const step = (by: number) =>
  right.value + by >= 1 &&
  right.value + by <= newest.value &&
  choose({ version: String(right.value + by), beside: undefined })
useKeys({ ArrowUp: () => step(1), ArrowDown: () => step(-1) })
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <label class="row small"
          ><input type="checkbox" :checked="whole" @change="choose({ all: whole ? undefined : 'yes' })" /> Also what is
          the same</label
        >
        <v-btn :to="`/reviews/${review}/plan`">To the protocol</v-btn>
      </Teleport>
      <section class="pane sheet" tabindex="0" aria-label="Two versions side by side">
        <table class="both">
          <thead>
            <tr>
              <th><span class="unseen">Part</span></th>
              <th>Version {{ left }}</th>
              <th>Version {{ right }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="part in parts" :key="part.name">
              <th scope="row">{{ part.name }}</th>
              <td v-for="(pieces, side) in part.pieces" :key="side" class="read">
                <span v-if="!pieces.length" class="soft">—</span
                ><template v-for="(piece, k) in pieces" :key="k"
                  ><del v-if="piece.differs && side === 0" class="against">{{ piece.text }}</del
                  ><ins v-else-if="piece.differs" class="for">{{ piece.text }}</ins
                  ><template v-else>{{ piece.text }}</template></template
                >
              </td>
            </tr>
            <tr v-if="!parts.length">
              <td />
              <td colspan="2" class="soft">
                {{ left === right ? 'This is one version beside itself.' : 'Both say the same.' }}
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <aside class="pane pad">
        <h2>Versions</h2>
        <ol class="versions">
          <li v-for="one in data" :key="one.version" :class="{ on: one.version === right }">
            <button
              :aria-current="one.version === right"
              @click="choose({ version: String(one.version), beside: undefined })"
            >
              <b>Version {{ one.version }}</b> <span class="soft small">{{ moment(one.at) }}, {{ one.by }}</span
              ><br />{{ one.reason || 'No reason given' }}<br /><span class="soft small">{{
                one.changes.map((change) => change.name).join(', ')
              }}</span>
            </button>
            <button
              v-if="one.version !== right"
              class="link small"
              :aria-pressed="one.version === left"
              @click="choose({ version: String(right), beside: String(one.version) })"
            >
              {{ one.version === left ? 'beside it' : 'put beside'
              }}<span class="unseen"> version {{ one.version }} beside version {{ right }}</span>
            </button>
          </li>
        </ol>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.both {
  table-layout: fixed;
}
.both thead th:first-child {
  width: 130px;
}
.both td {
  white-space: pre-wrap;
  font-size: 14px;
  line-height: 21px;
  overflow-wrap: anywhere;
}
.both tbody th {
  vertical-align: top;
}
del {
  text-decoration-skip-ink: none;
}
.versions {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
.versions li {
  border-bottom: 1px solid var(--ks-hair);
  padding: 8px 10px;
}
.versions button {
  display: inline;
}
</style>
