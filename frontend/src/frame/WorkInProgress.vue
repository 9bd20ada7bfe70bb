<script setup lang="ts">
// Jobs under way with progress, estimate and cancel; who else is here; the account.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { GET, got, POST } from '@/api/client'
import { attempt } from '@/common/messages'
import { useReview } from '@/common/review'
import AccountMenu from './AccountMenu.vue'

defineProps<{ connected: boolean }>()
const { review, path, mayWrite } = useReview()
const { data: jobs, refetch } = useQuery({
  queryKey: ['jobs', review],
  queryFn: () => got(GET('/api/reviews/{review}/jobs', { params: path.value })),
  refetchInterval: (query) =>
    query.state.data?.some((one) => one.state === 'waiting' || one.state === 'working') ? 1500 : 30000,
})
const { data: team } = useQuery({
  queryKey: ['people', review],
  queryFn: () => got(GET('/api/reviews/{review}/people', { params: path.value })),
  refetchInterval: 30000,
})

const busy = computed(() => (jobs.value ?? []).filter((job) => job.state === 'waiting' || job.state === 'working'))
const failed = computed(() => (jobs.value ?? []).filter((job) => job.state === 'failed'))
const initials = (name: string) =>
  name
    .split(/\s+/)
    .map((part) => part[0])
    .join('')
    .slice(0, 2)
    .toUpperCase()
const left = (seconds: number | null) =>
  seconds === null
    ? ''
    : seconds < 60
      ? ` · ${Math.max(1, Math.round(seconds))} s`
      : ` · ${Math.round(seconds / 60)} min`

async function cancel(job: number) {
  await attempt(() =>
    got(POST('/api/reviews/{review}/jobs/{job}/cancel', { params: { path: { review: review.value, job } } })),
  )
  await refetch()
}
</script>

<template>
  <div class="right">
    <div class="people" role="group" aria-label="Team">
      <span
        v-for="one in (team ?? []).slice(0, 5)"
        :key="one.id"
        class="person"
        :class="{ here: one.here }"
        :title="`${one.full_name}, ${one.role}${one.here ? ', here now' : ''}`"
      >
        <span class="unseen">{{ one.full_name }}{{ one.here ? ', here now' : '' }}</span
        ><span aria-hidden="true">{{ initials(one.full_name) }}</span>
      </span>
    </div>
    <div class="work small soft" role="status">
      <v-menu v-if="busy.length || failed.length">
        <template #activator="{ props }">
          <button v-bind="props" class="clip" :class="{ bad: !busy.length }">
            <template v-if="busy[0]"
              >{{ busy[0].label }} · {{ Math.round(busy[0].share * 100) }} %{{ left(busy[0].seconds_left)
              }}{{ busy.length > 1 ? ` · ${busy.length - 1} more` : '' }}</template
            >
            <template v-else>{{ failed.at(-1)?.label }} failed</template>
          </button>
        </template>
        <v-list width="380" aria-label="Work in progress">
          <v-list-item v-for="one in [...busy, ...failed]" :key="one.id">
            <div class="row">
              <div class="grow">
                <div>{{ one.label }}</div>
                <div class="small" :class="one.state === 'failed' ? 'bad' : 'soft'">
                  {{
                    one.state === 'failed'
                      ? one.message
                      : one.state === 'waiting'
                        ? 'Waiting'
                        : `${Math.round(one.share * 100)} %${left(one.seconds_left)}`
                  }}
                </div>
              </div>
              <v-btn v-if="one.state !== 'failed' && mayWrite" class="push" @click.stop="cancel(one.id)">Cancel</v-btn>
            </div>
          </v-list-item>
        </v-list>
      </v-menu>
      <span v-else>{{ connected ? 'Nothing runs' : 'Connecting again …' }}</span>
    </div>
    <AccountMenu />
  </div>
</template>

<style scoped>
.right {
  padding: 10px 16px;
  border-left: 1px solid var(--ks-hair);
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 3px;
  align-content: start;
  justify-items: end;
  min-width: 0;
}
.people {
  display: flex;
  gap: 4px;
}
.person {
  width: 24px;
  height: 24px;
  border-radius: 3px;
  border: 1px solid var(--ks-hair);
  display: grid;
  place-items: center;
  font: 600 11px/1 var(--ks-work);
  background: var(--ks-wash);
}
.person.here {
  border-color: var(--ks-pine);
  color: var(--ks-pine);
}
.work {
  max-width: 100%;
  display: flex;
}
.work button {
  max-width: 100%;
  text-decoration: underline;
  text-underline-offset: 2px;
}
.grow {
  min-width: 0;
  white-space: normal;
}
</style>
