<script setup lang="ts">
// A file that nobody has a reader for: its lines on the left, the records that a recipe makes of them on the right,
// at once.
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { GET, got, POST, type Schemas } from '@/api/client'
import { count, plural } from '@/common/format'
import { wasLate } from '@/common/late'
import { attempt, complain, say } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import StateOf from '@/common/StateOf.vue'
import { FIELD_CHOICES, FIELD_NAMES } from './reading'

const { review, mayWrite } = useReview()
const refresh = useRefresh()
const route = useRoute()
const router = useRouter()
const batch = computed(() => Number(route.params.batch))
const params = computed(() => ({ path: { review: review.value, batch: batch.value } }))
const { data: recipes } = useQuery({
  queryKey: ['recipes', review],
  queryFn: () => got(GET('/api/reviews/{review}/recipes', { params: { path: { review: review.value } } })),
})
const begun = new Map<string, string>() // the team's recipes when this page was opened
watch(
  recipes,
  (all) => {
    if (!begun.size) all?.forEach((one) => begun.set(one.name, one.text))
  },
  { immediate: true },
)
const { data: file } = useQuery({
  queryKey: ['look', review, batch],
  queryFn: () => got(GET('/api/reviews/{review}/files/{batch}', { params: params.value })),
})
const looked = ref<Schemas['RecipeLook']>()
const fault = ref<Error | null>(null)
const parts = reactive<Schemas['RecipeParts']>({
  name: '',
  about: '',
  version: 1,
  shape: 'colon',
  begin: 'blank',
  start: '',
  end: '',
  fields: {},
  lines: [],
  split: {},
  text: '',
})
const SHAPES: Record<string, string> = {
  dash: 'TI  - value',
  sign: '%T value',
  brackets: '[Title] value',
  space: 'TI value',
  colon: 'Title: value',
  equals: 'Title = value',
  tab: 'Title ⇥ value',
  bar: 'Title | value',
  arrow: 'Title → value',
  hyphen: 'Title - value',
  wide: 'Title   value',
  heading: 'Title, value below',
}
const LISTS = [
  ['authors', 'authors'],
  ['keywords', 'descriptors'],
  ['references', 'references'],
] as const

function show(found: Schemas['RecipeLook']) {
  looked.value = found
  Object.assign(parts, found.recipe, {
    name:
      parts.name ||
      (found.recipe.name === 'New recipe' || found.recipe.name.startsWith('Worked out') ? '' : found.recipe.name),
  })
}
async function propose(shape?: string) {
  try {
    show(
      await got(GET('/api/reviews/{review}/files/{batch}/recipe', { params: { ...params.value, query: { shape } } })),
    )
    fault.value = null
  } catch (error) {
    if (looked.value) complain(error)
    else fault.value = error as Error
  }
}
async function begin() {
  const look = await got(GET('/api/reviews/{review}/files/{batch}', { params: params.value })).catch(() => undefined)
  if (look?.recipe && !look.recipe.includes('"Worked out from this file"')) return tryText(look.recipe)
  return propose()
}
void begin()
async function tryText(text: string) {
  try {
    show(await got(POST('/api/reviews/{review}/files/{batch}/recipe', { params: params.value, body: { text } })))
  } catch (error) {
    complain(error)
  }
}
const composed = () =>
  got(
    POST('/api/reviews/{review}/recipes/compose', {
      params: { path: { review: review.value } },
      body: { ...parts, name: parts.name.trim() || 'New recipe' },
    }),
  )
