<script setup lang="ts">
// What the hits divide into: each value with its count, to limit the query to it or to leave it out.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { count } from '@/common/format'

const by = defineModel<string>({ required: true })
const props = defineProps<{ breakdown: Schemas['QueryTrial']['breakdown']; mayWrite: boolean }>()
const emit = defineEmits<{ limit: [term: string, leftOut?: boolean] }>()
const BY = [
  ['year', 'Year'],
  ['type', 'Type'],
  ['language', 'Language'],
  ['country', 'Country'],
  ['journal', 'Journal'],
  ['descriptor', 'Descriptor'],
].map(([value, title]) => ({ value: value!, title: title! }))
const all = computed(() => props.breakdown[by.value] ?? [])
const divided = computed(() => all.value.filter((one) => one.value))
const unnamed = computed(() => all.value.find((one) => !one.value)?.count ?? 0)
const longest = computed(() => Math.max(1, ...divided.value.map((one) => one.count)))
</script>

<template>
  <div>
    <div class="row below">
      <h2>The hits by</h2>
      <ChoiceField v-model="by" :items="BY" aria-label="Divide the hits by" class="by" />
    </div>
    <table class="small">
      <tbody>
        <tr v-for="one in divided" :key="one.value">
          <td class="clip value" :title="one.value">{{ one.value }}</td>
          <td class="gauge">
            <span class="bar" :style="{ width: `${Math.max(2, (60 * one.count) / longest)}px` }" />
          </td>
          <td class="num">{{ count(one.count) }}</td>
          <td v-if="mayWrite" class="num nowrap">
            <button class="link" :aria-label="`only ${one.value}`" @click="emit('limit', one.term)">only</button>
            <button class="link" :aria-label="`not ${one.value}`" @click="emit('limit', one.term, true)">not</button>
          </td>
        </tr>
        <tr v-if="unnamed">
          <td class="soft">none given</td>
          <td />
          <td class="num">{{ count(unnamed) }}</td>
          <td />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.below {
  margin-top: 20px;
}
.by {
  max-width: 150px;
}
.value {
  max-width: 120px;
}
.gauge {
  width: 70px;
  vertical-align: middle;
  padding-inline: 4px;
}
.nowrap {
  white-space: nowrap;
}
</style>
