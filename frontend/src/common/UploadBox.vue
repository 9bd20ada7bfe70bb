<script setup lang="ts">
// Choosing or dropping files, with progress for each.
import { ref } from 'vue'
import { Refusal, upload } from '@/api/client'
import { useRefresh } from '@/common/review'

const props = defineProps<{ address: string; label: string; button: string; hint: string; refreshes: string[] }>()
const emit = defineEmits<{ done: [answer: unknown] }>()
const refresh = useRefresh()
const input = ref<HTMLInputElement | null>(null)
const over = ref(false)
const going = ref<{ name: string; share: number; said: string }[]>([])

async function send(files: FileList | null) {
  const chosen = Array.from(files ?? [])
  if (input.value) input.value.value = '' // so that the same file can be chosen again at once
  for (const file of chosen) {
    going.value.push({ name: file.name, share: 0, said: '' })
    const sending = going.value.at(-1)!
    try {
      emit('done', await upload(props.address, file, (share) => (sending.share = share)))
      going.value = going.value.filter((other) => other !== sending)
    } catch (error) {
      sending.said = error instanceof Refusal ? error.message : String(error)
    }
    await refresh(...props.refreshes, 'jobs')
  }
}
</script>

<template>
  <div
    class="box"
    :class="{ over }"
    @dragover.prevent.stop="over = true"
    @dragleave="over = false"
    @drop.prevent.stop="((over = false), send($event.dataTransfer?.files ?? null))"
  >
    <input ref="input" type="file" multiple class="unseen" :aria-label="label" @change="send(input?.files ?? null)" />
    <v-btn @click="input?.click()">{{ button }}</v-btn>
    <span class="soft small">{{ hint }}</span>
    <div v-for="(one, k) in going" :key="k" class="file small" role="status">
      <span v-if="one.said" class="bad" role="alert"
        >{{ one.said }} <button class="link" @click="going.splice(k, 1)">Close</button></span
      >
      <span v-else>{{ one.name }}: {{ Math.round(one.share * 100) }} % sent</span>
    </div>
  </div>
</template>

<style scoped>
.box {
  border: 1px dashed var(--ks-hair);
  border-radius: 3px;
  padding: 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.over {
  border-color: var(--ks-copper);
  background: var(--ks-copper-wash);
}
.file {
  flex-basis: 100%;
}
</style>
