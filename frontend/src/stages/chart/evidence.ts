// The evidence table's data: fetched once, then only what was written since; and writing, with undo and redo.
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { GET, got, POST, PUT, type Schemas } from '@/api/client'
import { choose } from '@/common/late'
import { complain, say, unsay } from '@/common/messages'
import { useRefresh, useReview } from '@/common/review'
import { keyOf, nameOf, type Item, type Level, type Place, type Study, type Value } from './layout'

export type Cell = Schemas['Cell']
export interface Held {
  items: Item[]
  levels: Level[]
  studies: Study[]
  values: Map<string, Value>
  upto: number
}
/** What is said of a stroke is said in place of what was said of the one before. */
const STROKE = 'stroke'
/** What was written in one go: what stood there before, and what stands there since. */
interface Stroke {
  cells: Cell[]
  before: Cell[]
  after: Map<string, string>
}
const shapeOf = (study: { items: Item[]; levels: Level[]; studies: Study[] }) =>
  JSON.stringify([
    study.items.map((one) => one.id),
    study.levels.map((one) => one.id),
    study.studies.map((one) => one.id),
  ])

/** What is held with what was written since. */
export function brought(held: Held | undefined, table: Schemas['EvidenceTable']): Held {
  const values = new Map(held?.values)
  const { study, item, arm, outcome, time, text, shown, number, quoted, how, model, unfit, read } = table.values
  for (let k = 0; k < study.length; k++) {
    const value: Value = {
      study: study[k]!,
      item: item[k]!,
      arm: arm[k],
      outcome: outcome[k],
      time: time[k],
      text: text[k]!,
      shown: shown[k] ?? null,
      number: number[k] ?? null,
      quoted: quoted[k]!,
      how: how[k]!,
      model: model[k]!,
      unfit: unfit[k]!,
      read: read[k]!,
    }
    if (value.text) values.set(keyOf(value), value)
    else values.delete(keyOf(value))
  }
  return { items: table.codebook.items, levels: table.levels, studies: table.studies, values, upto: table.upto }
}