let asked = 0
async function again() {
  const mine = ++asked
  try {
    const { text } = await composed()
    const found = await got(
      POST('/api/reviews/{review}/files/{batch}/recipe', { params: params.value, body: { text } }),
    )
    if (mine === asked) show(found)
  } catch (error) {
    complain(error)
  }
}
function begins(value: string) {
  const chosen = looked.value?.beginnings[Number(value)]
  if (!chosen) return
  Object.assign(parts, { begin: chosen.begin, start: chosen.start, end: chosen.end })
  void again()
}
const beginning = computed(() =>
  String(looked.value?.beginnings.findIndex((one) => one.begin === parts.begin && one.start === parts.start) ?? -1),
)
const WORDS: Record<string, string> = {
  blank: 'after an empty line',
  number: 'at a number of its own line',
  rule: 'after a ruled line',
}
function field(tag: string, value: string) {
  parts.fields = { ...parts.fields, [tag]: value }
  void again()
}
function each(name: string, on: boolean) {
  parts.lines = on ? [...parts.lines, name] : parts.lines.filter((one) => one !== name)
  void again()
}
function separate(name: string, sign: string) {
  const rest = Object.entries(parts.split).filter(([one]) => one !== name)
  parts.split = Object.fromEntries(sign ? [...rest, [name, sign]] : rest)
  void again()
}
const starts = computed(() => new Set((looked.value?.entries ?? []).map((one) => one.line)))
const tagOf = computed(() => {
  const tags = (looked.value?.labels ?? []).map((one) => one.tag).sort((a, b) => b.length - a.length)
  return (line: string) =>
    tags.find((tag) => new RegExp(`^\\W{0,3}${tag.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}(?![\\w])`).test(line))
})
const at = ref(0)
const shown = computed(() => looked.value?.entries[at.value])
const rows = computed(() => Object.entries(shown.value?.fields ?? {}))
watch(
  () => looked.value?.entries.length,
  (n) => (at.value = Math.min(at.value, Math.max(0, (n ?? 1) - 1))),
)
async function keep(read: boolean, text?: string, seen?: string) {
  let kept: { name: string; version: number; text: string } | undefined
  try {
    text ??= (await composed()).text
    seen ??= begun.get(parts.name.trim()) ?? ''
    kept = await got(
      POST('/api/reviews/{review}/recipes', { params: { path: { review: review.value } }, body: { text, seen } }),
    )
  } catch (failure) {
    const again = (mine: string, now: string) => keep(read, mine, now)
    if (!wasLate<string>(failure, again, () => undefined)) complain(failure)
    return refresh('recipes')
  }
  begun.set(kept.name, kept.text)
  await refresh('recipes')
  if (read && file.value && file.value.state !== 'taken') {
    if (
      !(await attempt(() =>
        got(
          POST('/api/reviews/{review}/files/{batch}/read', {
            params: params.value,
            body: {
              format: 'recipe',
              encoding: file.value?.how.encoding ?? '',
              fields: {},
              recipe: kept.text,
              sheet: '',
              header: null,
              names: '',
            },
          }),
        ),
      ))
    )
      return
    await refresh('look', 'entry', 'files')
    await router.push(`/reviews/${review.value}/gather/files/${batch.value}`)
  }
  say(`“${kept.name}”, version ${kept.version}, is kept for the team; files like this one are recognised from now on.`)
}
</script>

