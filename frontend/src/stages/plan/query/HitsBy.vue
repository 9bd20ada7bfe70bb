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
const divided = computed(() => all.value.filter((it) => it.value))
const unnamed = computed(() => all.value.find((it) => !it.value)?.count ?? 0)
const longest = computed(() => Math.max(1, ...divided.value.map((it) => it.count)))
</script>

<template>
  <div>
    <div class="row below">
      <h2>The hits by</h2>
      <ChoiceField v-model="by" :items="BY" aria-label="Divide the hits by" class="by" />
    </div>
    <table class="small">
      <tbody>
        <tr v-for="it in divided" :key="it.value">
          <td class="clip value" :title="it.value">{{ it.value }}</td>
          <td class="gauge">
            <span class="bar" :style="{ width: `${Math.max(2, (60 * it.count) / longest)}px` }" />
          </td>
          <td class="num">{{ count(it.count) }}</td>
          <td v-if="mayWrite" class="num nowrap">
            <button class="link" :aria-label="`only ${it.value}`" @click="emit('limit', it.term)">only</button>
            <button class="link" :aria-label="`not ${it.value}`" @click="emit('limit', it.term, true)">not</button>
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
