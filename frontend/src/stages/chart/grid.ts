// A grid's selection and what the keys and the clipboard of a spreadsheet do to it.
import { computed, reactive, type Ref } from 'vue'

export interface Spot {
  row: number
  column: number
}

/** Text between quotes may hold tabs and line breaks, as spreadsheets put it on the clipboard. */
export function cellsOf(clipboard: string): string[][] {
  const rows: string[][] = [[]]
  let cell = ''
  let quoted = false
  const text = clipboard.replace(/\r\n?/g, '\n').replace(/\n$/, '')
  for (let k = 0; k < text.length; k++) {
    const c = text[k]!
    if (quoted) {
      if (c === '"' && text[k + 1] === '"') {
        cell += '"'
        k++
      } else if (c === '"') quoted = false
      else cell += c
    } else if (c === '"' && cell === '') quoted = true
    else if (c === '\t') {
      rows.at(-1)!.push(cell)
      cell = ''
    } else if (c === '\n') {
      rows.at(-1)!.push(cell)
      rows.push([])
      cell = ''
    } else cell += c
  }
  rows.at(-1)!.push(cell)
  return rows
}

export function asClipboard(rows: string[][]): string {
  const shown = (cell: string) => (/["\t\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell)
  return rows.map((row) => row.map(shown).join('\t')).join('\n')
}

export type Selection = ReturnType<typeof useSelection>
export function useSelection(rows: Ref<number>, columns: Ref<number>) {
  const at = reactive<Spot>({ row: 0, column: 0 })
  const anchor = reactive<Spot>({ row: 0, column: 0 })
  const within = (n: number, most: number) => Math.max(0, Math.min(n, most - 1))

  function go(row: number, column: number, extend = false) {
    at.row = within(row, rows.value)
    at.column = within(column, columns.value)
    if (!extend) Object.assign(anchor, at)
  }
  const range = computed(() => ({
    top: Math.min(at.row, anchor.row),
    bottom: Math.max(at.row, anchor.row),
    left: Math.min(at.column, anchor.column),
    right: Math.max(at.column, anchor.column),
  }))
  const holds = (row: number, column: number) =>
    row >= range.value.top && row <= range.value.bottom && column >= range.value.left && column <= range.value.right

  /** Move by a key; false when the key is none that moves. */
  function moved(event: KeyboardEvent): boolean {
    const far = event.ctrlKey || event.metaKey
    const steps: Record<string, [number, number]> = {
      ArrowUp: [far ? -1e6 : -1, 0],
      ArrowDown: [far ? 1e6 : 1, 0],
      ArrowLeft: [0, far ? -1e6 : -1],
      ArrowRight: [0, far ? 1e6 : 1],
      PageUp: [-15, 0],
      PageDown: [15, 0],
    }
    const step = steps[event.key]
    if (step) go(at.row + step[0], at.column + step[1], event.shiftKey)
    else if (event.key === 'Home') go(far ? 0 : at.row, 0, event.shiftKey)
    else if (event.key === 'End') go(far ? 1e6 : at.row, 1e6, event.shiftKey)
    else if (event.key === 'Tab') {
      const to = at.column + (event.shiftKey ? -1 : 1)
      if (to < 0 || to >= columns.value) return false
      go(at.row, to)
    } else return false
    return true
  }
  return { at, range, holds, go, moved }
}