<template>
  <StateOf :pending="!looked && !fault" :error="fault" :retry="() => propose()">
    <div v-if="looked" class="panes columns">
      <Teleport to="#view-actions" defer>
        <router-link class="small" :to="`/reviews/${review}/gather/files/${batch}`">{{ file?.filename }}</router-link>
        <template v-if="mayWrite">
          <v-btn :disabled="!parts.name.trim()" @click="keep(false)">Keep the recipe</v-btn>
          <v-btn class="main" :disabled="!parts.name.trim() || !looked.records" @click="keep(true)"
            >Keep, and read the file so</v-btn
          >
        </template>
      </Teleport>
      <section class="pane">
        <div class="head">
          <h2>What the file says</h2>
          <span class="soft small">{{ plural(looked.lines.length, 'line') }} shown</span>
        </div>
        <ol class="mono raw" tabindex="0" aria-label="Lines of the file">
          <li
            v-for="(line, k) in looked.lines"
            :key="k"
            :class="{ begins: starts.has(k + 1), now: shown && k + 1 >= shown.line && k + 1 <= shown.end_line }"
          >
            <span class="soft no">{{ k + 1 }}</span><span
              ><b v-if="tagOf(line)" class="label">{{
                line.slice(0, line.indexOf(tagOf(line)!) + tagOf(line)!.length)
              }}</b
              >{{ tagOf(line) ? line.slice(line.indexOf(tagOf(line)!) + tagOf(line)!.length) : line || ' ' }}</span
            >
          </li>
        </ol>
      </section>
      <section class="pane pad how">
        <div class="fields">
          <TextField
            v-model="parts.name"
            label="Name of the recipe, such as the source"
            maxlength="80"
            :readonly="!mayWrite"
          />
          <label class="small soft"
            >A line with a label looks like
            <select class="box wide" :value="parts.shape" @change="propose(($event.target as HTMLSelectElement).value)">
              <option v-for="name in looked.shapes" :key="name" :value="name">{{ SHAPES[name] }}</option>
            </select></label
          >
          <label class="small soft"
            >A record begins
            <select class="box wide" :value="beginning" @change="begins(($event.target as HTMLSelectElement).value)">
              <option v-if="beginning === '-1'" value="-1">
                {{ parts.begin === 'tag' ? `at “${parts.start}”` : WORDS[parts.begin] }}
              </option>
              <option v-for="(one, k) in looked.beginnings" :key="k" :value="String(k)">
                {{ one.begin === 'tag' ? `at “${one.start}”` : WORDS[one.begin] }}: {{ plural(one.records, 'record') }},
                {{ Math.round(one.evenness * 100) }} % even
              </option>
            </select></label
          >
          <label class="small soft"
            >and ends at the label
            <input
              class="box"
              :value="parts.end"
              maxlength="40"
              size="8"
              placeholder="none"
              @change="((parts.end = ($event.target as HTMLInputElement).value.trim()), again())"
          /></label>
        </div>
        <table class="small labels">
          <thead>
            <tr>
              <th>Label</th>
              <th class="num">Times</th>
              <th>Field</th>
              <th>Holds</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in looked.labels" :key="one.tag">
              <td class="mono tag-name">{{ one.tag }}</td>
              <td class="num">{{ count(one.times) }}</td>
              <td>
                <select
                  class="box pick"
                  :class="{ none: !parts.fields[one.tag] }"
                  :value="parts.fields[one.tag] ?? ''"
                  :aria-label="`Field of ${one.tag}`"
                  @change="field(one.tag, ($event.target as HTMLSelectElement).value)"
                >
                  <option v-for="choice in FIELD_CHOICES" :key="choice.value" :value="choice.value">
                    {{ choice.title }}
                  </option>
                </select>
              </td>
              <td class="soft clip sample" :title="one.samples.join('\n')">{{ one.samples.find(Boolean) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!looked.labels.length" class="odd">No label repeats in lines of this look. Try another.</p>
        <div v-for="[name, words] in LISTS" :key="name" class="row small list">
          <template v-if="Object.values(parts.fields).includes(name)">
            <label
              ><input
                type="checkbox"
                :checked="parts.lines.includes(name)"
                @change="each(name, ($event.target as HTMLInputElement).checked)"
              />
              each line of {{ words }} is one</label
            >
            <label class="push"
              >separated by
              <input
                class="box"
                size="4"
                maxlength="10"
                :value="parts.split[name] ?? ''"
                placeholder="found out"
                :aria-label="`What separates ${words}`"
                @change="separate(name, ($event.target as HTMLInputElement).value)"
            /></label>
          </template>
        </div>
        <details class="small soft">
          <summary>The recipe as a file</summary>
          <pre class="mono">{{ looked.recipe.text }}</pre>
        </details>
      </section>
      <section class="pane sheet">
        <div class="head">
          <h2>Records</h2>
          <span class="soft small" role="status">{{ plural(looked.records, 'record') }} in what is shown</span>
          <span class="push row"
            ><v-btn aria-label="Record before" :disabled="!at" @click="at--">↑</v-btn
            ><v-btn aria-label="Record after" :disabled="at >= looked.entries.length - 1" @click="at++">↓</v-btn></span
          >
        </div>
        <template v-if="shown">
          <p class="pad small soft first">Record {{ at + 1 }}, lines {{ shown.line }}–{{ shown.end_line }}</p>
          <table>
            <tbody>
              <tr v-for="[name, value] in rows" :key="name">
                <th class="soft">{{ FIELD_NAMES[name] ?? name }}</th>
                <td class="read value">{{ value }}</td>
              </tr>
            </tbody>
          </table>
        </template>
        <p v-else class="pad odd">So far no record comes of it. Choose where a record begins.</p>
        <template v-if="looked.problems.length"
          ><h3 class="pad soft small">What looks wrong</h3>
          <table class="small">
            <tbody>
              <tr v-for="(one, k) in looked.problems.slice(0, 30)" :key="k">
                <td class="odd">{{ one.message }}</td>
                <td class="num soft">line {{ one.line }}</td>
              </tr>
            </tbody>
          </table></template
        >
      </section>
    </div>
  </StateOf>
</template>

<style scoped>
.columns {
  grid-template-columns: minmax(0, 1fr) 380px minmax(0, 0.9fr);
}
.raw {
  list-style: none;
  margin: 0;
  padding: 6px 0;
}
.raw li {
  display: grid;
  grid-template-columns: 48px minmax(0, 1fr);
  gap: 8px;
  padding: 0 12px 0 0;
  border-top: 1px solid transparent;
}
.raw .no {
  text-align: right;
}
.raw .begins {
  border-top-color: var(--ks-copper);
}
.raw .now {
  background: var(--ks-copper-wash);
}
.label {
  color: var(--ks-pine);
  font-weight: 600;
}
.wide {
  width: 100%;
  display: block;
  margin-top: 2px;
}
.labels {
  margin: 12px 0;
}
.labels td,
.labels th {
  padding-left: 4px;
  padding-right: 4px;
}
.pick {
  width: 112px;
  font-size: 12px;
  padding: 1px 2px;
}
.pick.none {
  color: var(--ks-soft);
}
.tag-name {
  white-space: nowrap;
  max-width: 120px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.sample {
  max-width: 90px;
}
.list {
  margin: 4px 0;
}
.first {
  padding-bottom: 4px;
}
th {
  width: 110px;
  white-space: normal;
}
.value {
  font-size: 14px;
  overflow-wrap: anywhere;
}
pre {
  margin: 6px 0;
}
@media (max-width: 1180px) {
  .columns {
    grid-template-columns: minmax(0, 1fr) 340px minmax(0, 0.8fr);
  }
}
</style>
