// What lies on one's desk: the next records are handed out ahead of time, so that the one
// after a decision is on the screen before the decision has travelled.
import { computed, onBeforeUnmount, reactive, ref, type Ref } from 'vue'
import { DELETE, GET, got, POST, type Schemas } from '@/api/client'
import { complain } from '@/common/messages'

type Sheet = Schemas['Sheet']
export interface Decision {
  verdict: 'include' | 'exclude' | 'unsure'
  criterion?: number | null
}
const AHEAD = 4

export function useDesk(review: Ref<number>, pass: 1 | 2, query: Ref<Record<string, unknown>>, saved: () => void) {
  const waiting = reactive<Sheet[]>([])
  const shown = ref<Sheet | null>(null)
  const empty = ref(false)
  const travelling = reactive(new Set<number>())
  const decided = new Set<number>()
  let asking: Promise<void> | undefined
  let line: Promise<unknown> = Promise.resolve()
  let generation = 0

  const path = computed(() => ({ review: review.value }))

  async function refill() {
    asking ??= (async () => {
      const mine = generation
      try {
        const skip = [...waiting.map((it) => it.id), ...(shown.value ? [shown.value.id] : []), ...decided].slice(-400)
        const body = { skip, limit: AHEAD }
        const list = pass === 1 ? 'open' : 'second_open'
        const found = await got(POST('/api/reviews/{review}/desk', { params: { path: path.value, query: { ...query.value, list, pass_number: pass } }, body }))
        if (mine !== generation) return
        for (const it of found) if (!waiting.some((other) => other.id === it.id) && it.id !== shown.value?.id) waiting.push(it)
        empty.value = !waiting.length && !found.length
      } catch (error) {
        complain(error)
      } finally {
        asking = undefined
      }
    })()
    await asking
  }

  /** Put the next undecided record on the screen. */
  async function next() {
    if (!waiting.length) await refill()
    shown.value = waiting.shift() ?? null
    if (waiting.length < AHEAD - 1) void refill()
    return shown.value
  }

  /** Begin anew, as after a change of filter. */
  async function restart() {
    generation++
    asking = undefined
    waiting.splice(0)
    decided.clear()
    shown.value = null
    return next()
  }

  async function fetchSheet(record: number): Promise<Sheet> {
    return got(GET('/api/reviews/{review}/records/{record}', { params: { path: { ...path.value, record }, query: { pass_number: pass } } }))
  }

  /** Look at one record, decided or not. */
  async function show(record: number) {
    if (shown.value?.id === record) return
    const at = waiting.findIndex((it) => it.id === record)
    const mine = ++generation
    try {
      const it = at >= 0 ? waiting.splice(at, 1)[0]! : await fetchSheet(record)
      if (mine !== generation) return
      if (shown.value && !decided.has(shown.value.id) && isOpen(shown.value)) waiting.unshift(shown.value)
      shown.value = it
    } catch (error) {
      complain(error)
      if (!shown.value) await next()
    }
  }
  const isOpen = (it: Sheet) => ['open', 'unsure'].includes(pass === 1 ? it.first : it.second)

  /** Decide on the record that is shown; the decision travels while the next is read already. */
  function decide(said: Decision) {
    const it = shown.value
    if (!it) return
    decided.add(it.id)
    travelling.add(it.id)
    shown.value = waiting.shift() ?? null
    line = line.then(async () => {
      try {
        await got(POST('/api/reviews/{review}/decisions', { params: { path: path.value }, body: { record: it.id, pass_number: pass, verdict: said.verdict, criterion: said.criterion ?? null } }))
      } catch (error) {
        decided.delete(it.id)
        complain(error)
      } finally {
        travelling.delete(it.id)
        saved()
      }
    })
    if (!shown.value) void next()
    else if (waiting.length < AHEAD - 1) void refill()
  }

  /** Take the last decision back, and show its record again. */
  async function takeBack() {
    await line
    const { record } = await got(POST('/api/reviews/{review}/decisions/take-back', { params: { path: path.value }, body: { pass_number: pass } }))
    decided.delete(record)
    const it = await fetchSheet(record)
    if (shown.value && shown.value.id !== record) waiting.unshift(shown.value)
    shown.value = it
    saved()
  }

  /** The order has been worked out anew: what is handed out next follows it. */
  async function renew() {
    if (shown.value && !shown.value.rank) await again()
    generation++
    asking = undefined
    waiting.splice(0)
    await refill()
  }

  async function again() {
    if (shown.value) shown.value = await fetchSheet(shown.value.id)
  }

  onBeforeUnmount(() => void line.then(() => got(DELETE('/api/reviews/{review}/desk', { params: { path: path.value } })).catch(() => undefined)))
  return { shown, waiting, empty, travelling, next, restart, show, decide, takeBack, again, renew }
}
