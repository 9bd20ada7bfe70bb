<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST, Refusal } from '@/api/client'
import { ago } from '@/common/format'
import { complain } from '@/common/messages'
import StateOf from '@/common/StateOf.vue'
import AccountMenu from '@/frame/AccountMenu.vue'

const router = useRouter()
const { data: reviews, error, isPending, refetch } = useQuery({ queryKey: ['reviews'], queryFn: () => got(GET('/api/reviews')), staleTime: 0 })
watch(error, (it) => it instanceof Refusal && it.status === 401 && router.replace('/sign-in'))

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
    <header class="bar-top sheet"><b class="read">Kettle Sort</b><span class="push" /><AccountMenu /></header>
    <main class="body">
      <div class="row"><h1 class="read">Your reviews</h1><v-btn class="main push" @click="making = !making">New review</v-btn></div>
      <form v-if="making" class="fields new" @submit.prevent="make">
        <v-text-field v-model="title" label="Title" maxlength="300" autofocus required />
        <v-textarea v-model="question" label="Question" maxlength="5000" hint="Does … help … compared with …? It can be sharpened later." />
        <div class="row"><v-btn class="main" type="submit" :disabled="!title.trim()">Make the review</v-btn><v-btn @click="making = false">Not now</v-btn></div>
      </form>
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <ul v-if="reviews?.length" class="list">
          <li v-for="it in reviews" :key="it.id">
            <router-link :to="`/reviews/${it.id}/plan`" class="read name">{{ it.title }}</router-link>
            <div class="soft">{{ it.question }}</div>
            <div class="small soft">{{ it.role }}{{ it.changed_at ? ` · changed ${ago(it.changed_at)}` : '' }}</div>
          </li>
        </ul>
        <p v-else class="soft">You are in no review yet. Make one, or ask a lead to add you by your account name.</p>
      </StateOf>
    </main>
  </div>
</template>

<style scoped>
.page { height: 100%; display: grid; grid-template-rows: auto 1fr; }
.bar-top { display: flex; align-items: center; height: 48px; padding: 0 24px; border-bottom: 1px solid var(--ks-hair); }
.body { overflow: auto; padding: 24px; width: min(860px, 100%); margin: 0 auto; }
h1 { font-size: 22px; line-height: 30px; }
.new { margin: 16px 0; padding: 16px; border: 1px solid var(--ks-hair); background: var(--ks-sheet); max-width: none; }
.list { list-style: none; padding: 0; margin: 16px 0; }
.list li { padding: 12px 0; border-top: 1px solid var(--ks-hair); }
.name { font-size: 17px; line-height: 24px; font-weight: 600; }
</style>
