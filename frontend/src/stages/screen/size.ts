// The size of the text that is read all day: each person's own, kept in the browser.
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'

const STEP = 1.1
const step = useLocalStorage('ks-text-size', 0)

export function useTextSize() {
  return {
    scale: computed(() => Math.round(100 * STEP ** step.value) / 100),
    larger: () => (step.value = Math.min(6, step.value + 1)),
    smaller: () => (step.value = Math.max(-2, step.value - 1)),
  }
}
