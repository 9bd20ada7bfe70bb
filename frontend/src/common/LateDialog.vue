<script setup lang="ts">
// What somebody else made of the same thing, beside one's own words.
import { computed } from 'vue'
import { differ } from './differ'
import { late } from './late'

const open = computed({ get: () => late.asked !== null, set: (one) => !one && (late.asked = null) })
function settle(which: 'mine' | 'theirs') {
  const asked = late.asked
  late.asked = null
  void asked?.[which]()
}
</script>

<template>
  <v-dialog v-model="open" width="720" persistent>
    <section v-if="late.asked" class="pane sheet pad fields" role="alertdialog" aria-labelledby="late-title">
      <h2 id="late-title">Changed meanwhile</h2>
      <p>{{ late.asked.message }}</p>
      <div class="held">
        <table class="small">
          <thead>
            <tr>
              <th>What</th>
              <th>Theirs</th>
              <th>Yours</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in late.asked.both" :key="one.what">
              <th scope="row">{{ one.what }}</th>
              <td v-for="(side, k) in differ(one.theirs, one.yours)" :key="k">
                <template v-for="(piece, n) in side" :key="n"
                  ><u v-if="piece.differs" class="differs">{{ piece.text }}</u
                  ><template v-else>{{ piece.text }}</template></template
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="row">
        <v-btn class="main" autofocus @click="settle('theirs')">Let theirs stand</v-btn
        ><v-btn @click="settle('mine')">Write mine</v-btn
        ><v-btn class="push" @click="open = false">Look again first</v-btn>
      </div>
    </section>
  </v-dialog>
</template>

<style scoped>
.held {
  max-height: 50vh;
  overflow: auto;
}
td,
tbody th {
  vertical-align: top;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  text-align: left;
}
tbody th {
  font-weight: 600;
  width: 22%;
}
td {
  width: 39%;
}
</style>
