<script setup lang="ts">
// What a change of the codebook does to values that are charted, before it is saved.
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { plural } from '@/common/format'

const { told } = defineProps<{ told: Schemas['CodebookPreview'] }>()
const emit = defineEmits<{ close: []; save: [] }>()

const save = computed(() => {
  if (told.consequences.some((one) => one.unfit.length)) return 'Save, and mark what does not fit'
  return told.consequences.some((one) => one.reworded) ? 'Save, and carry them over' : 'Save'
})
</script>

<template>
  <v-dialog
    :model-value="true"
    max-width="720"
    aria-labelledby="consequences-title"
    @update:model-value="emit('close')"
  >
    <div class="sheet pad sheet-over">
      <h2 id="consequences-title">This touches values that are charted</h2>
      <ul class="small">
        <li v-for="change in told.changes" :key="change">{{ change }}</li>
      </ul>
      <section v-for="consequence in told.consequences" :key="consequence.name">
        <h3>{{ consequence.name }}</h3>
        <p class="small">
          <template v-if="consequence.kept"
            >{{ plural(consequence.kept, 'value stays', 'values stay') }} as it is.
          </template>
          <template v-if="consequence.reworded"
            >{{ plural(consequence.reworded, 'value is', 'values are') }} carried over in the new form.
          </template>
          <template v-if="consequence.hidden"
            >{{ plural(consequence.hidden, 'value goes', 'values go') }} out of sight, and come back with it.
          </template>
          <template v-if="consequence.unfit.length"
            ><b class="odd">{{ plural(consequence.unfit.length, 'value does', 'values do') }} not fit</b>: each stays,
            marked, until somebody says what becomes of it.</template
          >
        </p>
        <table v-if="consequence.unfit.length" class="small">
          <tbody>
            <tr v-for="(one, k) in consequence.unfit.slice(0, 50)" :key="k">
              <td>{{ one.label }}</td>
              <td>{{ one.text }}</td>
              <td class="soft">{{ one.why }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="consequence.unfit.length > 50" class="small soft">and {{ consequence.unfit.length - 50 }} more</p>
      </section>
      <div class="row">
        <v-btn class="main" autofocus @click="emit('save')">{{ save }}</v-btn>
        <v-btn @click="emit('close')">Go on editing</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
ul {
  margin: 0;
  padding-left: 18px;
}
</style>
