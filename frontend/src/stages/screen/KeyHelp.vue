<script setup lang="ts">
const open = defineModel<boolean>({ required: true })
const KEYS = [
  ['Enter', 'Include'],
  ['1 – 9', 'Exclude for that criterion'],
  ['0', 'Unsure: seen, still to be settled'],
  ['Backspace', 'Take your last decision back'],
  ['↑ ↓', 'Record before and after in the queue'],
  ['N', 'Note; Enter or Esc leaves it'],
  ['F', 'Filter'],
  ['?', 'These keys'],
]
</script>

<template>
  <v-dialog v-model="open" width="420" aria-label="Keys of the desk">
    <v-card class="pad">
      <div class="row">
        <h2>Keys of the desk</h2>
        <v-btn class="push" @click="open = false">Close</v-btn>
      </div>
      <table>
        <tbody>
          <tr v-for="[key, what] in KEYS" :key="key">
            <td>
              <kbd>{{ key }}</kbd>
            </td>
            <td>{{ what }}</td>
          </tr>
        </tbody>
      </table>
    </v-card>
  </v-dialog>
</template>
