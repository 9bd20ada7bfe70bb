<script setup lang="ts">
// Every field, button and table in every state, on one page: for looking at them, in both themes.
import { ref } from 'vue'

const text = ref('Hive and Climate Letters')
const long = ref(
  'Colonies were randomly allocated to an insulating wrap or to no treatment.\nSurvival was noted in spring.',
)
const kind = ref('database')
const yes = ref(true)
const kinds = ['database', 'register', 'website']
const several = ref(['database'])
const several_of = kinds.map((one) => ({ value: one, title: one }))
</script>

<template>
  <main class="pane pad states">
    <h1 class="read">Fields, buttons, tables</h1>
    <section aria-label="Fields">
      <TextField v-model="text" label="Filled" />
      <TextField label="Empty" placeholder="any" />
      <TextField v-model="text" label="With a hint" hint="As the source calls itself" />
      <TextField v-model="text" label="Wrong" problem="There is no such source. Choose one from the log." />
      <TextField v-model="text" label="To be read only" readonly />
      <TextField v-model="text" label="Not to be used" disabled />
      <TextField v-model="text" label="To be emptied" clearable />
      <TextField label="A date" type="date" />
      <TextField label="A label that is so long that it needs two lines in a column as narrow as this one is" />
      <ChoiceField v-model="kind" :items="kinds" label="A choice" />
      <ChoiceField v-model="kind" :items="kinds" label="Not to be chosen" disabled />
      <TickBox v-model="yes" label="Yes or no" />
      <TickList v-model="several" label="Several of some" :items="several_of" />
      <TextArea v-model="long" label="Several lines" />
      <TextArea v-model="long" label="For reading" class="read" />
      <TextArea v-model="long" label="As code" class="code" />
    </section>
    <section aria-label="A bar" class="bar-of">
      <TextField label="Filter" bare clearable />
      <ChoiceField v-model="kind" :items="kinds" aria-label="Kind" />
      <v-btn>Second</v-btn><v-btn disabled>Not now</v-btn><v-btn class="main">Main action <kbd>Enter</kbd></v-btn>
      <button class="link">A link</button>
    </section>
    <table>
      <thead>
        <tr>
          <th>Source</th>
          <th>Kind</th>
          <th class="num">Announced</th>
        </tr>
      </thead>
      <tbody>
        <tr class="on">
          <td>Agrarica</td>
          <td>
            <select class="box" aria-label="Kind of Agrarica">
              <option>database</option>
            </select>
          </td>
          <td class="num"><input class="box" value="424" aria-label="Announced for Agrarica" /></td>
        </tr>
        <tr>
          <td>Vitalis Index</td>
          <td>register</td>
          <td class="num">391</td>
        </tr>
      </tbody>
    </table>
  </main>
</template>

<style scoped>
.states {
  display: grid;
  gap: 20px;
  align-content: start;
  height: 100%;
}
section {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px 16px;
}
.bar-of {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
