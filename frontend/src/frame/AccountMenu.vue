<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { watch } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST, PUT } from '@/api/client'
import { attempt } from '@/common/messages'
import { useTheme } from '@/theme'

const router = useRouter()
const client = useQueryClient()
const { data: me } = useQuery({ queryKey: ['me'], queryFn: () => got(GET('/api/account')), staleTime: Infinity })
watch(
  () => me.value?.theme,
  (theme) => theme && useTheme(theme),
  { immediate: true },
)

async function change(theme: 'light' | 'dark') {
  useTheme(theme)
  if (await attempt(() => got(PUT('/api/account/theme', { body: { theme } }))))
    await client.invalidateQueries({ queryKey: ['me'] })
}
async function leave() {
  await attempt(() => got(POST('/api/account/sign-out')))
  client.clear()
  await router.push('/sign-in')
}
</script>

<template>
  <v-menu v-if="me">
    <template #activator="{ props }">
      <button v-bind="props" class="who" :aria-label="`Account of ${me.full_name}`">
        {{ me.full_name }} <span aria-hidden="true">▾</span>
      </button>
    </template>
    <v-list min-width="180" aria-label="Account">
      <v-list-item title="Your reviews" to="/" />
      <v-list-item title="Your account" to="/account" />
      <v-list-item
        :title="me.theme === 'dark' ? 'Light theme' : 'Dark theme'"
        @click="change(me.theme === 'dark' ? 'light' : 'dark')"
      />
      <v-list-item title="Sign out" @click="leave" />
    </v-list>
  </v-menu>
</template>

<style scoped>
.who {
  color: var(--ks-ink);
  font-size: 12px;
  line-height: 16px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 100%;
}
</style>
