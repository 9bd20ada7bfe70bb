<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { DELETE, GET, got, POST, PUT } from '@/api/client'
import { people, plural } from '@/common/format'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const { data, error, isPending, refetch } = useQuery({ queryKey: ['seeds', review], queryFn: () => got(GET('/api/reviews/{review}/seeds', { params: path.value })) })
const pasted = ref('')

async function paste() {
  try {
    const { added } = await got(POST('/api/reviews/{review}/seeds/paste', { params: path.value, body: { text: pasted.value } }))
    pasted.value = ''
    await refresh('seeds', 'figures', 'records')
    say(added ? `${plural(added, 'identifier')} added.` : 'All of these were there already.')
  } catch (failure) {
    complain(failure)
  }
}
const setSeed = (record: number, seed: boolean) => got(PUT('/api/reviews/{review}/records/{record}/seed', { params: { path: { review: review.value, record } }, body: { seed } }))
async function unmark(record: number) {
  if (await attempt(() => setSeed(record, false))) say('No longer a seed.', () => setSeed(record, true))
  await refresh('seeds', 'figures')
}
async function drop(key: { id: number; key: string }) {
  const again = () => got(POST('/api/reviews/{review}/seeds/paste', { params: path.value, body: { text: key.key } }))
  if (await attempt(() => got(DELETE('/api/reviews/{review}/seeds/keys/{key}', { params: { path: { review: review.value, key: key.id } } })))) say(`${key.key} removed.`, again)
  await refresh('seeds', 'figures')
}
</script>

<template>
  <div class="panes columns">
    <section class="pane sheet">
      <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
        <div v-if="!data?.seeds.length" class="pad soft">
          <h2>No seeds yet</h2>
          <p>A seed is a study that you know belongs. Paste identifiers on the right, or mark a record as a seed in any list or at the desk. The order of screening begins with them.</p>
        </div>
        <table v-else>
          <thead><tr><th>Seed</th><th>Year</th><th>DOI</th><th>Lacks</th><th><span class="unseen">Actions</span></th></tr></thead>
          <tbody>
            <tr v-for="it in data.seeds" :key="it.id">
              <td class="read"><router-link :to="`/reviews/${review}/screen?record=${it.id}`">{{ it.title || 'Untitled' }}</router-link><div class="soft small">{{ people(it.authors) }}</div></td>
              <td>{{ it.year ?? '—' }}</td>
              <td class="small">{{ it.doi || '—' }}</td>
              <td class="odd small">{{ [it.has_abstract ? '' : 'abstract', it.has_keywords ? '' : 'descriptors', it.doi ? '' : 'DOI'].filter(Boolean).join(', ') || '' }}<span v-if="it.has_abstract && it.has_keywords && it.doi" class="soft">nothing</span></td>
              <td class="num"><v-btn v-if="mayWrite" :aria-label="`Not a seed: ${it.title}`" @click="unmark(it.id)">Not a seed</v-btn></td>
            </tr>
          </tbody>
        </table>
      </StateOf>
    </section>
    <aside class="pane pad">
      <form v-if="mayWrite" class="fields" @submit.prevent="paste">
        <h2>Paste identifiers</h2>
        <p class="soft small">DOIs or accession numbers, one a line. They become seeds as soon as a record has them.</p>
        <v-textarea v-model="pasted" label="Identifiers" rows="4" />
        <v-btn class="main" type="submit" :disabled="!pasted.trim()">Add as seeds</v-btn>
      </form>
      <template v-if="data?.keys.length">
        <h2 class="below">Pasted</h2>
        <table class="small">
          <tbody>
            <tr v-for="it in data.keys" :key="it.id">
              <td>{{ it.key }}</td>
              <td :class="it.record_id ? 'soft' : 'odd'">{{ it.record_id ? 'found' : 'not here yet' }}</td>
              <td class="num"><v-btn v-if="mayWrite" :aria-label="`Remove ${it.key}`" @click="drop(it)">Remove</v-btn></td>
            </tr>
          </tbody>
        </table>
      </template>
    </aside>
  </div>
</template>

<style scoped>
.columns { grid-template-columns: minmax(0, 1fr) 400px; }
.below { margin-top: 20px; }
</style>
