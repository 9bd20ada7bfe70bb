<script setup lang="ts">
// The codebook as a file: saved, read, or taken from another review.
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { GET, got, POST, Refusal, type Schemas } from '@/api/client'
import { complain } from '@/common/messages'
import { useReview } from '@/common/review'

defineProps<{ mayWrite: boolean }>()
const emit = defineEmits<{ merged: [book: Schemas['CodebookText']] }>()
const { review, path } = useReview()
const picker = ref<HTMLInputElement | null>(null)
const { data: reviews } = useQuery({ queryKey: ['reviews'], queryFn: () => got(GET('/api/reviews')) })
const others = computed(() => (reviews.value ?? []).filter((one) => one.id !== review.value))
async function merge(text: string) {
  try {
    emit('merged', await got(POST('/api/reviews/{review}/codebook/from-file', { params: path.value, body: { text } })))
  } catch (failure) {
    complain(failure)
  }
}
async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file && file.size > 2_000_000) complain(new Refusal('This file is larger than a codebook can be (2 MB).', 413))
  else if (file) await merge(await file.text())
  input.value = ''
}
async function copy(other: number) {
  try {
    const at = { params: { path: { review: other } }, parseAs: 'text' as const }
    await merge(await got(GET('/api/reviews/{review}/codebook.toml', at)))
  } catch (failure) {
    complain(failure)
  }
}
</script>

<template>
  <v-menu>
    <template #activator="{ props: on }"><v-btn v-bind="on">File</v-btn></template>
    <v-list aria-label="File" max-height="420">
      <v-list-item title="Save as a file (TOML)" :href="`/api/reviews/${review}/codebook.toml`" download />
      <template v-if="mayWrite">
        <v-list-item title="Read a file …" subtitle="adds what is not here yet" @click="picker?.click()" />
        <v-divider v-if="others.length" />
        <v-list-item
          v-for="other in others"
          :key="other.id"
          :title="`Take from “${other.title}”`"
          subtitle="adds what is not here yet"
          @click="copy(other.id)"
        />
      </template>
    </v-list>
  </v-menu>
  <input
    ref="picker"
    type="file"
    accept=".toml"
    class="unseen"
    aria-label="A codebook file"
    tabindex="-1"
    @change="read"
  />
</template>
