<script setup lang="ts">
// The language model of this server: whether the lead lets it be asked, what is sent, what it proposed and what was
// refused of that.
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { GET, got, POST, PUT } from '@/api/client'
import { count, moment, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const { review, path, mayWrite, mayLead } = useReview()
const refresh = useRefresh()
const { data: model } = useQuery({
  queryKey: ['proposals', review, 'model'],
  queryFn: () => got(GET('/api/reviews/{review}/proposals/model', { params: path.value })),
})
const refused = computed(() => model.value?.refused.reduce((sum, one) => sum + one.n, 0) ?? 0)
async function allow(allowed: boolean) {
  const done = await attempt(() =>
    got(PUT('/api/reviews/{review}/proposals/model', { params: path.value, body: { allowed } })),
  )
  if (done)
    say(
      allowed
        ? 'The language model may be asked about this review.'
        : 'The language model is not asked about this review any more.',
      () => allow(!allowed),
    )
  await refresh('proposals')
}
async function ask(again = false) {
  await attempt(async () => {
    const { waiting } = await got(
      POST('/api/reviews/{review}/proposals/model/asking', { params: path.value, body: { again } }),
    )
    say(
      waiting
        ? `It will be asked about ${plural(waiting, 'report')} in the background.`
        : 'It was asked about all of them.',
    )
  })
  await refresh('proposals', 'jobs')
}
</script>

<template>
  <section v-if="model" class="model">
    <h3>Language model</h3>
    <p v-if="!model.name" class="soft small">
      This server knows none; whoever runs it can name one. All that is proposed is read from the reports by rules.
    </p>
    <template v-else>
      <p>
        <b>{{ model.name }}</b> at <code>{{ model.host }}</code>
        {{ model.allowed ? 'may be asked for values beside the reader.' : 'is not asked about this review.' }}
        <span v-if="model.by && model.at" class="soft small">{{ model.by }}, {{ moment(model.at) }}</span>
      </p>
      <p class="small soft">
        For each item it is sent the item’s name and instructions, the arms’ names, and up to 16 passages of the report
        that speak of it. An answer counts only with a quote that stands in these word for word; whatever it proposes is
        marked and waits for a person.
      </p>
      <div class="row wrap">
        <v-btn v-if="mayLead" :aria-pressed="model.allowed" @click="allow(!model.allowed)">{{
          model.allowed ? 'Do not let it be asked' : 'Let it be asked about this review'
        }}</v-btn>
        <span v-else-if="!model.allowed" class="small soft">A lead can let it be asked.</span>
        <template v-if="model.allowed && mayWrite">
          <span v-if="model.waiting" class="small soft" role="status"
            >{{ plural(model.waiting, 'report') }} {{ model.asking ? 'being asked about …' : 'wait' }}</span
          >
          <v-btn v-else-if="model.unasked" class="main" @click="ask()"
            >Ask it about {{ plural(model.unasked, 'report') }}</v-btn
          >
          <v-btn v-else-if="model.asked" @click="ask(true)">Ask it again</v-btn>
        </template>
      </div>
      <p v-if="model.asked || model.failed" class="small">
        Asked about {{ plural(model.asked, 'report') }}; {{ plural(model.proposed, 'value') }} proposed.
        <template v-if="model.accepted + model.changed + model.passed_over"
          >Of those answered, {{ count(model.accepted) }} taken, {{ count(model.changed) }} corrected,
          {{ count(model.passed_over) }} refused or passed over.</template
        >
      </p>
      <div v-if="refused" class="small">
        {{ plural(refused, 'answer was', 'answers were') }} refused before anybody saw
        {{ refused === 1 ? 'it' : 'them' }}:
        <ul>
          <li v-for="one in model.refused" :key="one.why">{{ count(one.n) }} as {{ one.why }}</li>
        </ul>
      </div>
      <p v-if="model.failed" class="small odd">
        {{ plural(model.failed, 'report') }} could not be asked about. {{ model.problem }}
      </p>
    </template>
  </section>
</template>

<style scoped>
.model {
  display: grid;
  gap: 8px;
  max-width: 720px;
  border: 1px solid var(--ks-hair);
  padding: 12px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
