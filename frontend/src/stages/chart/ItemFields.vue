<script setup lang="ts">
// A data item: its kind with what goes with it, what it is asked for, and how to fill it.
import { computed } from 'vue'
import { plural } from '@/common/format'
import type { ItemDraft } from './book'
import { FACTOR_NAMES, FACTORS, type Factor } from './layout'

const props = defineProps<{
  item: ItemDraft
  concepts: string[]
  /** Factors of which the codebook names a level. */
  named: Factor[]
  used: number
  mayWrite: boolean
}>()
const emit = defineEmits<{ touched: [] }>()
const KINDS: { value: ItemDraft['kind']; title: string }[] = [
  { value: 'text', title: 'Text' },
  { value: 'number', title: 'Number' },
  { value: 'quantity', title: 'Quantity with its unit' },
  { value: 'date', title: 'Date' },
  { value: 'choice', title: 'One of some choices' },
  { value: 'choices', title: 'Several choices' },
  { value: 'yesno', title: 'Yes or no' },
  { value: 'counts', title: 'Events of a total' },
  { value: 'mean_sd', title: 'Mean with SD' },
  { value: 'median_range', title: 'Median with range' },
]
const BY_ARM = ['counts', 'mean_sd', 'median_range']
const SO: Record<ItemDraft['kind'], string> = {
  text: 'Any words.',
  number: '1250 or 1,250 or 12.5.',
  quantity: '30 mm; other units that measure the same are converted, and both are shown.',
  date: '2024-05-01, 2024-05 or 2024.',
  choice: 'One of the choices, by its first letters.',
  choices: 'Foam; Straw.',
  yesno: 'yes or no.',
  counts: '12 / 40 or 12 of 40.',
  mean_sd: '12.3 ± 4.5 (n 20).',
  median_range: '12 (8 to 20, n 30).',
}
const ranged = computed(() => props.item.kind === 'number' || props.item.kind === 'quantity')
function setKind(kind: ItemDraft['kind']) {
  const item = props.item
  if (BY_ARM.includes(kind) && !BY_ARM.includes(item.kind) && !item.per.length) item.per = ['arm']
  item.kind = kind
  emit('touched')
}
function turn(factor: Factor) {
  const item = props.item
  item.per = FACTORS.filter((one) => (one === factor ? !item.per.includes(one) : item.per.includes(one)))
  emit('touched')
}
const unnamed = computed(() => props.item.per.filter((one) => !props.named.includes(one)))
const concepts = computed(() => [{ value: '', title: 'none' }, ...props.concepts])
</script>

<!-- eslint-disable vue/no-mutating-props -- the draft is edited in place -->
<template>
  <div class="fields">
    <p v-if="used" class="small soft">
      {{ plural(used, 'value is', 'values are') }} charted for this item. A change that touches them is shown before it
      is saved.
    </p>
    <div class="two">
      <TextField v-model="item.name" label="Item" :readonly="!mayWrite" maxlength="120" />
      <ChoiceField
        :model-value="item.kind"
        :items="KINDS"
        label="Kind"
        :readonly="!mayWrite"
        @update:model-value="setKind($event!)"
      />
    </div>
    <p class="small soft">How it is typed: {{ SO[item.kind] }} NR for not reported, NA for not applicable.</p>
    <div v-if="ranged" class="three">
      <TextField
        v-if="item.kind === 'quantity'"
        v-model="item.unit"
        label="Unit"
        :readonly="!mayWrite"
        maxlength="40"
      />
      <TextField v-model="item.low" label="Allowed from" inputmode="decimal" :readonly="!mayWrite" />
      <TextField v-model="item.high" label="to" inputmode="decimal" :readonly="!mayWrite" />
    </div>
    <TextArea
      v-if="item.kind === 'choice' || item.kind === 'choices'"
      v-model="item.choices"
      label="Choices, one a line"
      rows="4"
      :readonly="!mayWrite"
    />
    <fieldset>
      <legend class="small soft">Asked once for a study, or for</legend>
      <div class="row">
        <TickBox
          v-for="factor in FACTORS"
          :key="factor"
          :model-value="item.per.includes(factor)"
          :label="`each ${FACTOR_NAMES[factor][0].toLowerCase()}`"
          :disabled="!mayWrite"
          @update:model-value="turn(factor)"
        />
      </div>
      <p v-for="one in unnamed" :key="one" class="small odd">
        No {{ FACTOR_NAMES[one][0].toLowerCase() }} is named yet: add those of all studies in the outline, or single
        ones to a study in the table. Until then there is no cell to fill.
      </p>
    </fieldset>
    <TextArea v-model="item.instructions" label="Instructions" rows="3" :readonly="!mayWrite" maxlength="4000" />
    <TextField v-model="item.examples" label="Examples" :readonly="!mayWrite" maxlength="4000" />
    <ChoiceField
      v-model="item.concept"
      :items="concepts"
      label="Belongs to the concept"
      :readonly="!mayWrite"
      @update:model-value="emit('touched')"
    />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px;
  gap: 12px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 140px));
  gap: 12px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
}
fieldset .row {
  gap: 20px;
  padding-top: 4px;
}
</style>
