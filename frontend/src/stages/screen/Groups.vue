<script setup lang="ts">
// Undecided records in groups that are alike, the nearest to what is known first; a far group is set aside as a whole.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import FirstStep from '@/common/FirstStep.vue'
import { ago, count, plural } from '@/common/format'
import { useKeys } from '@/common/keys'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

type Group = Schemas['AlikeGroup']
const route = useRoute()
const router = useRouter()
const { review, path, figures, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['groupings', review],
  queryFn: () => got(GET('/api/reviews/{review}/groupings', { params: path.value })),
})
const chosen = computed(() => data.value?.find((one) => one.id === Number(route.query.grouping)) ?? data.value?.[0])
const { data: groups } = useQuery({
  queryKey: ['alike', review, computed(() => chosen.value?.id), computed(() => chosen.value?.state)],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/groupings/{grouping}', {
        params: { path: { review: review.value, grouping: chosen.value!.id } },
      }),
    ),
  enabled: computed(() => chosen.value?.state === 'ready'),
})
const open = computed(() => groups.value?.find((group) => group.id === Number(route.query.group)))
const { data: nearest } = useQuery({
  queryKey: ['nearest', review, computed(() => open.value?.id), computed(() => open.value?.open)],
  queryFn: () =>
    got(
      GET('/api/reviews/{review}/alike-groups/{group}/nearest', {
        params: { path: { review: review.value, group: open.value!.id } },
      }),
    ),
  enabled: computed(() => !!open.value),
})
const set = (wanted: Record<string, string | undefined>) => router.replace({ query: { ...route.query, ...wanted } })
const toggle = (group: Group) => set({ group: open.value?.id === group.id ? undefined : String(group.id) })
const largest = computed(() => Math.max(1, ...(groups.value ?? []).map((one) => one.size)))

const how = reactive({ groups: '20', rarest: '3', commonest: '40' })
watch(
  chosen,
  (one) =>
    one &&
    Object.assign(how, {
      groups: String(one.groups),
      rarest: String(one.rarest),
      commonest: String(Math.round(100 * one.commonest)),
    }),
  { once: true },
)
async function begin() {
  let made: { id: number } | undefined
  await attempt(
    async () =>
      (made = await got(
        POST('/api/reviews/{review}/groupings', {
          params: path.value,
          body: { groups: Number(how.groups), rarest: Number(how.rarest), commonest: Number(how.commonest) / 100 },
        }),
      )),
  )
  await refresh('groupings', 'jobs')
  if (made) await set({ grouping: String(made.id), group: undefined })
}
const again = () => refresh('groupings', 'alike', 'nearest', 'figures', 'records', 'queue', 'remaining')
const goOn = (narrowing: number) =>
  got(
    POST('/api/reviews/{review}/narrowings/{narrowing}/withdraw', {
      params: { path: { review: review.value, narrowing } },
    }),
  ).then(again)
