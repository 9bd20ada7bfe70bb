// What lies on one's desk: the next records are handed out ahead of time, so that the one
// after a decision is on the screen before the decision has travelled.
import { computed, onBeforeUnmount, reactive, ref, watch, type Ref } from 'vue'
import { DELETE, GET, gone, got, POST, Refusal, type Schemas } from '@/api/client'
import { complain } from '@/common/messages'
import { useOutbox } from './outbox'

type Sheet = Schemas['Sheet']
export interface Decision {
  verdict: 'include' | 'exclude' | 'unsure'
  criterion?: number | null
}
const AHEAD = 4

export function useDesk(
  review: Ref<number>,
  pass: 1 | 2,
  query: Ref<Record<string, unknown>>,
  saved: () => void,
  account: Ref<number | undefined> = ref(0),
) {
  const waiting = reactive<Sheet[]>([])
  const shown = ref<Sheet | null>(null)
  const empty = ref(false)
  const travelling = reactive(new Set<number>())
  const decided = new Set<number>()
  const begun = new Set<number>() // what was on the screen and left undecided stays next, whatever the order
  let asking: Promise<void> | undefined
  let hungry = false
  let asked = 0
  let looked = 0

  const path = computed(() => ({ review: review.value }))
  const sheets = new Map<number, Sheet>() // of decisions that have not arrived
  const outbox = useOutbox(
    computed(() => (account.value === undefined ? '' : `kettle-unsent-${account.value}-${review.value}-${pass}`)),
    (said) => got(POST('/api/reviews/{review}/decisions', { params: { path: path.value }, body: said })),
    (said, error) => settled(said.record, error),
    () => takeAhead(),
  )
  watch(account, () => outbox.open(), { immediate: true })

  /** Ask for the closest undecided records; what lies here already is skipped unless the order is new. */
  async function handedOut(skipWaiting: boolean): Promise<Sheet[]> {
    const here = [
      ...(skipWaiting ? waiting.map((one) => one.id) : []),
      ...(shown.value ? [shown.value.id] : []),
      ...decided,
    ].slice(-400)
    const list = pass === 1 ? 'open' : 'second_open'
    const found = await got(
      POST('/api/reviews/{review}/desk', {
        params: { path: path.value, query: { ...query.value, list, pass_number: pass } },
        body: { skip: here, limit: AHEAD },
      }),
    )
    return found.filter((one) => one.id !== shown.value?.id && !decided.has(one.id))
  }

  function serve() {
    if (!hungry) return
    const sheet = waiting.shift()
    if (sheet) {
      hungry = false
      shown.value = sheet
    }
  }

  async function takeAhead() {
    const mine = asked
    const found = await handedOut(true)
    if (mine !== asked) return
    waiting.push(...found.filter((one) => !waiting.some((other) => other.id === one.id)))
    empty.value = !waiting.length
    serve()
  }
  const failed = (error: unknown) => (gone(error) ? outbox.wait() : complain(error))

  async function refill() {
    asking ??= takeAhead()
      .catch(failed)
      .finally(() => (asking = undefined))
    await asking
  }

  /** The order has been worked out anew: what comes next follows it, without a gap. */
  async function renew() {
    const mine = ++asked
    try {
      const found = await handedOut(false)
      if (mine !== asked) return
      const first = waiting.filter((one) => begun.has(one.id))
      waiting.splice(0, waiting.length, ...first, ...found.filter((one) => !begun.has(one.id)))
      empty.value = !waiting.length
      serve()
      if (shown.value && !shown.value.learned_from) await again() // the first order that is more than that of import
    } catch (error) {
      failed(error)
    }
  }

  /** Put the next undecided record on the screen. */
  async function next() {
    shown.value = null
    hungry = true
    serve()
    if (hungry || waiting.length < AHEAD - 1) await refill()
    if (hungry && !empty.value) await refill()
    return shown.value
  }

  /** Begin anew, as after a change of filter. */
  async function restart() {
    asked++
    asking = undefined
    waiting.splice(0)
    decided.clear()
    begun.clear()
    return next()
  }

  async function fetchSheet(record: number): Promise<Sheet> {
    return got(
      GET('/api/reviews/{review}/records/{record}', {
        params: { path: { ...path.value, record }, query: { pass_number: pass, order: query.value.order as number } },
      }),
    )
  }

  /** Look at one record, decided or not. */
  async function show(record: number) {
    if (shown.value?.id === record) return
    const at = waiting.findIndex((one) => one.id === record)
    const mine = ++looked
    try {
      const sheet = at >= 0 ? waiting.splice(at, 1)[0]! : await fetchSheet(record)
      if (mine !== looked) return
      if (shown.value && !decided.has(shown.value.id) && isOpen(shown.value)) putBack(shown.value)
      hungry = false
      shown.value = sheet
    } catch (error) {
      complain(error)
      if (!shown.value) await next()
    }
  }
  function putBack(sheet: Sheet) {
    begun.add(sheet.id)
    waiting.unshift(sheet)
  }
  const isOpen = (sheet: Sheet) =>
    !(sheet.blind && sheet.mine) && ['open', 'unsure'].includes(pass === 1 ? sheet.first : sheet.second)

  /** Decide on the record that is shown; the decision travels while the next is read already. */
  function decide(said: Decision) {
    const sheet = shown.value
    if (!sheet) return
    decided.add(sheet.id)
    travelling.add(sheet.id)
    void next()
    sheets.set(sheet.id, sheet)
    outbox.send({
      record: sheet.id,
      pass_number: pass,
      verdict: said.verdict,
      criterion: said.criterion ?? null,
      seen: pass === 1 ? sheet.first : sheet.second,
      again: false,
    })
  }

  /** A decision has arrived, or was refused. */
  async function settled(record: number, error?: unknown) {
    travelling.delete(record)
    sheets.delete(record)
    if (error !== undefined) {
      decided.delete(record)
      complain(error)
      if (error instanceof Refusal && error.status === 409) await show(record) // with what was decided meanwhile
    } else if (hungry) void refill()
    saved()
  }

  /** Take the last decision back, or that on a record, and show it again; one that waits still, without the network. */
  async function takeBack(one?: number) {
    const waitsStill = one === undefined ? outbox.recall() : undefined
    const held = waitsStill && sheets.get(waitsStill.record)
    if (waitsStill && held) {
      decided.delete(held.id)
      travelling.delete(held.id)
      if (shown.value) putBack(shown.value)
      hungry = false
      shown.value = held
      return
    }
    await outbox.arrived()
    const { record } = await got(
      POST('/api/reviews/{review}/decisions/take-back', {
        params: { path: path.value },
        body: { pass_number: pass, record: one ?? null },
      }),
    )
    decided.delete(record)
    const sheet = await fetchSheet(record)
    if (shown.value && shown.value.id !== record) putBack(shown.value)
    hungry = false
    shown.value = sheet
    saved()
  }

  /** Look again at what is shown, unless it was decided on meanwhile. */
  async function again() {
    const record = shown.value?.id
    if (!record) return
    const sheet = await fetchSheet(record)
    if (shown.value?.id === record) shown.value = sheet
  }

  onBeforeUnmount(
    () =>
      void outbox
        .arrived()
        .then(() => got(DELETE('/api/reviews/{review}/desk', { params: { path: path.value } })).catch(() => undefined)),
  )
  return {
    shown,
    waiting,
    empty,
    travelling,
    away: outbox.away,
    unsent: outbox.waiting,
    next,
    restart,
    show,
    decide,
    takeBack,
    again,
    renew,
  }
}
