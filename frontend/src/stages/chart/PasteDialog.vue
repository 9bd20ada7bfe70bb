<script setup lang="ts">
// A block that was pasted and does not fit as a whole: what does not, before anything is written.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { plural } from '@/common/format'
import type { Cell, Evidence } from './evidence'
import { keyOf, type Place } from './layout'

const props = defineProps<{
  cells: Cell[]
  unfit: Schemas['NotTaken'][]
  beyond: number
  evidence: Evidence
}>()
const emit = defineEmits<{ close: [] }>()
const wrong = computed(() => new Map(props.unfit.map((one) => [keyOf(one as Place), one.message])))
const fits = computed(() => props.cells.filter((cell) => !wrong.value.has(keyOf(cell))))
const rest = computed(() => props.cells.filter((cell) => wrong.value.has(keyOf(cell))))
function paste() {
  void props.evidence.write(fits.value)
  emit('close')
}
</script>

<template>
  <v-dialog :model-value="true" max-width="640" aria-labelledby="paste-title" @update:model-value="emit('close')">
    <div class="sheet pad sheet-over">
      <h2 id="paste-title">{{ fits.length }} of {{ plural(cells.length + beyond, 'pasted value') }} can be taken</h2>
      <p v-if="beyond" class="small">
        {{ plural(beyond, 'value lies', 'values lie') }} beyond the table, or where nothing is asked, and will not be
        pasted.
      </p>
      <table v-if="rest.length" class="small">
        <thead>
          <tr>
            <th>Cell</th>
            <th>Pasted</th>
            <th>Why it does not fit</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in rest.slice(0, 100)" :key="keyOf(one)">
            <td>{{ evidence.name(one) }}</td>
            <td>{{ one.text }}</td>
            <td>{{ wrong.get(keyOf(one)) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="rest.length > 100" class="small soft">and {{ rest.length - 100 }} more</p>
      <div class="row">
        <v-btn class="main" :disabled="!fits.length" autofocus @click="paste">Paste the {{ fits.length }}</v-btn>
        <v-btn @click="emit('close')">Paste nothing</v-btn>
      </div>
    </div>
  </v-dialog>
</template>
