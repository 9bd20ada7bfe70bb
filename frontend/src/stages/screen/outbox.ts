// Decisions on their way: one after the other, kept in this browser until the server has them. While the network is
// gone they wait, and are sent when it is back.
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, reactive, ref, type Ref } from 'vue'
import { gone, type Schemas } from '@/api/client'

export type Sent = Schemas['Decision']
const AFTER = [2, 4, 8, 15] // seconds until it is tried again

/**
 * `post` sends one; `settled` is told how each ended, with what the server refused. What an earlier page left
 * unsent under `key` is sent first. `knock` asks the server for anything: whether it is back, where nothing waits.
 */
export function useOutbox(
  key: Ref<string>,
  post: (said: Sent) => Promise<unknown>,
  settled: (said: Sent, error?: unknown) => unknown,
  knock: () => Promise<unknown>,
) {
  const unsent = reactive<Sent[]>([])
  const away = ref(false)
  let line: Promise<unknown> = Promise.resolve()
  let tries = 0
  let soon: ReturnType<typeof setTimeout> | undefined
  let opened = ''

  function keep() {
    if (!opened) return
    try {
      if (unsent.length) localStorage.setItem(opened, JSON.stringify(unsent))
      else localStorage.removeItem(opened)
    } catch {
      // a browser that keeps nothing: closing the tab still warns
    }
  }

  /** Take up what was left unsent, once it is known whose it is. */
  function open() {
    if (!key.value || opened === key.value) return
    opened = key.value
    try {
      const held = JSON.parse(localStorage.getItem(opened) ?? '[]') as Sent[]
      unsent.unshift(...held.map((one) => ({ ...one, again: true })))
    } catch {
      localStorage.removeItem(opened)
    }
    if (unsent.length) void flush()
  }

  /** The server is not there: it is tried again after a while, less and less often. */
  function wait() {
    away.value = true
    clearTimeout(soon)
    soon = setTimeout(() => void flush(), 1000 * AFTER[Math.min(tries++, AFTER.length - 1)]!)
  }
  function there() {
    away.value = false
    tries = 0
  }

  async function sendAll() {
    if (away.value && !unsent.length)
      try {
        await knock()
        there()
      } catch (error) {
        if (gone(error)) wait()
        else there()
      }
    while (unsent.length) {
      const decision = unsent[0]!
      try {
        await post(decision)
      } catch (error) {
        if (gone(error)) {
          decision.again = true // the server may have it, and only its answer was lost
          keep()
          return wait()
        }
        there() // what refuses is there
        unsent.shift()
        keep()
        await settled(decision, error)
        continue
      }
      there()
      unsent.shift()
      keep()
      await settled(decision)
    }
  }
  const flush = () => (line = line.then(sendAll))

  /** Send a decision; it is kept until it has arrived. */
  function send(sent: Sent) {
    open()
    unsent.push(sent)
    keep()
    if (!away.value) void flush()
  }

  /** The last one that has not arrived and is not under way, taken out again. */
  function recall(): Sent | undefined {
    if (!away.value) return undefined
    const decision = unsent.pop()
    keep()
    return decision
  }

  useEventListener(window, 'online', () => void flush())
  useEventListener(window, 'beforeunload', (event: BeforeUnloadEvent) => {
    if (unsent.length) event.preventDefault()
  })
  onBeforeUnmount(() => clearTimeout(soon))
  return {
    unsent,
    away,
    waiting: computed(() => (away.value ? unsent.length : 0)),
    send,
    recall,
    open,
    wait,
    arrived: () => line,
  }
}
