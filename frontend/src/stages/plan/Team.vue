<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { count, day } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import InviteByLink from './InviteByLink.vue'

type Role = Schemas['Member']['role']
const { review, path, mayLead } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['members', review],
  queryFn: () => got(GET('/api/reviews/{review}/members', { params: path.value })),
})
const name = ref('')
const role = ref<Role>('reviewer')
const ROLES = [
  { value: 'lead', title: 'Lead: changes everything' },
  { value: 'reviewer', title: 'Reviewer: gathers, decides, charts' },
  { value: 'observer', title: 'Observer: looks' },
]

const give = (account: string, as: Role) =>
  got(POST('/api/reviews/{review}/members', { params: path.value, body: { name: account, role: as } }))
async function add() {
  if (await attempt(() => give(name.value, role.value))) {
    say(`${name.value} is ${role.value} now.`)
    name.value = ''
  }
  await refresh('members', 'people')
}
async function change(member: Schemas['Member'], to: Role) {
  if (await attempt(() => give(member.name, to)))
    say(`${member.full_name} is ${to} now.`, () => give(member.name, member.role))
  await refresh('members')
}
async function remove(member: Schemas['Member']) {
  if (
    await attempt(() =>
      got(
        DELETE('/api/reviews/{review}/members/{person}', {
          params: { path: { review: review.value, person: member.id } },
        }),
      ),
    )
  )
    say(`${member.full_name} is no longer a member; their decisions stay.`, () => give(member.name, member.role))
  await refresh('members', 'people')
}
</script>

<template>
  <div class="panes columns">
    <section class="pane sheet">
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <table>
          <thead>
            <tr>
              <th>Name</th>
              <th>Account</th>
              <th>Role</th>
              <th>Member since</th>
              <th class="num">Decisions</th>
              <th><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data" :key="one.id" :class="{ soft: one.removed_at }">
              <td>{{ one.full_name }}</td>
              <td>{{ one.name }}</td>
              <td class="role">
                <ChoiceField
                  v-if="mayLead && !one.removed_at"
                  :model-value="one.role"
                  :items="['lead', 'reviewer', 'observer']"
                  :aria-label="`Role of ${one.full_name}`"
                  @update:model-value="change(one, $event as Role)"
                />
                <template v-else>{{
                  one.removed_at ? `was ${one.role}, removed ${day(one.removed_at)}` : one.role
                }}</template>
              </td>
              <td>{{ day(one.joined_at) }}</td>
              <td class="num">{{ one.decisions === null ? '' : count(one.decisions) }}</td>
              <td class="num">
                <v-btn v-if="mayLead && !one.removed_at" :aria-label="`Remove ${one.full_name}`" @click="remove(one)"
                  >Remove</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside v-if="mayLead" class="pane pad">
      <form class="fields" @submit.prevent="add">
        <h2>Add a member</h2>
        <p class="soft small">
          By the name that they sign in with. Who has none can make an account on the sign-in page.
        </p>
        <TextField v-model="name" label="Account name" autocomplete="off" />
        <ChoiceField v-model="role" :items="ROLES" label="Role" />
        <v-btn class="main" type="submit" :disabled="!name.trim()">Add to the team</v-btn>
      </form>
      <InviteByLink />
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.role {
  width: 200px;
}
td {
  vertical-align: middle;
}
</style>
