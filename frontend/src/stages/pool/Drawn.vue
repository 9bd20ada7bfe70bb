<script setup lang="ts">
// A picture that the server draws, in the theme's colours, with its downloads.
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { file } from '@/api/client'

const props = defineProps<{
  address: (kind: string) => string
  plot: string
  title: string
  version: number | string
  query?: string
}>()
const { data, error } = useQuery({
  queryKey: ['analyses', 'drawn', computed(() => `${props.address(props.plot)} ${props.query} ${props.version}`)],
  placeholderData: keepPreviousData,
  retry: false,
  queryFn: async () => (await file(`${props.address(`${props.plot}.svg`)}?screen=true${props.query ?? ''}`)).text(),
})
const asFile = (kind: string) =>
  `${props.address(`${props.plot}.${kind}`)}${props.query ? `?${props.query.slice(1)}` : ''}`
</script>

<template>
  <figure>
    <figcaption class="row">
      <h3>{{ title }}</h3>
      <span v-if="data" class="small soft push"
        >Download
        <a
          v-for="kind in ['svg', 'png', 'pdf']"
          :key="kind"
          :href="asFile(kind)"
          :aria-label="`${title}, ${kind}`"
          download
          >{{ kind.toUpperCase() }}</a
        ></span
      >
    </figcaption>
    <!-- eslint-disable-next-line vue/no-v-html -- drawn by the server, every text in it escaped -->
    <div v-if="data" class="drawing" v-html="data" />
    <p v-else-if="error" class="small soft">{{ error.message }}</p>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption a {
  margin-left: 6px;
}
.drawing :deep(svg) {
  max-width: 100%;
  height: auto;
}
</style>
