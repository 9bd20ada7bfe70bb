// What a connected catalogue counts for each branch of a query, arriving one by one.
import { computed, onBeforeUnmount, reactive, ref, watch, type Ref } from 'vue'
import { got, POST, Refusal, type Schemas } from '@/api/client'

type Branch = Schemas['QueryBranch']

export interface There {
  hits?: number
  seeds?: number[]
  without?: number
  withoutSeeds?: number
  asked?: string
  understood?: Schemas['Understood'][]
  problem?: string
}
export interface Elsewhere {
  of: (branch: Branch) => There | undefined
}
const AT_ONCE = 2
export const MOST_BRANCHES = 150

export function useCatalogueCounts(
  review: Ref<number>,
  catalogue: Ref<number | null>,
  text: Ref<string>,
  branches: Ref<Branch[]>,
) {
  const kept = reactive(new Map<string, There>())
  const waiting = ref(0)
  const total = ref(0)
  const stopped = ref(false)
  let turn = 0

  const keyOf = (branch: Branch) => `${catalogue.value}\u0000${branch.query}`
  const withoutKey = (one: Branch) => `${catalogue.value}\u0000${text.value}\u0000${one.path.join('.')}`
  const ask = (body: { text: string; without?: number[] }) =>
    got(
      POST('/api/reviews/{review}/catalogues/{number}/count', {
        params: { path: { review: review.value, number: catalogue.value ?? 0 } },
        body: { seeds: true, ...body },
      }),
    )

  /** Ask for what is not known yet: the whole first, then every branch, then the whole without each. */
  async function start() {
    const mine = ++turn
    stopped.value = false
    const wanted = catalogue.value === null ? [] : branches.value.slice(0, MOST_BRANCHES)
    const jobs: (() => Promise<void>)[] = []
    for (const each of wanted) if (kept.get(keyOf(each))?.hits === undefined) jobs.push(() => countOne(each))
    for (const each of wanted)
      if (each.path.length && each.without_hits !== null && kept.get(withoutKey(each))?.without === undefined)
        jobs.push(() => countWithout(each))
    waiting.value = total.value = jobs.length
    async function work() {
      while (jobs.length && mine === turn) {
        await jobs.shift()!()
        if (mine === turn) waiting.value--
      }
    }
    await Promise.all(Array.from({ length: AT_ONCE }, work))
  }
  async function countOne(each: Branch) {
    const key = keyOf(each)
    try {
      const { hits, seeds, asked, understood } = await ask({ text: each.query })
      kept.set(key, { hits, seeds, asked, understood })
    } catch (error) {
      kept.set(key, { problem: error instanceof Refusal ? error.message : 'The catalogue could not be asked.' })
    }
  }
  async function countWithout(each: Branch) {
    const key = withoutKey(each)
    try {
      const { hits, seeds } = await ask({ text: text.value, without: each.path })
      kept.set(key, { without: hits, withoutSeeds: seeds.length })
    } catch {
      kept.set(key, {}) // its own count says what is wrong
    }
  }
  function stop() {
    turn++
    stopped.value = true
    waiting.value = 0
  }
  watch([catalogue, branches], () => void start(), { immediate: true })
  onBeforeUnmount(() => turn++)

  const elsewhere = computed<Elsewhere | null>(() =>
    catalogue.value === null ? null : { of: (each) => ({ ...kept.get(withoutKey(each)), ...kept.get(keyOf(each)) }) },
  )
  return { elsewhere, waiting, total, stopped, start, stop }
}
