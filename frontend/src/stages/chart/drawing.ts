// What the cells of the evidence table show: what stands there, or what is proposed, on its way, or could not be saved.
import { computed, type Ref } from 'vue'
import type { Evidence } from './evidence'
import { keyOf, sureness, type Column, type Place, type Row } from './layout'

/** A column where it is drawn. */
export interface Shown {
  column: Column
  c: number
  left: number
  pin: boolean
}
interface Drawn {
  text: string
  kind: string
  title: string
  quoted: boolean
  model: string
}
/** A cell as it is drawn, and where. */
export type DrawnCell = Drawn & { at: Shown }
interface Table {
  rows: Row[]
  columns: Column[]
  evidence: Evidence
  proposed: Map<string, { text: string; confidence: number; model: string }>
}

/** As wide as a value of three figures with its n; in pixels. */
const WIDE = new Set(['mean_sd', 'median_range'])
export const widthIn = (widths: Record<string, number>, column: Column) =>
  widths[column.item.id!] ?? (WIDE.has(column.item.kind) ? 172 : 130)

const KINDS: Record<string, string> = { one: 'mine', differs: 'unlike' }
export const READ: Record<string, string> = {
  mine: 'Your reading; a second one is awaited',
  unlike: 'Your reading; the other one differs',
}
const NOTHING: Drawn = { text: '', kind: 'plain', title: '', quoted: false, model: '' }

/** The cells of a row as they are drawn: the same ones while nothing that they show has changed. */
export function useDrawing(table: Table, columns: Ref<Shown[]>, placeOf: (r: number, c: number) => Place | null) {
  function drawn(place: Place | null): Drawn {
    if (!place) return { ...NOTHING, kind: 'none' }
    const key = keyOf(place)
    const failed = table.evidence.wrong.get(key)
    if (failed) return { ...NOTHING, text: failed.text, kind: 'wrong', title: failed.message }
    const going = table.evidence.underway.get(key)
    if (going !== undefined) return { ...NOTHING, text: going }
    const value = table.evidence.value(place)
    if (value)
      return {
        text: value.shown ?? value.text,
        kind: value.unfit ? 'wrong' : KINDS[value.read] || (value.text.startsWith('not ') ? 'absent' : 'plain'),
        title: value.unfit ? `Does not fit its item: ${value.unfit}` : (READ[KINDS[value.read] ?? ''] ?? ''),
        quoted: value.quoted,
        model: value.model,
      }
    const one = table.proposed.get(key)
    if (!one) return NOTHING
    const title = `Proposed${one.model ? ` by ${one.model}` : ''}, ${sureness(one.confidence)} sure`
    return { text: one.text, kind: 'proposed', title, quoted: false, model: one.model }
  }
  interface DrawnRow {
    columns: Shown[]
    cells: DrawnCell[]
  }
  /** A row for the columns in sight; a cell that was drawn before at the same place is the same one. */
  function rowOf(r: number, before?: DrawnRow): DrawnRow {
    const drawnAt = new Map(before?.cells.map((one) => [one.at, one]))
    const cells = columns.value.map((at) => drawnAt.get(at) ?? { at, ...drawn(placeOf(r, at.c)) })
    return { columns: columns.value, cells }
  }
  const known = computed(() => {
    const { data, wrong, underway } = table.evidence
    void [data.value, [...wrong], [...underway], table.proposed, table.rows, table.columns]
    return new Map<number, DrawnRow>()
  })
  return (r: number) => {
    const before = known.value.get(r)
    if (before?.columns === columns.value) return before.cells
    const row = rowOf(r, before)
    known.value.set(r, row)
    return row.cells
  }
}
