<script setup lang="ts">
// The guide of the present screen: what one does here, and its keys.
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useKeys } from '@/common/keys'
import { EVERYWHERE, guideOpen, GUIDES } from '@/common/guide'

const route = useRoute()
const guide = computed(() => GUIDES[route.meta.title ?? ''])
useKeys({ '?': () => (guideOpen.value = true) })
</script>

<template>
  <v-dialog v-model="guideOpen" width="520" :aria-label="`Guide: ${route.meta.title}`">
    <v-card class="pad">
      <div class="row">
        <h2>{{ route.meta.title }}</h2>
        <v-btn class="push" @click="guideOpen = false">Close <kbd>Esc</kbd></v-btn>
      </div>
      <p v-for="one in guide?.what" :key="one" class="what">{{ one }}</p>
      <table>
        <tbody>
          <tr v-for="[key, what] in [...(guide?.keys ?? []), ...EVERYWHERE]" :key="key">
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

<style scoped>
.what {
  margin: 10px 0 0;
  max-width: 60ch;
}
table {
  margin-top: 12px;
}
td:first-child {
  width: 130px;
}
tr:last-child td {
  border-bottom: 0;
}
</style>
