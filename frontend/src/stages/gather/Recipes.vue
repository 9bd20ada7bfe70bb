<script setup lang="ts">
// The reading recipes of a team: kept in versions, taken along as small files.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { DELETE, GET, got, POST } from '@/api/client'
import { moment, plural } from '@/common/format'
import { wasLate } from '@/common/late'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['recipes', review],
  queryFn: () => got(GET('/api/reviews/{review}/recipes', { params: path.value })),
})
const recipe = computed(() => data.value?.find((one) => one.name === route.query.recipe) ?? data.value?.[0])
const version = ref<number | null>(null)
const text = computed(
  () => recipe.value?.versions.find((one) => one.version === version.value)?.text ?? recipe.value?.text ?? '',
)
const choose = (name: string) => ((version.value = null), router.replace({ query: { recipe: name } }))
const input = ref<HTMLInputElement | null>(null)
async function bring() {
  for (const file of Array.from(input.value?.files ?? [])) {
    const said = await file.text()
    if (
      await attempt(() =>
        got(POST('/api/reviews/{review}/recipes', { params: path.value, body: { text: said.slice(0, 40_000) } })),
      )
    )
      say(`${file.name} is kept.`)
  }
  if (input.value) input.value.value = ''
  await refresh('recipes')
}
async function remove() {
  const gone = recipe.value
  if (!gone) return
  const params = { path: { review: review.value, name: gone.name } }
  if (await attempt(() => got(DELETE('/api/reviews/{review}/recipes/{name}', { params }))))
    say(`“${gone.name}” is removed.`, () => got(POST('/api/reviews/{review}/recipes/{name}/back', { params })))
  await refresh('recipes')
}
const edited = ref<string | null>(null)
const begun = ref('')
function edit() {
  edited.value = begun.value = text.value
}
async function keep(said = edited.value ?? '', seen = begun.value) {
  try {
    await got(POST('/api/reviews/{review}/recipes', { params: path.value, body: { text: said, seen } }))
  } catch (failure) {
    if (!wasLate<string>(failure, keep, () => (edited.value = null))) complain(failure)
    return refresh('recipes')
  }
  edited.value = null
  await refresh('recipes')
  say('Kept as the next version.')
}
const href = computed(() => `data:application/toml;charset=utf-8,${encodeURIComponent(text.value)}`)
const filename = computed(() => `${(recipe.value?.name ?? 'recipe').toLowerCase().replace(/[^a-z0-9]+/g, '-')}.toml`)
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <div class="panes columns">
      <Teleport to="#view-actions" defer>
        <template v-if="mayWrite"
          ><input
            ref="input"
            type="file"
            accept=".toml"
            multiple
            class="unseen"
            aria-label="Recipe files"
            @change="bring"
          /><v-btn class="main" @click="input?.click()">Bring in a recipe</v-btn></template
        >
      </Teleport>
      <nav class="pane pad" aria-label="Recipes">
        <button
          v-for="one in data"
          :key="one.name"
          class="kind"
          :class="{ on: one.name === recipe?.name }"
          :aria-current="one.name === recipe?.name ? 'true' : undefined"
          @click="choose(one.name)"
        >
          {{ one.name
          }}<small class="soft">
            · {{ one.shipped ? 'came with the program' : plural(one.versions.length, 'version') }}</small
          >
        </button>
        <p class="small soft note">
          A recipe says how a kind of labelled text is read. Make one from a file that nobody has a reader for: open the
          file and choose “Make a recipe”.
        </p>
      </nav>
      <section v-if="recipe" class="pane sheet">
        <div class="head">
          <h2>{{ recipe.name }}</h2>
          <span class="soft small">{{ recipe.about }}</span>
          <span class="push row"
            ><v-btn :href="href" :download="filename">Download</v-btn
            ><template v-if="mayWrite && !recipe.shipped"
              ><v-btn v-if="edited === null" @click="edit">Edit</v-btn><v-btn @click="remove">Remove</v-btn></template
            ></span
          >
        </div>
        <div v-if="recipe.versions.length" class="pad row wrap small">
          <button
            v-for="one in recipe.versions"
            :key="one.version"
            class="tag"
            :class="{ now: (version ?? recipe.version) === one.version }"
            @click="version = one.version"
          >
            Version {{ one.version }}, {{ one.by }}, {{ moment(one.at) }}
          </button>
        </div>
        <template v-if="edited !== null">
          <textarea v-model="edited" class="box mono text" rows="24" aria-label="The recipe" spellcheck="false" />
          <div class="pad row">
            <v-btn class="main" @click="keep()">Keep as the next version</v-btn
            ><v-btn @click="edited = null">Leave as it was</v-btn>
          </div></template
        >
        <pre v-else class="mono pad">{{ text }}</pre>
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: 280px minmax(0, 1fr);
}
.kind {
  display: block;
  width: 100%;
  padding: 5px 8px;
}
.note {
  margin-top: 16px;
}
button.tag.tag {
  border: 1px solid var(--ks-hair);
  padding: 0 6px;
  color: var(--ks-soft);
}
button.tag.tag.now {
  border-color: var(--ks-copper);
  color: var(--ks-ink);
}
.text {
  width: calc(100% - 32px);
  margin: 12px 16px 0;
}
.wrap {
  flex-wrap: wrap;
  padding-bottom: 0;
}
pre {
  margin: 0;
}
</style>
