<script setup lang="ts">
// One's own account: name, password, signing out everywhere, deleting it.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST, PUT, Refusal } from '@/api/client'
import { attempt, say } from '@/common/messages'
import AccountMenu from './AccountMenu.vue'

const router = useRouter()
const client = useQueryClient()
const { data: me, error } = useQuery({
  queryKey: ['me'],
  queryFn: () => got(GET('/api/account')),
  staleTime: Infinity,
})
watch(error, (one) => one instanceof Refusal && one.status === 401 && router.replace('/sign-in?next=/account'))
const name = ref('')
watch(
  () => me.value?.full_name,
  (said) => (name.value = said ?? ''),
  { immediate: true },
)
const old = ref('')
const fresh = ref('')
const agreed = ref('')

async function rename() {
  const before = me.value?.full_name ?? ''
  const to = (full_name: string) => got(PUT('/api/account', { body: { full_name } }))
  if (await attempt(() => to(name.value))) say(`You are known as ${name.value.trim()} now.`, () => to(before))
  await client.invalidateQueries()
}
async function change() {
  if (!(await attempt(() => got(PUT('/api/account/password', { body: { old: old.value, new: fresh.value } }))))) return
  old.value = fresh.value = ''
  say('The password is changed. All other browsers are signed out.')
}
async function away(deed: () => Promise<unknown>) {
  if (!(await attempt(deed))) return
  client.clear()
  await router.push('/sign-in')
}
const everywhere = () => away(() => got(POST('/api/account/sign-out-everywhere')))
const remove = () => away(() => got(POST('/api/account/delete', { body: { password: agreed.value } })))
</script>

<template>
  <main class="account">
    <header class="row">
      <h1 class="read">Your account</h1>
      <span class="push"><AccountMenu /></span>
    </header>
    <p v-if="!me" class="soft" role="status">Loading …</p>
    <div v-else class="parts">
      <form class="fields" @submit.prevent="rename">
        <h2>Name</h2>
        <p class="soft small">
          Colleagues see it beside all that you decided, also before. You sign in as <b>{{ me.name }}</b>.
        </p>
        <TextField v-model="name" label="Your name, as colleagues know you" autocomplete="name" maxlength="80" />
        <v-btn type="submit" :disabled="!name.trim() || name.trim() === me.full_name">Keep the name</v-btn>
      </form>
      <form class="fields" @submit.prevent="change">
        <h2>Password</h2>
        <p class="soft small">All other browsers are signed out when it changes.</p>
        <TextField v-model="old" label="Password now" type="password" autocomplete="current-password" />
        <TextField
          v-model="fresh"
          label="New password"
          type="password"
          autocomplete="new-password"
          hint="At least 10 characters"
        />
        <v-btn type="submit" :disabled="!old || !fresh">Change the password</v-btn>
      </form>
      <section class="fields">
        <h2>Signed in elsewhere?</h2>
        <p class="soft small">Ends every sign-in of yours, here too.</p>
        <v-btn @click="everywhere">Sign out everywhere</v-btn>
      </section>
      <form class="fields" @submit.prevent="remove">
        <h2>Delete the account</h2>
        <p class="soft small">
          You leave all reviews and cannot sign in any more. What you decided stays in them, under your name, so that
          their numbers stay true. A review that only you lead needs another lead first. This cannot be undone.
        </p>
        <TextField v-model="agreed" label="Password, to agree" type="password" autocomplete="off" />
        <v-btn type="submit" :disabled="!agreed">Delete my account</v-btn>
      </form>
    </div>
  </main>
</template>

<style scoped>
.account {
  max-width: 860px;
  margin: 0 auto;
  padding: 24px 16px;
  height: 100%;
  overflow: auto;
}
.row {
  display: flex;
  align-items: baseline;
}
.parts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 32px;
  margin-top: 20px;
  align-items: start;
}
</style>
