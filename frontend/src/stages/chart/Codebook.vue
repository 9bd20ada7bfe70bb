<script setup lang="ts">
// The codebook as an outline: concepts with their items, then arms, outcomes, time points; beside it the part in focus.
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, PUT, Refusal, type Schemas } from '@/api/client'
import FirstStep from '@/common/FirstStep.vue'
import { plural } from '@/common/format'
import { wasLate } from '@/common/late'
import { complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import {
  drafted,
  move,
  noNumber,
  outline,
  said,
  type ConceptDraft,
  type Draft,
  type ItemDraft,
  type LevelDraft,
  type Text,
} from './book'
import CodebookFile from './CodebookFile.vue'
import CodebookVersions from './CodebookVersions.vue'
import ConsequencesDialog from './ConsequencesDialog.vue'
import ItemFields from './ItemFields.vue'
import { FACTOR_NAMES, FACTORS, type Factor } from './layout'

const { review, path, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const { data, error, isPending, refetch } = useQuery({
  queryKey: ['codebook', review],
  queryFn: () => got(GET('/api/reviews/{review}/codebook', { params: path.value })),
})
const draft = ref<Draft>({ items: [], concepts: [], levels: [] })
const touched = ref(false)
/** The codebook as it was when these changes were begun. */
const seen = ref<Text | null>(null)
function take(found: Schemas['Codebook']) {
  seen.value = { items: found.items, concepts: found.concepts, levels: found.levels }
  draft.value = drafted(found)
}
watch(data, (one) => one && !touched.value && take(one), { immediate: true })

const entries = computed(() => outline(draft.value))
const chosen = computed(
  () =>
    entries.value.find((one) => one.part.key === route.query.part) ??
    entries.value.find((one) => one.kind === 'item') ??
    entries.value[0],
)
const choose = (key: string) => router.replace({ query: { ...route.query, part: key } })
const list = ref<HTMLElement | null>(null)
async function step(by: number) {
  const at = entries.value.findIndex((one) => one.part.key === chosen.value?.part.key)
  const next = entries.value[Math.max(0, Math.min(entries.value.length - 1, at + by))]
  if (!next) return
  await choose(next.part.key)
  await nextTick()
  list.value?.querySelector<HTMLElement>('[aria-current=true]')?.focus()
}
function keyed(event: KeyboardEvent) {
  const by = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (!by) return
  event.preventDefault()
  if (event.altKey) shift(by)
  else void step(by)
}
/** Change the order among those beside it. */
function shift(by: number) {
  const picked = chosen.value
  if (!picked || !mayWrite.value) return
  touched.value = true
  if (picked.kind === 'item')
    move(draft.value.items, picked.part as ItemDraft, by, (one) => one.concept === (picked.part as ItemDraft).concept)
  else if (picked.kind === 'concept')
    move(
      draft.value.concepts,
      picked.part as ConceptDraft,
      by,
      (one) => one.within === (picked.part as ConceptDraft).within,
    )
  else
    move(draft.value.levels, picked.part as LevelDraft, by, (one) => one.factor === (picked.part as LevelDraft).factor)
}
let added = 0
const fresh = () => `added${++added}`
async function add(kind: 'item' | 'concept' | Factor) {
  const key = fresh()
  const beside =
    chosen.value?.kind === 'item'
      ? (chosen.value.part as ItemDraft).concept
      : chosen.value?.kind === 'concept'
        ? chosen.value.part.name
        : ''
  if (kind === 'item')
    draft.value.items.push({
      key, id: null, name: '', kind: 'text', unit: '', choices: '', instructions: '', examples: '', low: '', high: '', per: [], concept: beside,
    }) // prettier-ignore
  else if (kind === 'concept') draft.value.concepts.push({ key, id: null, name: '', within: '' })
  else draft.value.levels.push({ key, id: null, factor: kind, name: '', words: '' })
  touched.value = true
  await choose(key)
  await nextTick()
  document.querySelector<HTMLInputElement>('.part input')?.focus()
}
function remove() {
  const picked = chosen.value
  if (!picked) return
  const before = { items: [...draft.value.items], concepts: [...draft.value.concepts], levels: [...draft.value.levels] }
  const uses = draft.value.items.map((one) => one.concept)
  draft.value.items = draft.value.items.filter((one) => one !== picked.part)
  draft.value.levels = draft.value.levels.filter((one) => one !== picked.part)
  if (picked.kind === 'concept') {
    const { name, within } = picked.part as ConceptDraft
    draft.value.concepts = draft.value.concepts.filter((one) => one !== picked.part)
    for (const one of draft.value.items) if (one.concept === name) one.concept = within
    for (const one of draft.value.concepts) if (one.within === name) one.within = within
  }
  touched.value = true
  say(`${picked.part.name || 'The new part'} is removed once the codebook is saved.`, async () => {
    draft.value = before
    before.items.forEach((one, k) => (one.concept = uses[k]!))
  })
}
/** A concept keeps its items when it is called otherwise. */
function renameConcept(each: ConceptDraft, name: string) {
  for (const one of draft.value.items) if (one.concept === each.name) one.concept = name
  for (const one of draft.value.concepts) if (one.within === each.name) one.within = name
  each.name = name
}

const told = ref<Schemas['CodebookPreview'] | null>(null)
async function save(wanted: Text = said(draft.value), since: Text | null = seen.value, agreed = false) {
  const bad = noNumber(draft.value)
  if (bad) return complain(new Refusal(`The allowed range of “${bad}” is not written in numbers.`, 422))
  try {
    await got(PUT('/api/reviews/{review}/codebook', { params: path.value, body: { ...wanted, seen: since, agreed } }))
  } catch (failure) {
    if (failure instanceof Refusal && failure.details.look) await look(wanted)
    else if (!wasLate<Text>(failure, (mine, now) => save(mine, now), again)) complain(failure)
    return
  }
  told.value = null
  await again()
  say('The codebook is saved.')
}
async function look(wanted: Text) {
  try {
    told.value = await got(POST('/api/reviews/{review}/codebook/preview', { params: path.value, body: wanted }))
  } catch (failure) {
    complain(failure)
  }
}
/** What stands now. */
async function again() {
  touched.value = false
  await refresh('codebook', 'evidence', 'figures', 'proposals')
  if (data.value) take(data.value)
}
function merged(text: Text) {
  draft.value = drafted(text)
  touched.value = true
  say('What the file has more is here now. Nothing is saved yet.')
}
const showVersions = computed(() => route.query.show === 'versions')
const used = (draft: ItemDraft) => (draft.id ? (data.value?.used[draft.id] ?? 0) : 0)
const conceptNames = computed(() => draft.value.concepts.map((concept) => concept.name).filter(Boolean))
</script>

<template>
  <StateOf :pending="isPending" :error="error" :retry="() => refetch()">
    <Teleport to="#view-actions" defer>
      <span v-if="touched" class="soft small" role="status">Not saved yet</span>
      <button class="link small" @click="router.replace({ query: showVersions ? {} : { show: 'versions' } })">
        {{ showVersions ? 'Back to the codebook' : `Version ${data?.version ?? 0}` }}
      </button>
      <CodebookFile :may-write="mayWrite" @merged="merged" />
      <v-btn v-if="mayWrite" class="main" :disabled="!touched" @click="save()">Save the codebook</v-btn>
    </Teleport>
    <CodebookVersions v-if="showVersions" />
    <div v-else class="panes columns">
      <section class="pane filled" aria-label="Outline of the codebook">
        <div v-if="mayWrite" class="row adding small">
          <v-btn @click="add('item')">Add an item</v-btn>
          <v-btn @click="add('concept')">Add a concept</v-btn>
          <v-menu>
            <template #activator="{ props: on }"><v-btn v-bind="on">Add …</v-btn></template>
            <v-list aria-label="Add">
              <v-list-item
                v-for="factor in FACTORS"
                :key="factor"
                :title="FACTOR_NAMES[factor][0]"
                @click="add(factor)"
              />
            </v-list>
          </v-menu>
        </div>
        <div v-if="!entries.length" class="pad soft">
          <h2>The codebook is empty</h2>
          <FirstStep stage="Chart" here />
        </div>
        <ul v-else ref="list" class="outline" @keydown="keyed">
          <template v-for="(entry, k) in entries" :key="entry.part.key">
            <li
              v-if="
                entry.kind === 'level' &&
                (entry.part as LevelDraft).factor !== (entries[k - 1]?.part as LevelDraft)?.factor
              "
              class="soft small group"
            >
              {{ FACTOR_NAMES[(entry.part as LevelDraft).factor][1] }} of all studies
            </li>
            <li>
              <button
                class="entry"
                :class="[entry.kind, { on: entry.part.key === chosen?.part.key }]"
                :aria-current="entry.part.key === chosen?.part.key"
                :style="{ paddingLeft: `${12 + 16 * entry.depth}px` }"
                @click="choose(entry.part.key)"
              >
                <span class="clip">{{ entry.part.name || 'without a name yet' }}</span>
                <span v-if="entry.kind === 'item'" class="soft small push"
                  >{{ (entry.part as ItemDraft).kind.replace('_', ', ').replace('yesno', 'yes or no')
                  }}{{
                    (entry.part as ItemDraft).per.length ? `, by ${(entry.part as ItemDraft).per.join(' and ')}` : ''
                  }}</span
                >
              </button>
            </li>
          </template>
        </ul>
      </section>
      <section v-if="chosen" :key="chosen.part.key" class="pane sheet pad part" @input="touched = true">
        <ItemFields
          v-if="chosen.kind === 'item'"
          :item="chosen.part as ItemDraft"
          :concepts="conceptNames"
          :named="[...new Set(draft.levels.map((level) => level.factor))]"
          :used="used(chosen.part as ItemDraft)"
          :may-write="mayWrite"
          @touched="touched = true"
        />
        <div v-else-if="chosen.kind === 'concept'" class="fields">
          <TextField
            :model-value="chosen.part.name"
            label="Concept"
            :readonly="!mayWrite"
            maxlength="120"
            @update:model-value="renameConcept(chosen.part as ConceptDraft, $event ?? '')"
          />
          <ChoiceField
            v-model="(chosen.part as ConceptDraft).within"
            :items="[
              { value: '', title: 'of nothing broader' },
              ...conceptNames.filter((name) => name !== chosen!.part.name),
            ]"
            label="Is a kind of"
            :readonly="!mayWrite"
            @update:model-value="touched = true"
          />
        </div>
        <div v-else class="fields">
          <TextField
            v-model="chosen.part.name"
            :label="FACTOR_NAMES[(chosen.part as LevelDraft).factor][0]"
            :readonly="!mayWrite"
            maxlength="120"
          />
          <TextField
            v-model="(chosen.part as LevelDraft).words"
            label="Other words for it, separated by semicolons"
            hint="Reports are searched for these words too."
            :readonly="!mayWrite"
          />
        </div>
        <div v-if="mayWrite" class="row below">
          <v-btn @click="shift(-1)">Move up<kbd>Alt ↑</kbd></v-btn>
          <v-btn @click="shift(1)">Move down<kbd>Alt ↓</kbd></v-btn>
          <v-btn @click="remove">Remove</v-btn>
          <span v-if="chosen.kind === 'item' && used(chosen.part as ItemDraft)" class="soft small push"
            ><router-link :to="`/reviews/${review}/chart`">{{
              plural(used(chosen.part as ItemDraft), 'value')
            }}</router-link>
            charted</span
          >
        </div>
      </section>
    </div>
    <ConsequencesDialog v-if="told" :told="told" @close="told = null" @save="save(said(draft), seen, true)" />
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(320px, 2fr) minmax(0, 3fr);
}
.adding {
  padding: 10px 12px;
  border-bottom: 1px solid var(--ks-hair);
}
.outline {
  list-style: none;
  margin: 0;
  padding: 6px 0;
  overflow: auto;
}
.entry {
  display: flex;
  align-items: center;
  gap: 10px;
  width: 100%;
  padding: 5px 12px;
}
.entry.on {
  background: var(--ks-copper-wash);
}
.entry.concept {
  font-weight: 600;
}
.group {
  padding: 12px 12px 4px;
}
.part {
  display: grid;
  gap: 16px;
  align-content: start;
}
.below {
  border-top: 1px solid var(--ks-hair);
  padding-top: 12px;
}
</style>
