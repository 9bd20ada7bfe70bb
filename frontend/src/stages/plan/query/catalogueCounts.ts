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

  const keyOf = (it: Branch) => `${catalogue.value}\u0000${it.query}`
  const withoutKey = (it: Branch) => `${catalogue.value}\u0000${text.value}\u0000${it.path.join('.')}`
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
    for (const it of wanted) if (kept.get(keyOf(it))?.hits === undefined) jobs.push(() => countOne(it))
    for (const it of wanted)
      if (it.path.length && it.without_hits !== null && kept.get(withoutKey(it))?.without === undefined)
        jobs.push(() => countWithout(it))
    waiting.value = total.value = jobs.length
    async function work() {
      while (jobs.length && mine === turn) {
        await jobs.shift()!()
        if (mine === turn) waiting.value--
      }
    }
    await Promise.all(Array.from({ length: AT_ONCE }, work))
  }
  async function countOne(it: Branch) {
    const key = keyOf(it)
    try {
      const { hits, seeds, asked, understood } = await ask({ text: it.query })
      kept.set(key, { hits, seeds, asked, understood })
    } catch (error) {
      kept.set(key, { problem: error instanceof Refusal ? error.message : 'The catalogue could not be asked.' })
    }
  }
  async function countWithout(it: Branch) {
    const key = withoutKey(it)
    try {
      const { hits, seeds } = await ask({ text: text.value, without: it.path })
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
    catalogue.value === null ? null : { of: (it) => ({ ...kept.get(withoutKey(it)), ...kept.get(keyOf(it)) }) },
  )
  return { elsewhere, waiting, total, stopped, start, stop }
}
