<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import { ago, count, plural } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { guideOpen } from '@/common/guide'
import StateOf from '@/common/StateOf.vue'
import TypedBox from '@/common/TypedBox.vue'
import AccountMenu from '@/frame/AccountMenu.vue'
import SmallRibbon from './SmallRibbon.vue'

const route = useRoute()
const router = useRouter()
const {
  data: reviews,
  error,
  isPending,
  refetch,
} = useQuery({ queryKey: ['reviews'], queryFn: () => got(GET('/api/reviews')), staleTime: 0 })
watch(error, (one) => one instanceof Refusal && one.status === 401 && router.replace('/sign-in'))

// what is shown, kept in the address
const words = computed(() => String(route.query.words ?? ''))
const asideShown = computed(() => route.query.archived === 'yes')
const set = (name: string, value: string) => router.replace({ query: { ...route.query, [name]: value || undefined } })
const archived = computed(() => reviews.value?.filter((review) => review.archived).length ?? 0)
const shown = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (reviews.value ?? []).filter(
    (review) =>
      review.archived === asideShown.value &&
      wanted.every((word) => `${review.title} ${review.question}`.toLowerCase().includes(word)),
  )
})
const act = (summary: Schemas['ReviewSummary']) =>
  summary.archived ? 'Bring back' : summary.made_up ? 'Throw away' : 'Archive'
async function archive(summary: Schemas['ReviewSummary'], away: boolean) {
  const put = (value: boolean) =>
    got(
      PUT('/api/reviews/{review}/archived', { params: { path: { review: summary.id } }, body: { archived: value } }),
    ).then(() => refetch())
  const gone = summary.made_up ? 'is thrown away; it can be brought back for two days.' : 'is archived.'
  if (await attempt(() => put(away))) say(`${summary.title} ${away ? gone : 'is back.'}`, () => put(!away))
}
async function tryOut() {
  await attempt(async () => {
    const made = await got(POST('/api/reviews/made-up'))
    await router.push(`/reviews/${made.id}/plan`)
  })
}

const making = ref(false)
const title = ref('')
const question = ref('')
async function make() {
  try {
    const made = await got(POST('/api/reviews', { body: { title: title.value, question: question.value } }))
    await router.push(`/reviews/${made.id}/plan`)
  } catch (failure) {
    complain(failure)
  }
}
</script>

<template>
  <div class="page">
    <header class="bar-top sheet">
      <b class="read">Kettle Sort</b><router-link to="/convert" class="push small convert">Convert a file</router-link
      ><button class="small convert" @click="guideOpen = true">Guide <kbd>?</kbd></button><AccountMenu />
    </header>
    <main class="body">
      <div class="row">
        <h1 class="read">Your reviews</h1>
        <v-btn class="push" @click="tryOut">Try it with made-up data</v-btn>
        <v-btn class="main" @click="making = !making">New review</v-btn>
      </div>
      <form v-if="making" class="fields new" @submit.prevent="make">
        <TextField v-model="title" label="Title" maxlength="300" autofocus required />
        <TextArea
          v-model="question"
          label="Question"
          maxlength="5000"
          hint="Does … help … compared with …? It can be sharpened later."
        />
        <div class="row">
          <v-btn class="main" type="submit" :disabled="!title.trim()">Make the review</v-btn
          ><v-btn @click="making = false">Not now</v-btn>
        </div>
      </form>
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="reviews?.length" class="row find">
          <TypedBox
            :said="words"
            class="box search"
            type="search"
            aria-label="Search your reviews"
            placeholder="Search"
            @typed="(text) => set('words', text)"
          />
          <button
            v-if="archived || asideShown"
            class="link small"
            :aria-pressed="asideShown"
            @click="set('archived', asideShown ? '' : 'yes')"
          >
            {{ asideShown ? 'Back to those at work' : `Archived: ${archived}` }}
          </button>
        </div>
        <ul v-if="shown.length" class="list">
          <li v-for="one in shown" :key="one.id">
            <div>
              <router-link :to="`/reviews/${one.id}/plan`" class="read name">{{ one.title }}</router-link>
              <div class="soft">{{ one.question }}</div>
              <div class="small soft">
                <span v-if="one.made_up" class="tag">made up</span> {{ one.role
                }}{{ one.changed_at ? ` · changed ${ago(one.changed_at)}` : '' }}
              </div>
            </div>
            <div class="stand">
              <SmallRibbon :it="one" />
              <div v-if="one.role !== 'observer'" class="small yours">
                <router-link v-if="one.open" :to="`/reviews/${one.id}/screen`"
                  >{{ count(one.open) }} for you to screen</router-link
                >
                <router-link v-if="one.second_open" :to="`/reviews/${one.id}/screen/second`"
                  >{{ plural(one.second_open, 'full text') }} to decide</router-link
                >
                <router-link v-if="one.questions" :to="`/reviews/${one.id}/match`"
                  >{{ plural(one.questions, 'pair') }} to compare</router-link
                >
                <span v-if="!one.open && !one.second_open && !one.questions" class="soft">nothing waits for you</span>
              </div>
            </div>
            <button
              v-if="one.role === 'lead'"
              class="link small"
              :aria-label="`${act(one)} ${one.title}`"
              @click="archive(one, !one.archived)"
            >
              {{ act(one) }}
            </button>
          </li>
        </ul>
        <p v-else-if="reviews?.length" class="soft">
          {{
            words
              ? 'No review has these words.'
              : asideShown
                ? 'No review is archived.'
                : 'All your reviews are archived.'
          }}
        </p>
        <p v-else class="soft">
          You are in no review yet. Make one, try everything with made-up data of your own first, or ask a lead to add
          you by your account name.
        </p>
      </StateOf>
    </main>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  display: grid;
  grid-template-rows: auto 1fr;
}
.bar-top {
  display: flex;
  align-items: center;
  height: 48px;
  padding: 0 24px;
  border-bottom: 1px solid var(--ks-hair);
}
.convert {
  margin-right: 20px;
}
.body {
  overflow: auto;
  padding: 24px;
  width: min(860px, 100%);
  margin: 0 auto;
}
h1 {
  font-size: 22px;
  line-height: 30px;
}
.new {
  margin: 16px 0;
  padding: 16px;
  border: 1px solid var(--ks-hair);
  background: var(--ks-sheet);
  max-width: none;
}
.list {
  list-style: none;
  padding: 0;
  margin: 16px 0;
}
.find {
  margin-top: 16px;
  gap: 16px;
}
.search {
  width: 280px;
}
.list li {
  padding: 12px 0;
  border-top: 1px solid var(--ks-hair);
  display: grid;
  grid-template-columns: minmax(0, 1fr) 216px 80px;
  gap: 16px;
  align-items: start;
}
.stand {
  display: grid;
  gap: 2px;
}
.yours {
  display: flex;
  flex-direction: column;
}
.name {
  font-size: 17px;
  line-height: 24px;
  font-weight: 600;
}
</style>