export function useEvidence() {
  const { review, path, mayWrite } = useReview()
  const client = useQueryClient()
  const refresh = useRefresh()
  const ask = (since: number) =>
    got(GET('/api/reviews/{review}/evidence', { params: { ...path.value, query: { since } } }))
  const query = useQuery({
    queryKey: ['evidence', review],
    structuralSharing: false,
    shallow: true, // fifty thousand values need no watcher each
    queryFn: async () => {
      const held = client.getQueryData<Held>(['evidence', review.value])
      if (held) {
        const more = brought(held, await ask(held.upto))
        if (shapeOf(more) === shapeOf(held)) return more
      }
      return brought(undefined, await ask(0)) // other items, arms or studies: their earlier values are wanted too
    },
  })
  const data = computed(() => query.data.value)
  const value = (place: Place | null) => (place ? data.value?.values.get(keyOf(place)) : undefined)
  const text = (place: Place | null) => value(place)?.text ?? ''

  /** What was typed and could not be taken, by cell. */
  const wrong = reactive(new Map<string, { text: string; message: string }>())
  /** What is on its way to the server, shown at once. */
  const underway = reactive(new Map<string, string>())
  const strokes = ref<Stroke[]>([])
  const undone = ref<Stroke[]>([])
  watch(review, () => ((strokes.value = []), (undone.value = [])))

  const name = (place: Place) =>
    `${data.value?.studies.find((study) => study.id === place.study)?.label}: ${nameOf(place, data.value?.items ?? [], data.value?.levels ?? [])}`

  const send = (cells: Cell[]) => got(PUT('/api/reviews/{review}/evidence/values', { params: path.value, body: cells }))
  /** Write cells; what does not fit stays marked, what a colleague changed meanwhile is asked. */
  async function write(cells: Cell[], as: 'new' | 'undo' | 'redo' = 'new', sent = send) {
    if (!cells.length || !mayWrite.value) return
    const stroke: Stroke = { cells, before: await stood(cells), after: new Map() }
    for (const cell of cells) underway.set(keyOf(cell), cell.text)
    try {
      const refused = await sent(cells)
      for (const cell of cells) wrong.delete(keyOf(cell))
      told(refused, cells)
      if (as === 'new' && refused.length < cells.length) {
        strokes.value.push(stroke)
        undone.value = []
      }
      unsay(STROKE)
      if (cells.length > 1 && !refused.length) saidOf(cells.length, as)
    } catch (failure) {
      for (const cell of cells) wrong.set(keyOf(cell), { text: cell.text, message: 'Not saved' })
      complain(failure)
    }
    await refresh('evidence', 'figures', 'cell', 'proposals')
    for (const cell of cells) {
      underway.delete(keyOf(cell))
      stroke.after.set(keyOf(cell), text(cell))
    }
  }
  /** Write a cell as it is worked out from other numbers, which stay with it. */
  async function workOut(place: Place, text: string, source: Schemas['WorkedOutFrom']) {
    const body = { ...placeOf(place), source }
    const before = strokes.value.length
    await write([{ ...placeOf(place), text, how: 'typed', back: true }], 'new', () =>
      got(PUT('/api/reviews/{review}/evidence/derived', { params: path.value, body })),
    )
    if (strokes.value.length > before)
      say('The value is worked out, and keeps what it was worked out from.', undo, STROKE)
  }
  /** Only the last stroke can be undone, so that what is said of an earlier one goes. */
  function saidOf(count: number, as: 'new' | 'undo' | 'redo') {
    if (as === 'undo') say(`${count} values as they were.`, undefined, STROKE)
    else say(`${count} values written${as === 'redo' ? ' again' : ''}.`, undo, STROKE)
  }
  /** What stands in some cells; with its quote, where one is about to be written. */
  async function stood(cells: Cell[]): Promise<Cell[]> {
    const [only] = cells
    const quoted = cells.length === 1 && only!.quote !== undefined
    const own = quoted && Boolean(value(only!)?.read)
    const last = quoted ? (await history(only!)).find((one) => one.own === own) : undefined
    return cells.map((cell) => ({
      ...placeOf(cell),
      text: text(cell),
      how: 'typed' as const,
      back: true,
      ...(quoted ? { quote: last?.quote ?? '', page: last?.page ?? '', record: last?.record } : {}),
    }))
  }
  const history = (one: Place) =>
    got(
      GET('/api/reviews/{review}/evidence/values/{study}/{item}', {
        params: {
          path: { ...path.value.path, study: one.study, item: one.item },
          query: { arm: one.arm, outcome: one.outcome, time: one.time },
        },
      }),
    )
  function told(refused: Schemas['NotTaken'][], cells: Cell[]) {
    const overtaken = refused.filter((each) => each.theirs !== null && each.theirs !== undefined)
    const unfit = refused.filter((each) => !overtaken.includes(each))
    for (const each of unfit)
      wrong.set(keyOf(each), {
        text: cells.find((other) => keyOf(other) === keyOf(each as Place))!.text,
        message: each.message,
      })
    if (overtaken.length) asked(overtaken, cells)
    if (unfit.length)
      say(
        unfit.length === 1
          ? unfit[0]!.message
          : `${unfit.length} values do not fit their item; they are marked and not saved.`,
      )
  }
  /** Cells that somebody else changed while these were typed: both are shown, and one is chosen. */
  function asked(overtaken: Schemas['NotTaken'][], cells: Cell[]) {
    const keys = new Map(overtaken.map((each) => [keyOf(each as Place), each]))
    const mine = cells.filter((cell) => keys.has(keyOf(cell)))
    const theirs = (cell: Cell) => keys.get(keyOf(cell))!.theirs!
    choose(
      overtaken.length === 1 ? overtaken[0]!.message : `${overtaken.length} cells were changed by others meanwhile.`,
      mine.map((each) => ({ what: name(each), theirs: theirs(each) || 'empty', yours: each.text || 'empty' })),
      () => write(mine.map((each) => ({ ...each, seen: theirs(each) }))),
      () => undefined,
    )
  }
  /** Which of some cells would not fit. */
  const fitting = (cells: Cell[]) =>
    got(POST('/api/reviews/{review}/evidence/fitting', { params: path.value, body: cells }))

  async function undo() {
    const last = strokes.value.pop()
    if (!last) return say('Nothing of yours is left to undo here.')
    undone.value.push(last)
    await write(
      last.before.map((each) => ({ ...each, seen: last.after.get(keyOf(each)) })),
      'undo',
    )
  }
  async function redo() {
    const last = undone.value.pop()
    if (!last) return say('Nothing is left to do again.')
    strokes.value.push(last)
    await write(last.cells, 'redo')
  }
  return { query, data, value, text, name, wrong, underway, write, workOut, history, fitting, undo, redo }
}
export type Evidence = ReturnType<typeof useEvidence>

export const placeOf = (place: Place): Place => ({
  study: place.study,
  item: place.item,
  ...(place.arm ? { arm: place.arm } : {}),
  ...(place.outcome ? { outcome: place.outcome } : {}),
  ...(place.time ? { time: place.time } : {}),
})
