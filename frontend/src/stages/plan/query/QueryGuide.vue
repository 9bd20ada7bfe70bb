<script setup lang="ts">
// A short guide to what can be written in a query.
const open = defineModel<boolean>({ required: true })
const ROWS = [
  ['honeybee', 'the word, whatever its case and accents, in title, abstract or descriptors'],
  ['"colony losses"', 'these words, one after the other'],
  ['wrap*   wom?n', '* stands for any letters, ? for exactly one'],
  ['a AND b   a OR b   a NOT b', 'both, either, the first without the second; AND and NOT are read before OR'],
  ['wax NEAR/3 moth*', 'at most three words between, in any order'],
  ['title:wrap*   title,abstract:(a OR b)', 'only there; also keyword: (words of descriptors), author:, journal:'],
  ['descriptor:Bees   descriptor:"Bees/physiology"', 'a heading, a heading with its qualifier'],
  ['year:1980-2026   language:eng   type:article   doi:"10.5555/a.1"', 'by year, language, type of publication, DOI'],
  ['[Honeybees] (bee* OR hive*)', 'a group with a name: a concept'],
  ['#1 AND #2', 'in the view of lines, what earlier lines say'],
]
const KEYS = [
  ['C', 'Concepts'],
  ['L', 'Lines'],
  ['T', 'Text'],
  ['?', 'This guide'],
]
</script>

<template>
  <v-dialog v-model="open" max-width="760" aria-label="Guide to queries">
    <v-card class="pad">
      <h2>What can be written</h2>
      <table>
        <tbody>
          <tr v-for="[said, meaning] in ROWS" :key="said">
            <td class="mono said">{{ said }}</td>
            <td>{{ meaning }}</td>
          </tr>
        </tbody>
      </table>
      <p class="keys">
        <span v-for="[key, name] in KEYS" :key="key"
          ><kbd>{{ key }}</kbd> {{ name }}
        </span>
      </p>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.said {
  width: 340px;
}
.keys {
  margin-top: 12px;
  display: flex;
  gap: 16px;
}
h2 {
  margin-bottom: 8px;
}
</style>
