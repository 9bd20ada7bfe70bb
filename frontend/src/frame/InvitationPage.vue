<script setup lang="ts">
// What an invitation is to; one key joins.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { moment } from '@/common/format'
import { attempt } from '@/common/messages'

const route = useRoute()
const router = useRouter()
const client = useQueryClient()
const token = computed(() => String(route.params.token))
const { data, error } = useQuery({
  queryKey: ['invitation', token],
  queryFn: () => got(GET('/api/account/invitations/{token}', { params: { path: { token: token.value } } })),
  retry: false,
})
const { data: me, error: stranger } = useQuery({
  queryKey: ['me'],
  queryFn: () => got(GET('/api/account')),
  retry: false,
})
async function join() {
  await attempt(async () => {
    const { review } = await got(
      POST('/api/account/invitations/{token}/accept', { params: { path: { token: token.value } } }),
    )
    await client.invalidateQueries()
    await router.replace(`/reviews/${review}/plan`)
  })
}
const next = computed(() => ({ path: '/sign-in', query: { next: route.fullPath } }))
</script>

<template>
  <main class="page">
    <div class="fields">
      <h1 class="read">An invitation</h1>
      <p v-if="error" class="bad" role="alert">{{ (error as Error).message }}</p>
      <p v-else-if="!data" class="soft" role="status">Loading …</p>
      <template v-else>
        <p>
          {{ data.invited_by }} invites you to the review <b>{{ data.title }}</b>, as {{ data.role }}.
        </p>
        <p class="soft small">It holds until {{ moment(data.expires_at) }}, for one person.</p>
        <v-btn v-if="me" class="main" height="36" @click="join">Join as {{ me.full_name }}</v-btn>
        <v-btn v-else-if="stranger" class="main" height="36" :to="next">Sign in, or make an account</v-btn>
      </template>
    </div>
  </main>
</template>

<style scoped>
.page {
  height: 100%;
  display: grid;
  place-items: center;
  padding: 24px;
}
.fields {
  width: 360px;
}
h1 {
  font-size: 28px;
  line-height: 36px;
}
</style>
