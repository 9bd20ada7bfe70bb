// A list beside a sheet: which of its entries is chosen, by the address, and the way to the others.
import { computed, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useLeaving } from './leaving'

/** `name`: what the address calls the chosen one; `key`: its name there. Without one, the first is chosen. */
export function useChosen<T>(entries: Ref<T[] | undefined>, name: string, key: (one: T) => string) {
  const route = useRoute()
  const router = useRouter()
  const leaving = useLeaving()
  const set = async (wanted: Record<string, string | undefined>) =>
    leaving() || router.replace({ query: { ...route.query, ...wanted } })
  const at = computed(() => Math.max(0, entries.value?.findIndex((one) => key(one) === route.query[name]) ?? -1))
  const one = computed(() => entries.value?.[at.value])
  /** The entry after the chosen one, else the one before it. */
  const beside = () => entries.value?.[at.value + 1] ?? entries.value?.[at.value - 1]
  const choose = (entry: T | undefined) => (entry === undefined ? Promise.resolve(false) : set({ [name]: key(entry) }))
  const move = (by: number) =>
    choose(entries.value?.[Math.min((entries.value?.length ?? 1) - 1, Math.max(0, at.value + by))])
  /** A part of the list, as a long list asks for it. */
  const load = (offset: number, limit: number) =>
    Promise.resolve({
      total: entries.value?.length ?? 0,
      rows: (entries.value ?? []).slice(offset, offset + limit),
    })
  return { set, at, one, beside, choose, move, load }
}