async function setAside(group: Group) {
  let made: { narrowing: number; records: number } | undefined
  const done = await attempt(
    async () =>
      (made = await got(
        POST('/api/reviews/{review}/alike-groups/{group}/set-aside', {
          params: { path: { review: review.value, group: group.id } },
          body: { looked_at: (nearest.value ?? []).map((one) => one.id) },
        }),
      )),
  )
  await again()
  if (done && made) {
    const { narrowing, records } = made
    say(`${plural(records, 'record')} set aside as a far group.`, () => goOn(narrowing))
  }
}
const at = computed(() => groups.value?.findIndex((group) => group.id === open.value?.id) ?? -1)
const move = (by: number) => {
  const some = groups.value ?? []
  const to = some[Math.min(some.length - 1, Math.max(0, at.value + by))]
  if (to) void set({ group: String(to.id) })
}
const mayGo = (group: Group) => mayWrite.value && group.open > 0 && group.near !== null && !group.narrowing_id
useKeys({
  ArrowDown: () => move(1),
  ArrowUp: () => move(-1),
  a: () => open.value && mayGo(open.value) && nearest.value && setAside(open.value),
})
const list = (group: Group) => `/reviews/${review.value}/records?list=group:${group.id}`
const table = ref<HTMLElement | null>(null)
watch(
  () => open.value?.id,
  () => table.value?.querySelector('.on')?.scrollIntoView({ block: 'nearest' }),
  { flush: 'post' },
)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <section class="pane pad side" tabindex="0" aria-label="Settings and history">
        <form v-if="mayWrite" class="form" @submit.prevent="begin">
          <h2>Group what is undecided</h2>
          <TextField v-model="how.groups" label="Groups" type="number" min="2" max="200" />
          <TextField v-model="how.rarest" label="A word counts from so many records" type="number" min="1" max="1000" />
          <TextField v-model="how.commonest" label="up to so many per cent of all" type="number" min="1" max="100" />
          <v-btn class="main" type="submit">Group</v-btn>
        </form>
        <h3 v-if="data?.length">Groupings</h3>
        <button
          v-for="one in data"
          :key="one.id"
          class="past small"
          :class="{ on: one.id === chosen?.id }"
          :aria-pressed="one.id === chosen?.id"
          @click="set({ grouping: String(one.id), group: undefined })"
        >
          <b>{{
            one.state === 'ready' ? plural(one.records, 'record') : one.state === 'waiting' ? 'At work …' : 'Failed'
          }}</b>
          <span
            >into {{ one.made || one.groups }} groups, words of {{ one.rarest }} records to
            {{ Math.round(100 * one.commonest) }} %</span
          >
          <span v-if="one.aside">{{ plural(one.aside, 'record') }} set aside</span>
          <span v-if="one.failure" class="bad">{{ one.failure }}</span>
          <span class="soft">{{ one.by }}, {{ ago(one.at) }}</span>
        </button>
      </section>
      <section class="pane sheet" tabindex="0" aria-label="Groups">
        <div v-if="!chosen" class="pad soft">
          <template v-if="figures.data.value?.records">
            <h2>Nothing is grouped yet</h2>
            <p>
              Records whose titles and abstracts use the same words come together, each group with the words that tell
              it and how near it is to the seeds. A group that is far from them can be set aside as a whole.
            </p>
          </template>
          <FirstStep v-else stage="Screen" />
        </div>
        <p v-else-if="chosen.state === 'waiting'" class="pad soft" role="status">
          Being grouped; you can leave this page.
        </p>
        <template v-else-if="groups">
          <p v-if="chosen.known === 0" class="pad odd">
            Nothing is known yet of what belongs, so no group is near or far.
            <router-link :to="`/reviews/${review}/plan/seeds`">Name seeds</router-link>, and group again.
          </p>
          <div ref="table" role="list">
            <div
              v-for="group in groups"
              :key="group.id"
              role="listitem"
              class="strip"
              :class="{ on: group.id === open?.id }"
            >
              <button class="line" :aria-expanded="group.id === open?.id" @click="toggle(group)">
                <span class="size"
                  ><span class="fill" :style="{ width: `${(100 * group.size) / largest}%` }"
                    ><span class="gone" :style="{ width: `${(100 * group.aside) / group.size}%` }" /></span
                ></span>
                <span class="words"
                  ><template v-for="(word, k) in group.words.slice(0, 6)" :key="word"
                    >{{ k ? ', ' : '' }}{{ word }}</template
                  ><span v-if="!group.words.length" class="soft">no word in common</span></span
                >
                <span class="near num small" title="Mean closeness of its members to the nearest seed"
                  ><span class="bar" :style="{ width: `${Math.round(48 * Math.max(0, group.near ?? 0))}px` }" />
                  {{ group.near === null ? '—' : group.near.toFixed(2) }}</span
                >
              </button>
              <router-link class="num" :to="list(group)">{{ plural(group.size, 'record') }}</router-link>
              <span class="soft small state"
                >{{
                  group.aside
                    ? `${count(group.aside)} set aside`
                    : group.open < group.size
                      ? `${count(group.open)} undecided`
                      : ''
                }}
              </span>
              <div v-if="group.id === open?.id" class="inside">
                <template v-if="group.narrowing_id && group.aside">
                  <p>
                    Set aside as a whole.
                    <v-btn v-if="mayWrite" @click="goOn(group.narrowing_id!)">Bring it back</v-btn>
                  </p>
                </template>
                <template v-else>
                  <p class="small soft">
                    {{
                      nearest?.length
                        ? `Its ${plural(nearest.length, 'undecided member')} nearest to what is known:`
                        : 'No member is undecided.'
                    }}
                  </p>
                  <ol>
                    <li v-for="one in nearest" :key="one.id">
                      <router-link class="read title" :to="`/reviews/${review}/screen?record=${one.id}`">{{
                        one.title || 'Untitled'
                      }}</router-link>
                      <span class="soft small"> {{ one.year ?? '' }} · closeness {{ one.closeness.toFixed(2) }}</span>
                      <p class="read small abstract">{{ one.abstract }}</p>
                    </li>
                  </ol>
                  <div v-if="mayGo(group)" class="row">
                    <v-btn @click="setAside(group)"
                      >I looked at them: set all {{ count(group.open) }} aside <kbd>A</kbd></v-btn
                    >
                    <span class="soft small">Counted in the flow as automation; it can be undone.</span>
                  </div>
                </template>
              </div>
            </div>
          </div>
          <p class="pad small soft">
            {{ plural(chosen.records, 'undecided record') }} with an abstract were grouped, near what
            {{ plural(chosen.known, 'seed or included record') }} say.
            <router-link v-if="chosen.without_abstract" :to="`/reviews/${review}/records?list=open&abstract=no`"
              >{{ plural(chosen.without_abstract, 'record') }} without abstract</router-link
            >
            {{ chosen.without_abstract ? 'are in no group and never set aside so: look at them one by one.' : '' }}
          </p>
        </template>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 280px minmax(0, 1fr);
}
.side,
.form {
  display: grid;
  gap: 10px;
  align-content: start;
}
.past {
  display: grid;
  padding: 8px 10px;
  border-bottom: 1px solid var(--ks-hair);
}
.past.on {
  background: var(--ks-copper-wash);
}
.strip {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 96px 110px;
  gap: 0 12px;
  align-items: center;
  padding: 6px 16px;
  border-bottom: 1px solid var(--ks-hair);
  border-left: 3px solid transparent;
}
.strip.on {
  border-left-color: var(--ks-copper);
}
.line {
  display: grid;
  grid-template-columns: 120px minmax(0, 1fr) 96px;
  gap: 12px;
  align-items: center;
}
.size {
  display: block;
  height: 10px;
  background: var(--ks-wash);
}
.fill {
  display: block;
  height: 100%;
  background: var(--ks-slate);
}
.gone {
  display: block;
  height: 100%;
  background: var(--ks-hair);
}
.words {
  overflow-wrap: anywhere;
}
.strip.on {
  background: var(--ks-sheet);
}
.inside {
  grid-column: 1 / -1;
  display: grid;
  gap: 8px;
  padding: 8px 0 8px 132px;
}
ol {
  margin: 0;
  padding: 0 0 0 18px;
  display: grid;
  gap: 8px;
  max-width: 80ch;
}
.title {
  font-size: 14px;
}
.abstract {
  color: var(--ks-soft);
  display: -webkit-box;
  -webkit-line-clamp: 3;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
@media (max-width: 1100px) {
  .columns {
    grid-template-columns: 220px minmax(0, 1fr);
  }
  .inside {
    padding-left: 0;
  }
}
</style>
