<script setup lang="ts">
// Text with its terms underlined: a solid line speaks for, a wavy one against;
// the team's own words have a double and a dotted line.
// The labels of a structured abstract begin a line of their own.
import { computed } from 'vue'

interface Mark {
  begin: number
  end: number
  supports: boolean
  own?: boolean
}
const props = withDefaults(defineProps<{ text: string; marks: Mark[]; parts?: { begin: number; end: number }[] }>(), {
  parts: () => [],
})

interface Piece {
  text: string
  mark: string
  label: boolean
}
const name = (mark: Mark) => (mark.supports ? 'for' : 'against') + (mark.own ? ' own' : '')
const pieces = computed(() => {
  const points = Array.from(props.text) // the server counts code points, JavaScript half of some letters
  const cuts = new Set([0, points.length])
  for (const part of [...props.marks, ...props.parts]) cuts.add(part.begin).add(part.end)
  const ordered = [...cuts].filter((at) => at <= points.length).sort((a, b) => a - b)
  const out: Piece[] = []
  for (let k = 1; k < ordered.length; k++) {
    const [begin, end] = [ordered[k - 1]!, ordered[k]!]
    const mark = props.marks.find((mark) => mark.begin <= begin && end <= mark.end)
    out.push({
      text: points.slice(begin, end).join(''),
      mark: mark ? name(mark) : '',
      label: props.parts.some((part) => part.begin <= begin && end <= part.end),
    })
  }
  return out
})
const begins = (k: number) => pieces.value[k]!.label && k > 0 && !pieces.value[k - 1]!.label
</script>

<template>
  <template v-for="(piece, k) in pieces" :key="k"
    ><br v-if="begins(k)" /><mark v-if="piece.mark" :class="[piece.mark, { label: piece.label }]">{{ piece.text }}</mark
    ><b v-else-if="piece.label" class="label">{{ piece.text }}</b
    ><template v-else>{{ piece.text }}</template></template
  >
</template>

<style scoped>
.label {
  font-family: var(--ks-work);
  font-size: 0.82em;
  font-weight: 650;
  letter-spacing: 0.02em;
  color: var(--ks-soft);
}
</style>
