<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, Refusal } from '@/api/client'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const making = ref(false)
const name = ref('')
const fullName = ref('')
const password = ref('')
const said = ref('')
const busy = ref(false)
/** The token of an invitation that somebody was on the way to. */
const invitation = computed(() => /^\/invitation\/([\w-]+)$/.exec(String(route.query.next ?? ''))?.[1] ?? '')
const { data: rules } = useQuery({ queryKey: ['rules'], queryFn: () => got(GET('/api/account/rules')) })
const mayMake = computed(() => !rules.value?.invited_only || !!invitation.value)

async function enter() {
  busy.value = true
  said.value = ''
  try {
    if (making.value)
      await got(
        POST('/api/account/new', {
          body: {
            name: name.value,
            full_name: fullName.value,
            password: password.value,
            invitation: invitation.value,
          },
        }),
      )
    else await got(POST('/api/account/sign-in', { body: { name: name.value, password: password.value } }))
    client.clear()
    const next = String(route.query.next ?? '/')
    await router.replace(next.startsWith('/') && !next.startsWith('//') ? next : '/')
  } catch (error) {
    said.value = error instanceof Refusal ? error.message : String(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="page">
    <form class="fields" @submit.prevent="enter">
      <svg viewBox="0 0 320 44" width="320" height="44" aria-hidden="true">
        <path
          d="M0 20c60 0 60-16 110-16s60 12 130 12c30 0 40 2 80 2v6c-40 0-50 2-80 2-70 0-80 14-130 14S60 24 0 24z"
          fill="var(--ks-copper)"
          fill-opacity=".22"
          stroke="var(--ks-copper)"
          stroke-opacity=".5"
        />
      </svg>
      <h1 class="read">Kettle Sort</h1>
      <p class="soft">From exported records to the flow diagram, every number traceable to a decision.</p>
      <TextField v-model="name" label="Account name" autocomplete="username" autofocus required />
      <TextField
        v-if="making"
        v-model="fullName"
        label="Your name, as colleagues know you"
        autocomplete="name"
        required
      />
      <TextField
        v-model="password"
        label="Password"
        type="password"
        :autocomplete="making ? 'new-password' : 'current-password'"
        :hint="making ? 'At least 10 characters' : ''"
        required
      />
      <p v-if="said" class="bad" role="alert">{{ said }}</p>
      <v-btn class="main" type="submit" :loading="busy" height="36">{{
        making ? 'Make the account' : 'Sign in'
      }}</v-btn>
      <p v-if="!mayMake" class="soft small">Accounts are made by invitation here: ask a colleague for a link.</p>
      <button v-else type="button" class="link" @click="making = !making">
        {{ making ? 'I have an account' : 'Make an account' }}
      </button>
    </form>
  </main>
</template>

<style scoped>
.page {
  height: 100%;
  display: grid;
  place-items: center;
  overflow: auto;
  padding: 24px;
}
.fields {
  width: 320px;
}
h1 {
  font-size: 28px;
  line-height: 36px;
}
.link {
  justify-self: start;
  padding: 4px 0;
}
</style>
