<script setup lang="ts">
// Values that do not fit their item since the codebook changed: each is put where it belongs, or cleared.
import { computed } from 'vue'
import { placeOf, type Evidence } from './evidence'
import { keyOf, nameOf, placesOf, type Place, type Value } from './layout'

const props = defineProps<{ evidence: Evidence; mayWrite: boolean }>()
const emit = defineEmits<{ close: [] }>()
const data = computed(() => props.evidence.data.value)
const unfit = computed(() => [...(data.value?.values.values() ?? [])].filter((it) => it.unfit))
/** Empty cells of the same study and item. */
const free = (it: Value) =>
  placesOf(
    it.study,
    (data.value?.items ?? []).filter((item) => item.id === it.item),
    data.value?.levels ?? [],
  ).filter((place) => !props.evidence.text(place))
const put = (it: Value, place: Place) =>
  props.evidence.write([
    { ...place, text: it.text, how: 'typed' },
    { ...placeOf(it), text: '', quote: '', page: '', how: 'typed' },
  ])
const clear = (it: Value) => props.evidence.write([{ ...placeOf(it), text: '', quote: '', page: '', how: 'typed' }])
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
          <th v-if="mayWrite">What becomes of it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="it in unfit" :key="keyOf(it)">
          <td>{{ evidence.name(it) }}</td>
          <td>
            <b>{{ it.text }}</b>
          </td>
          <td>{{ it.unfit }}</td>
          <td v-if="mayWrite" class="row">
            <v-btn v-for="place in free(it).slice(0, 6)" :key="keyOf(place)" class="small" @click="put(it, place)"
              >Move to {{ nameOf(place, data?.items ?? [], data?.levels ?? []) }}</v-btn
            >
            <v-btn class="small" @click="clear(it)">Clear</v-btn>
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
