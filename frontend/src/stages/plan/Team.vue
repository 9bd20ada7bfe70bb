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
async function change(it: Schemas['Member'], to: Role) {
  if (await attempt(() => give(it.name, to))) say(`${it.full_name} is ${to} now.`, () => give(it.name, it.role))
  await refresh('members')
}
async function remove(it: Schemas['Member']) {
  if (
    await attempt(() =>
      got(
        DELETE('/api/reviews/{review}/members/{person}', { params: { path: { review: review.value, person: it.id } } }),
      ),
    )
  )
    say(`${it.full_name} is no longer a member; their decisions stay.`, () => give(it.name, it.role))
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
            <tr v-for="it in data" :key="it.id" :class="{ soft: it.removed_at }">
              <td>{{ it.full_name }}</td>
              <td>{{ it.name }}</td>
              <td class="role">
                <ChoiceField
                  v-if="mayLead && !it.removed_at"
                  :model-value="it.role"
                  :items="['lead', 'reviewer', 'observer']"
                  :aria-label="`Role of ${it.full_name}`"
                  @update:model-value="change(it, $event as Role)"
                />
                <template v-else>{{
                  it.removed_at ? `was ${it.role}, removed ${day(it.removed_at)}` : it.role
                }}</template>
              </td>
              <td>{{ day(it.joined_at) }}</td>
              <td class="num">{{ it.decisions === null ? '' : count(it.decisions) }}</td>
              <td class="num">
                <v-btn v-if="mayLead && !it.removed_at" :aria-label="`Remove ${it.full_name}`" @click="remove(it)"
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
