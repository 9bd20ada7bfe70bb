<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { DELETE, GET, got, POST, PUT } from '@/api/client'
import { people, plural } from '@/common/format'
import { attempt, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import SeedsFilled from './seeds/SeedsFilled.vue'
import SeedsNamed from './seeds/SeedsNamed.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['seeds', review],
  queryFn: () => got(GET('/api/reviews/{review}/seeds', { params: path.value })),
})
const filling = ref(false)

const setSeed = (record: number, seed: boolean) =>
  got(
    PUT('/api/reviews/{review}/records/{record}/seed', {
      params: { path: { review: review.value, record } },
      body: { seed },
    }),
  )
async function unmark(record: number) {
  if (await attempt(() => setSeed(record, false))) say('No longer a seed.', () => setSeed(record, true))
  await refresh('seeds', 'figures')
}
async function drop(key: { id: number; key: string }) {
  const again = () => got(POST('/api/reviews/{review}/seeds/paste', { params: path.value, body: { text: key.key } }))
  if (
    await attempt(() =>
      got(
        DELETE('/api/reviews/{review}/seeds/keys/{key}', { params: { path: { review: review.value, key: key.id } } }),
      ),
    )
  )
    say(`${key.key} removed.`, again)
  await refresh('seeds', 'figures')
}
</script>

<template>
  <div class="panes columns">
    <Teleport to="#view-actions" defer>
      <span v-if="data?.seeds.length" class="soft small">{{ plural(data.seeds.length, 'seed') }}</span>
      <v-btn v-if="mayWrite && data?.seeds.length" class="main" @click="filling = true">Fill what they lack</v-btn>
    </Teleport>
    <section class="pane sheet">
      <SeedsFilled v-if="filling && data" :seeds="data.seeds" @close="filling = false" />
      <StateOf v-else :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="!data?.seeds.length" class="pad soft">
          <h2>No seeds yet</h2>
          <p>
            A seed is a study that you know belongs. Name studies on the right, or mark a record as a seed in any list
            or at the desk. The words of the seeds make a query, each term shows which of them it finds, and the order
            of screening begins with them.
          </p>
        </div>
        <table v-else>
          <thead>
            <tr>
              <th>Seed</th>
              <th>Year</th>
              <th>DOI</th>
              <th>Lacks</th>
              <th><span class="unseen">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="seed in data.seeds" :key="seed.id">
              <td class="read">
                <router-link :to="`/reviews/${review}/screen?record=${seed.id}`">{{
                  seed.title || 'Untitled'
                }}</router-link>
                <div class="soft small">{{ people(seed.authors) }}</div>
              </td>
              <td>{{ seed.year ?? '—' }}</td>
              <td class="small">{{ seed.doi || '—' }}</td>
              <td class="odd small">
                {{
                  [seed.has_abstract ? '' : 'abstract', seed.has_keywords ? '' : 'descriptors', seed.doi ? '' : 'DOI']
                    .filter(Boolean)
                    .join(', ') || ''
                }}<span v-if="seed.has_abstract && seed.has_keywords && seed.doi" class="soft">nothing</span>
              </td>
              <td class="num">
                <v-btn v-if="mayWrite" :aria-label="`Not a seed: ${seed.title}`" @click="unmark(seed.id)"
                  >Not a seed</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside class="pane pad">
      <SeedsNamed v-if="mayWrite" />
      <template v-if="data?.keys.length">
        <h2 class="below">Identifiers named</h2>
        <table class="small">
          <tbody>
            <tr v-for="key in data.keys" :key="key.id">
              <td>{{ key.key }}</td>
              <td :class="key.record_id ? 'soft' : 'odd'">{{ key.record_id ? 'found' : 'not here yet' }}</td>
              <td class="num">
                <button v-if="mayWrite" class="link" :aria-label="`Remove ${key.key}`" @click="drop(key)">
                  Remove
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </template>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 440px;
}
@media (max-width: 1200px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) 380px;
  }
}
.below {
  margin-top: 20px;
}
</style>
