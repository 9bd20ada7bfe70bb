<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { attempt, messages } from '@/common/messages'

const shown = ref(false)
const client = useQueryClient()
watch(
  () => messages.count,
  () => (shown.value = true),
)

async function undo() {
  const act = messages.current?.undo
  shown.value = false
  if (act && (await attempt(act))) await client.invalidateQueries()
}
</script>

<template>
  <v-app>
    <router-view />
    <!-- each message has its own time, also one that takes another's place -->
    <v-snackbar
      :key="messages.count"
      v-model="shown"
      :timeout="messages.current?.bad || messages.current?.undo ? 12000 : 8000"
      location="bottom left"
      :color="messages.current?.bad ? 'error' : undefined"
      role="status"
    >
      {{ messages.current?.text }}
      <template #actions>
        <v-btn v-if="messages.current?.undo" variant="text" @click="undo">Undo</v-btn>
        <v-btn variant="text" @click="shown = false">Close</v-btn>
      </template>
    </v-snackbar>
  </v-app>
</template>
