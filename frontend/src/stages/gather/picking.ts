// Records that one stands on and has picked, in a list that is fetched as it is scrolled.
import { ref, type Ref } from 'vue'
import type { Schemas } from '@/api/client'

type Row = Schemas['Listed']
export interface List {
  at: (index: number) => Promise<Row | undefined>
}

export function usePicking(list: Ref<List | null>, total: Ref<number>) {
  const cursor = ref(-1)
  const picked = ref(new Set<number>())

  function pick(id: number) {
    const next = new Set(picked.value)
    if (!next.delete(id)) next.add(id)
    picked.value = next
  }
  const pickNone = () => (picked.value = new Set())
  /** Go up or down, picking what one comes to. */
  async function move(by: number, picking: boolean) {
    cursor.value = Math.min(total.value - 1, Math.max(0, cursor.value + by))
    if (picking)
      await here((one) => {
        if (!picked.value.has(one.id)) pick(one.id)
      })
  }
  /** Do something with the record that one stands on. */
  async function here(act: (row: Row) => unknown) {
    const row = cursor.value < 0 ? undefined : await list.value?.at(cursor.value)
    if (row) act(row)
  }
  /** Begin anew, as in another list. */
  function restart() {
    pickNone()
    cursor.value = -1
  }
  return { cursor, picked, pick, pickNone, move, here, restart }
}
