<script setup lang="ts">
// Text with its terms underlined: a solid line speaks for, a wavy one against.
import { computed } from 'vue'

const props = defineProps<{ text: string; marks: { begin: number; end: number; supports: boolean }[] }>()

const pieces = computed(() => {
  const out: { text: string; mark: '' | 'for' | 'against' }[] = []
  const points = Array.from(props.text) // the server counts code points, JavaScript half of some letters
  let at = 0
  for (const mark of props.marks) {
    out.push({ text: points.slice(at, mark.begin).join(''), mark: '' })
    out.push({ text: points.slice(mark.begin, mark.end).join(''), mark: mark.supports ? 'for' : 'against' })
    at = mark.end
  }
  out.push({ text: points.slice(at).join(''), mark: '' })
  return out.filter((piece) => piece.text)
})
</script>

<template>
  <template v-for="(piece, k) in pieces" :key="k"
    ><mark v-if="piece.mark" :class="piece.mark">{{ piece.text }}</mark
    ><template v-else>{{ piece.text }}</template></template
  >
</template>
