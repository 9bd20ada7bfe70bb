<script setup lang="ts">
// What an analysis pools and how.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { MEASURES, ORDERS, TAU2, type Analysis } from './words'

const props = defineProps<{
  items: Schemas['DataItem'][]
  levels: Schemas['StudyLevel'][]
  values: string[]
  mayWrite: boolean
}>()
const said = defineModel<Required<Analysis>>({ required: true })
const usable = computed(() =>
  props.items
    .filter(
      (item) =>
        MEASURES[item.kind] &&
        (['counts', 'mean_sd'].includes(item.kind) ? item.per?.includes('arm') : !item.per?.includes('arm')),
    )
    .map((item) => ({ value: item.id!, title: item.name })),
)
const item = computed(() => props.items.find((item) => item.id === said.value.item))
const measures = computed(() => MEASURES[item.value?.kind ?? ''] ?? [])
const general = computed(() => said.value.measure === 'GEN')
const network = computed(() => said.value.kind === 'network')
const offered = computed(() => measures.value.filter((one) => !network.value || one.value !== 'SMD'))
/** A network compares all arms, the first of them leads; two sides begin with the first two. */
function turn(kind: 'pair' | 'network') {
  const ids = arms.value.map((arm) => arm.value)
  const [one, other] = arms.value
  const named = item.value && said.value.name.startsWith(`${item.value.name}: `)
  const name = kind === 'network' ? `${ids.length} treatments` : `${one?.title} against ${other?.title}`
  said.value = {
    ...said.value,
    kind,
    name: named ? `${item.value.name}: ${name}` : said.value.name, // a name of one's own stays
    arms: kind === 'network' ? [...new Set([...said.value.against, ...said.value.arms, ...ids])] : ids.slice(0, 1),
    against: kind === 'network' ? [] : ids.slice(1, 2),
    tau2: kind === 'network' && said.value.tau2 !== 'DL' ? 'REML' : said.value.tau2,
    measure: kind === 'network' && said.value.measure === 'SMD' ? 'MD' : said.value.measure,
    hk: kind === 'pair' && said.value.hk,
  }
}
const lead = (arm: number) => (said.value.arms = [arm, ...said.value.arms.filter((one) => one !== arm)])
const moderators = computed(() => [
  { value: 0, title: 'year' },
  ...props.items
    .filter((item) => ['number', 'quantity'].includes(item.kind) && !item.per?.length)
    .map((item) => ({ value: item.id!, title: item.name })),
])
const named = (factor: string) =>
  props.levels
    .filter((level) => level.factor === factor && level.study === null)
    .map((level) => ({ value: level.id, title: level.name }))
const arms = computed(() => named('arm') as { value: number; title: string }[])
function choose(number: number) {
  const picked = props.items.find((one) => one.id === number)
  if (!picked) return
  const other = picked.kind !== item.value?.kind
  const first = (factor: 'outcome' | 'time') =>
    picked.per?.includes(factor) ? (named(factor)[0]?.value ?? null) : null
  said.value = {
    ...said.value,
    item: number,
    outcome: first('outcome'),
    time: first('time'),
    measure: other ? (MEASURES[picked.kind]?.[0]?.value ?? 'RR') : said.value.measure,
    weights: other ? 'iv' : said.value.weights,
  }
}
const groups = computed(() => [
  { value: null as number | null, title: 'no groups' },
  { value: 0, title: 'appraisal as a whole' },
  ...props.items
    .filter((item) => ['choice', 'yesno', 'text', 'number', 'date'].includes(item.kind) && !item.per?.length)
    .map((item) => ({ value: item.id as number | null, title: item.name })),
])
/** Items that are asked once for a study. */
const once = computed(() =>
  props.items.filter((item) => !item.per?.length).map((item) => ({ value: item.id!, title: item.name })),
)
const COLUMNS = [
  { value: 'figures' as const, title: 'figures of each side' },
  { value: 'effect' as const, title: 'effects in numbers' },
  { value: 'weight' as const, title: 'weights' },
]
const shows = computed({
  get: () => COLUMNS.map((one) => one.value).filter((one) => !said.value.hidden.includes(one)),
  set: (some) => (said.value.hidden = COLUMNS.map((one) => one.value).filter((one) => !some.includes(one))),
})
const choosers = computed(() => [{ value: null as number | null, title: 'all studies' }, ...groups.value.slice(1)])
const SIDES = [
  ['arms', 'One side', 'on one side'],
  ['against', 'Against', 'on the other'],
] as const
const WEIGHTS = computed(() => [
  { value: 'iv' as const, title: 'inverse variance' },
  ...(item.value?.kind === 'counts' ? [{ value: 'mh' as const, title: 'Mantel-Haenszel' }] : []),
  ...(said.value.measure === 'OR' ? [{ value: 'peto' as const, title: 'Peto' }] : []),
])
</script>

