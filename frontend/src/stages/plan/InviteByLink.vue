<script setup lang="ts">
// Links by which one person each can join the review until they expire.
import { useQuery } from '@tanstack/vue-query'
import { useClipboard } from '@vueuse/core'
import { computed, ref } from 'vue'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { day, moment, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const { review, path } = useReview()
const refresh = useRefresh()
const role = ref<Schemas['NewInvitation']['role']>('reviewer')
const days = ref('14')
const ROLES = ['lead', 'reviewer', 'observer'] as const
const link = ref('')
const { copy, copied } = useClipboard({ legacy: true })
const { data } = useQuery({
  queryKey: ['members', review, 'invitations'],
  queryFn: () => got(GET('/api/reviews/{review}/invitations', { params: path.value })),
})
const open = computed(() => data.value?.filter((one) => one.open) ?? [])
const used = computed(() => data.value?.filter((one) => one.used_at) ?? [])

async function invite() {
  await attempt(async () => {
    const body = { role: role.value, days: Number(days.value) }
    const made = await got(POST('/api/reviews/{review}/invitations', { params: path.value, body }))
    link.value = `${location.origin}/invitation/${made.token}`
  })
  await refresh('members')
}
async function withdraw(invitation: Schemas['Invitation']) {
  const params = { path: { review: review.value, number: invitation.id } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/invitations/{number}', { params }))))
    say('The invitation holds no longer.')
  link.value = ''
  await refresh('members')
}
</script>

<template>
  <form class="fields below" @submit.prevent="invite">
    <h2>Invite by a link</h2>
    <p class="soft small">
      For one person, who may make an account with it. Send it as you like; it is shown this once.
    </p>
    <ChoiceField v-model="role" :items="ROLES" label="Role" />
    <TextField v-model="days" label="Days that it holds" type="number" min="1" max="60" />
    <v-btn type="submit">Make a link</v-btn>
    <template v-if="link">
      <input
        class="box mono"
        :value="link"
        readonly
        aria-label="The link"
        @focus="($event.target as HTMLInputElement).select()"
      />
      <v-btn @click="copy(link)">{{ copied ? 'Copied' : 'Copy the link' }}</v-btn>
    </template>
    <table v-if="open.length" class="small">
      <caption class="unseen">
        Open invitations
      </caption>
      <tbody>
        <tr v-for="one in open" :key="one.id">
          <td>{{ one.role }}, by {{ one.invited_by }}</td>
          <td class="soft">until {{ moment(one.expires_at) }}</td>
          <td>
            <button
              type="button"
              class="link"
              :aria-label="`Withdraw the invitation of ${moment(one.at)}`"
              @click="withdraw(one)"
            >
              Withdraw
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="used.length" class="soft small">
      {{ plural(used.length, 'invitation') }} used, the last by {{ used[0]?.used_by }} on {{ day(used[0]!.used_at!) }}.
    </p>
  </form>
</template>

<style scoped>
.below {
  margin-top: 28px;
}
</style>
