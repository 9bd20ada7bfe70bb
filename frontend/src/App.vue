<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { attempt, close, type Message, messages } from '@/common/messages'
import GuideDialog from '@/frame/GuideDialog.vue'

const client = useQueryClient()
async function undo(message: Message) {
  close(message.id)
  if (message.undo && (await attempt(message.undo))) await client.invalidateQueries()
}
</script>

<template>
  <v-app>
    <router-view />
    <GuideDialog />
    <div class="said" role="status">
      <div v-for="message in messages" :key="message.id" class="message" :class="{ wrong: message.bad }">
        <span>{{ message.text }}</span>
        <button v-if="message.undo" @click="undo(message)">Undo</button>
        <button @click="close(message.id)">Close</button>
      </div>
    </div>
  </v-app>
</template>

<style scoped>
.said {
  position: fixed;
  left: 16px;
  bottom: 16px;
  z-index: 2400;
  display: grid;
  gap: 6px;
  justify-items: start;
  max-width: min(560px, calc(100vw - 32px));
}
.message {
  display: flex;
  gap: 14px;
  align-items: baseline;
  padding: 9px 14px;
  border-radius: 3px;
  background: var(--ks-ink);
  color: var(--ks-ground);
  box-shadow: 0 2px 8px rgb(0 0 0 / 25%);
}
.message.wrong {
  background: var(--ks-bad);
  color: var(--ks-ground);
}
.message button {
  font-weight: 600;
  text-decoration: underline;
  text-underline-offset: 3px;
  color: inherit;
}
</style>