<template>
  <div class="fields">
    <TextField v-model="said.name" label="Name" maxlength="200" :readonly="!mayWrite" />
    <ChoiceField
      :model-value="said.item"
      :items="usable"
      :label="general ? 'Estimate' : 'Item'"
      :disabled="!mayWrite"
      @update:model-value="choose($event as number)"
    />
    <ChoiceField
      v-if="!general"
      :model-value="said.kind"
      :items="[
        { value: 'pair' as const, title: 'two sides' },
        { value: 'network' as const, title: 'several treatments at once' },
      ]"
      label="Compares"
      :disabled="!mayWrite"
      @update:model-value="turn($event as 'pair' | 'network')"
    />
    <ChoiceField v-model="said.measure" :items="offered" label="Measure" :disabled="!mayWrite" />
    <ChoiceField
      v-if="general"
      v-model="said.se_item"
      :items="usable"
      label="Its standard error"
      :disabled="!mayWrite"
    />
    <ChoiceField
      v-if="item?.per?.includes('outcome')"
      v-model="said.outcome"
      :items="named('outcome')"
      label="Outcome"
      :disabled="!mayWrite"
    />
    <ChoiceField
      v-if="item?.per?.includes('time')"
      v-model="said.time"
      :items="named('time')"
      label="Time point"
      :disabled="!mayWrite"
    />
    <template v-if="network">
      <TickList v-model="said.arms" label="Treatments" :items="arms" :disabled="!mayWrite" />
      <ChoiceField
        :model-value="said.arms[0] ?? null"
        :items="arms.filter((arm) => said.arms.includes(arm.value))"
        label="All against"
        :disabled="!mayWrite"
        @update:model-value="lead($event as number)"
      />
      <ChoiceField
        v-model="said.better"
        :items="[
          { value: 'larger' as const, title: 'larger is better' },
          { value: 'smaller' as const, title: 'smaller is better' },
        ]"
        label="For the ranking"
        :disabled="!mayWrite"
      />
    </template>
    <div v-else-if="!general" class="two">
      <TickList
        v-for="[side, legend, words] in SIDES"
        :key="side"
        v-model="said[side]"
        :label="legend"
        :items="arms.map((arm) => ({ ...arm, label: `${arm.title} ${words}` }))"
        :disabled="!mayWrite"
      />
    </div>
    <TickBox
      v-if="!network && !general && said.arms.length > 1"
      v-model="said.split"
      label="Each arm on its own, the other side divided"
      :disabled="!mayWrite"
    />
    <ChoiceField
      :model-value="said.only"
      :items="choosers"
      label="Only studies by"
      :disabled="!mayWrite"
      @update:model-value="said = { ...said, only: $event as number | null, among: [] }"
    />
    <TickList
      v-if="said.only !== null"
      v-model="said.among"
      label="with"
      :items="[...new Set([...values, ...said.among])].map((value) => ({ value, title: value }))"
      :disabled="!mayWrite"
    />
    <ChoiceField
      v-model="said.model"
      :items="[
        { value: 'random' as const, title: 'random effects' },
        { value: 'fixed' as const, title: 'fixed effects' },
      ]"
      label="Model"
      :disabled="!mayWrite"
    />
    <template v-if="said.model === 'random'">
      <ChoiceField
        v-model="said.tau2"
        :items="TAU2.filter((one) => !network || ['REML', 'DL'].includes(one.value))"
        label="Variance between studies (τ²)"
        :disabled="!mayWrite"
      />
      <TickBox v-if="!network" v-model="said.hk" label="Hartung and Knapp’s interval" :disabled="!mayWrite" />
    </template>
    <ChoiceField v-else-if="!network" v-model="said.weights" :items="WEIGHTS" label="Weights" :disabled="!mayWrite" />
    <template v-if="!network">
      <ChoiceField v-model="said.group" :items="groups" label="In groups by" :disabled="!mayWrite" />
      <TickList v-model="said.moderators" label="Effects regressed on" :items="moderators" :disabled="!mayWrite" />
      <ChoiceField v-model="said.order" :items="ORDERS" label="Studies in the order of" :disabled="!mayWrite" />
      <TickList v-model="said.beside" label="Beside their names" :items="once" :disabled="!mayWrite" />
      <TickList v-model="shows" label="In the picture" :items="COLUMNS" :disabled="!mayWrite" />
      <TextField v-model="said.left" label="To the left of no effect" placeholder="favours …" :readonly="!mayWrite" />
      <TextField v-model="said.right" label="To the right of it" placeholder="favours …" :readonly="!mayWrite" />
    </template>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
