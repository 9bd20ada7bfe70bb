<script setup lang="ts">
// From picked records: what a connected catalogue has that is most like them, fetched as a search of its own.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { GET, got, POST } from '@/api/client'
import { plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'

const props = defineProps<{ records: number[] }>()
const { review, path } = useReview()
const refresh = useRefresh()
const router = useRouter()
const { data: catalogues } = useQuery({
  queryKey: ['catalogues', review],
  queryFn: () => got(GET('/api/reviews/{review}/catalogues', { params: path.value })),
})
const open = ref(false)
const catalogue = ref<number | null>(null)
const keep = ref(50)
watch(catalogues, (list) => (catalogue.value ??= list?.[0]?.id ?? null), { immediate: true })
const choices = computed(() => (catalogues.value ?? []).map((one) => ({ value: one.id, title: one.name })))
const KEPT = [10, 25, 50, 100, 200].map((value) => ({ value, title: String(value) }))
async function begin() {
  await attempt(async () => {
    const body = { catalogue: catalogue.value!, records: props.records, keep: keep.value }
    const { search } = await got(POST('/api/reviews/{review}/catalogue-runs/nearest', { params: path.value, body }))
    await refresh('searches', 'jobs')
    open.value = false
    say('Being looked for in the background; you can leave this page.')
    await router.push(`/reviews/${review.value}/gather?search=${search}`)
  })
}
</script>

<template>
  <v-btn title="Look in a connected catalogue for what is most like these" @click="open = true"
    >More from a catalogue</v-btn
  >
  <v-dialog v-model="open" max-width="520" aria-label="More like these from a catalogue">
    <v-card class="pad">
      <form class="fields" @submit.prevent="begin">
        <h2>More like {{ records.length === 1 ? 'this one' : `these ${records.length}` }}, from a catalogue</h2>
        <template v-if="choices.length">
          <ChoiceField v-model="catalogue" :items="choices" label="Catalogue" />
          <ChoiceField v-model="keep" :items="KEPT" label="Bring in, at most" />
          <p class="small soft">
            The catalogue is asked for records that share several of the telling words of
            {{ records.length === 1 ? 'this record' : `these ${plural(records.length, 'record')}` }}. Of what it finds,
            the most alike enter the log as a search of its own, with the query as it was asked; what is here already by
            DOI stays away.
          </p>
        </template>
        <p v-else-if="catalogues">
          No catalogue is connected.
          <router-link :to="`/reviews/${review}/plan/query`">A lead connects one</router-link> beside the query.
        </p>
        <div class="row">
          <v-btn class="main" type="submit" :disabled="!catalogue">Look for them</v-btn>
          <v-btn @click="open = false">Leave it</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>
