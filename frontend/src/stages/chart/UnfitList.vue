<script setup lang="ts">
// Values that do not fit their item since the codebook changed: each is put where it belongs, or cleared.
import { computed } from 'vue'
import { placeOf, type Evidence } from './evidence'
import { keyOf, nameOf, placesOf, type Place, type Value } from './layout'

const props = defineProps<{ evidence: Evidence; mayWrite: boolean }>()
const emit = defineEmits<{ close: [] }>()
const data = computed(() => props.evidence.data.value)
const unfit = computed(() => [...(data.value?.values.values() ?? [])].filter((one) => one.unfit))
/** Empty cells of the same study and item. */
const free = (value: Value) =>
  placesOf(
    value.study,
    (data.value?.items ?? []).filter((item) => item.id === value.item),
    data.value?.levels ?? [],
  ).filter((place) => !props.evidence.text(place))
const put = (value: Value, place: Place) =>
  props.evidence.write([
    { ...place, text: value.text, how: 'typed' },
    { ...placeOf(value), text: '', quote: '', page: '', how: 'typed' },
  ])
const clear = (value: Value) =>
  props.evidence.write([{ ...placeOf(value), text: '', quote: '', page: '', how: 'typed' }])
</script>

<template>
  <section class="pad filled-list">
    <div class="row">
      <h2>Values that do not fit the codebook any more</h2>
      <v-btn class="push" @click="emit('close')">Back to the table</v-btn>
    </div>
    <p v-if="!unfit.length" class="soft">All values fit.</p>
    <table v-else>
      <thead>
        <tr>
          <th>Cell</th>
          <th>Value</th>
          <th>Why</th>
          <th v-if="mayWrite">What becomes of value</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in unfit" :key="keyOf(one)">
          <td>{{ evidence.name(one) }}</td>
          <td>
            <b>{{ one.text }}</b>
          </td>
          <td>{{ one.unfit }}</td>
          <td v-if="mayWrite" class="row">
            <v-btn v-for="place in free(one).slice(0, 6)" :key="keyOf(place)" class="small" @click="put(one, place)"
              >Move to {{ nameOf(place, data?.items ?? [], data?.levels ?? []) }}</v-btn
            >
            <v-btn class="small" @click="clear(one)">Clear</v-btn>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.filled-list {
  overflow: auto;
  display: grid;
  gap: 12px;
  align-content: start;
}
td.row {
  flex-wrap: wrap;
}
</style>
