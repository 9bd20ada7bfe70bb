<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { file, GET, got } from '@/api/client'
import { count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { useReview } from '@/common/review'
import FirstStep from '@/common/FirstStep.vue'
import StateOf from '@/common/StateOf.vue'

const { review, path, figures } = useReview()
const { data: removed } = useQuery({
  queryKey: ['removed', review],
  queryFn: () => got(GET('/api/reviews/{review}/removed-copies', { params: path.value })),
})
const route = useRoute()
const router = useRouter()
const drawing = computed(() => (route.query.drawing === 'standard' ? 'standard' : 'ours'))
const summed = computed(() => route.query.summed === 'yes')
const address = (kind: string) =>
  `/api/reviews/${review.value}/flow.${kind}?drawing=${drawing.value}&summed=${summed.value}`
const {
  data: svg,
  error,
  isPending,
  refetch,
} = useQuery({
  queryKey: ['flow', review, drawing, summed],
  placeholderData: keepPreviousData,
  queryFn: async () => {
    const drawn = await file(`${address('svg')}&screen=true`)
    return drawn.text()
  },
})
const set = (changes: Record<string, string>) =>
  router.replace({
    query: Object.fromEntries(Object.entries({ ...route.query, ...changes }).filter(([, value]) => value)),
  })
const open = ref(false)
useKeys({ d: () => (open.value = true) })

function follow(event: MouseEvent | KeyboardEvent) {
  const link = (event.target as Element).closest('a')
  const to = link?.getAttribute('href')
  if (!to || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  void router.push(to)
}
/** Held against verdicts and full texts themselves, which the figures of every screen are not. */
const { data: sums } = useQuery({
  queryKey: ['flow', review, 'sums'],
  queryFn: () => got(GET('/api/reviews/{review}/figures', { params: { ...path.value, query: { from_rows: true } } })),
})
const f = computed(() => sums.value ?? figures.data.value)
const KINDS = [
  ['svg', 'SVG, to edit and print'],
  ['png', 'PNG, for slides'],
  ['pdf', 'PDF, for the manuscript'],
  ['csv', 'CSV of the figures'],
]
</script>

<template>
  <StateOf :pending="isPending || !f" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <v-btn @click="set({ drawing: drawing === 'ours' ? 'standard' : '' })">{{
        drawing === 'ours' ? 'As the standard draws it' : 'With bands as wide as the records'
      }}</v-btn>
      <v-menu v-model="open">
        <template #activator="{ props }"
          ><v-btn v-bind="props" class="main">Download <kbd>D</kbd></v-btn></template
        >
        <v-list aria-label="Download"
          ><v-list-item v-for="[kind, words] in KINDS" :key="kind" :title="words" :href="address(kind!)" download
        /></v-list>
      </v-menu>
    </Teleport>
    <div v-if="f" class="panes columns">
      <section class="pane pad">
        <div v-if="!f.found" class="soft">
          <h2>Nothing has flowed yet</h2>
          <FirstStep stage="Report" />
        </div>
        <!-- eslint-disable-next-line vue/no-v-html -- drawn by the server, every text in it escaped -->
        <div v-else class="drawing" @click="follow" v-html="svg" />
      </section>
      <aside class="pane pad">
        <h2>The sums</h2>
        <p class="small soft">Counted from the records themselves</p>
        <table class="small sums">
          <tbody>
            <tr v-for="check in f.checks" :key="check.name" :class="{ bad: !check.holds }">
              <td>{{ check.name }}</td>
              <td :class="check.holds ? 'soft' : ''">
                {{ check.sum }}{{ check.holds ? '' : ` = ${count(check.expected)}, but counted:` }}
              </td>
              <td class="num">
                <b>{{ count(check.counted) }}</b>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="f.adds_up" class="small soft">Every sum holds.</p>
        <p v-else class="bad" role="alert"><b>The figures do not add up. Do not report them.</b></p>
        <template v-if="removed?.by.length">
          <h2 class="block">How copies were removed</h2>
          <table class="small">
            <tbody>
              <tr v-for="one in removed.by" :key="one.by">
                <td>
                  <router-link
                    :to="`/reviews/${review}/match/groups?how=${one.by === 'weights' ? 'weights' : one.by === 'people' ? 'person' : 'rule'}`"
                    >by {{ one.by }}</router-link
                  >
                </td>
                <td class="num">{{ count(one.copies) }}</td>
              </tr>
              <tr>
                <td><router-link :to="`/reviews/${review}/match/groups?within=yes`">within one source</router-link></td>
                <td class="num">{{ count(removed.within) }}</td>
              </tr>
              <tr>
                <td><router-link :to="`/reviews/${review}/match/groups?within=no`">between sources</router-link></td>
                <td class="num">{{ count(removed.between) }}</td>
              </tr>
            </tbody>
          </table>
        </template>
        <template v-if="f.questions || f.open || f.waiting || f.second_open">
          <h2 class="block">Still moving</h2>
          <table class="small">
            <tbody>
              <tr v-if="f.questions">
                <td>
                  <router-link :to="`/reviews/${review}/match`"
                    >{{ plural(f.questions, 'pair') }} undecided in Match</router-link
                  >
                </td>
                <td class="num soft">up to {{ count(f.questions) }} fewer</td>
              </tr>
              <tr v-if="f.open">
                <td>
                  <router-link :to="`/reviews/${review}/records?list=open`"
                    >{{ plural(f.open, 'first-pass decision') }} open</router-link
                  >
                </td>
                <td class="num soft">
                  {{
                    [
                      f.unsure && `${count(f.unsure)} of them unsure`,
                      f.differs && `${count(f.differs)} read differently`,
                    ]
                      .filter(Boolean)
                      .join(', ')
                  }}
                </td>
              </tr>
              <tr v-if="f.waiting">
                <td>
                  <router-link :to="`/reviews/${review}/records?list=waiting`"
                    >{{ plural(f.waiting, 'full text') }} still sought</router-link
                  >
                </td>
                <td />
              </tr>
              <tr v-if="f.second_open">
                <td>
                  <router-link :to="`/reviews/${review}/records?list=second_open`"
                    >{{ plural(f.second_open, 'second-pass decision') }} open</router-link
                  >
                </td>
                <td />
              </tr>
            </tbody>
          </table>
        </template>
        <h2 class="block">Drawn</h2>
        <TickBox
          :model-value="!summed"
          label="Each source by name"
          @update:model-value="set({ summed: $event ? '' : 'yes' })"
        />
        <p class="small soft">A figure opens the records that it counts. What is zero is left out.</p>
      </aside>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 320px;
}
.drawing {
  color: var(--ks-ink);
}
.drawing :deep(svg) {
  max-width: 100%;
  height: auto;
  display: block;
}
.drawing :deep(a:focus-visible) {
  outline: 2px solid var(--ks-copper);
}
.sums td:first-child {
  padding-left: 0;
}
.sums {
  margin: 6px 0;
}
.block {
  margin-top: 18px;
}
td:first-child {
  padding-left: 0;
}
</style>
